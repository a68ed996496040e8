export type ValueType = 'float' | 'vec2' | 'vec3' | 'vec4';
export const COMPONENTS: Record<ValueType, number> = { float: 1, vec2: 2, vec3: 3, vec4: 4 };
export const typeOf = (components: number): ValueType => (['float', 'vec2', 'vec3', 'vec4'] as const)[components - 1];

/** Closed interval that holds every component of a value. */
export interface Interval {
  readonly lo: number;
  readonly hi: number;
}
export const ANY: Interval = { lo: -Infinity, hi: Infinity };
export const UNIT: Interval = { lo: 0, hi: 1 };

export type Attribute = string | number | readonly number[];
export type Attributes = Readonly<Record<string, Attribute>>;

/** One operation applied to others. Immutable and unique in its builder: equal nodes are the same object. */
export interface DagNode {
  readonly id: number;
  readonly op: string;
  readonly type: ValueType;
  readonly args: readonly DagNode[];
  readonly attrs: Attributes;
  readonly range: Interval;
}

/** A mistake in what was to be compiled. `operation` and `port` say where. */
export class CompileError extends Error {
  constructor(
    readonly code: 'unknown-operation' | 'wrong-arity' | 'type-mismatch' | 'missing-source' | 'too-many-units' | 'too-many-nodes',
    message: string,
    readonly operation: string,
    readonly port?: string,
  ) {
    super(message);
    this.name = 'CompileError';
  }
}

/** What makes nodes of nodes, as far as rules of derivatives want it. */
export interface Algebra {
  node(op: string, args?: readonly DagNode[], attrs?: Attributes): DagNode;
  constant(...value: number[]): DagNode;
  zero(type: ValueType): DagNode;
  add(a: DagNode, b: DagNode): DagNode;
  subtract(a: DagNode, b: DagNode): DagNode;
  multiply(a: DagNode, b: DagNode): DagNode;
  divide(a: DagNode, b: DagNode): DagNode;
  mix(a: DagNode, b: DagNode, t: DagNode): DagNode;
  combine(...args: DagNode[]): DagNode;
  extract(a: DagNode, index: number): DagNode;
}
