import type { BlendSurface, Shading, SlotLists } from '../blend';
import type { Builder, DagNode, ImageChannel, StepGroup, ValueType, Values } from '../compile';
import type { BlendDocument, MasterDocument, MasterOperation } from '../document';

/** All of a surface at a place. */
export interface SurfaceValue {
  surface: Shading;
}
export type GraphValue = DagNode | SurfaceValue;
export const isSurface = (value: GraphValue): value is SurfaceValue => 'surface' in value;

/** `any` takes numbers and vectors, `either` those and surfaces, `map` a parameter that holds a map. */
export type PortType = ValueType | 'any' | 'surface' | 'either' | 'map';

export interface StepInput {
  name: string;
  type: PortType;
  /** What it is while nothing feeds it: numbers (one goes with every component), or a leaf of the place by its name. */
  initial: readonly number[] | string;
  /** How it is shown and turned: as a colour, a whole number, or within bounds that are usual. */
  colour?: true;
  whole?: true;
  low?: number;
  high?: number;
  unit?: string;
}
export interface StepOutput {
  name: string;
  /** `any` where it depends on what comes in. */
  type: PortType;
}
/** Something that is fixed when a graph is compiled. */
export interface StepSetting {
  name: string;
  label: string;
  kind: 'choice' | 'surface' | 'role' | 'blend' | 'switch' | 'text' | 'swizzle';
  choices?: readonly (string | number)[];
  initial: string | number;
}

/** What a graph knows of the project. */
export interface GraphContext {
  surfaces: Readonly<Record<string, BlendSurface>>;
  blends: Readonly<Record<string, BlendDocument>>;
}

/** Why a step cannot be worked out: where, and what to do. */
export class GraphError extends Error {
  constructor(
    readonly code:
      'unknown-step' | 'unknown-port' | 'missing-link' | 'type-mismatch' | 'cycle' | 'missing-input' | 'formula' | 'missing-blend' | 'too-many',
    message: string,
    readonly operation: string,
    readonly port?: string,
    /** Where in a formula. */
    readonly at?: { from: number; to: number },
  ) {
    super(message);
    this.name = 'GraphError';
  }
}

/** Numbers by name, from a document of the same shape as the one that was lowered. */
export type ValueReader = (document: MasterDocument, context: GraphContext, known: Values) => Values;

/** Something that is not as it was meant, though the graph goes on. */
export interface GraphNote {
  operation: string;
  code: 'missing-map' | 'missing-surface';
  message: string;
}

/** Where a step is lowered, and with what. */
export interface StepSite {
  b: Builder;
  id: string;
  operation: MasterOperation;
  document: MasterDocument;
  context: GraphContext;
  /** Read mip levels. */
  far: boolean;
  lists: SlotLists;
  /** Prefix of values of its own. */
  prefix: string;
  /** What feeds an input, numbers being spread over a vector where the port takes one. @throws GraphError */
  input(port: string): DagNode;
  surface(port: string): SurfaceValue;
  either(port: string): GraphValue;
  /** Whether something feeds an input. */
  fed(port: string): boolean;
  setting(name: string): string | number;
  /** A number of its own that may change without compiling. */
  value(name: string, type: ValueType, read: ValueReader): DagNode;
  /** Numbers that something within it asks for by names that begin with the prefix. */
  read(reader: ValueReader): void;
  /** Mip level that a coordinate asks for. */
  level(uv: DagNode, slot: number, channel: ImageChannel): DagNode;
  note(code: GraphNote['code'], message: string): void;
  fail(code: GraphError['code'], message: string, port?: string, at?: GraphError['at']): never;
}

/** A kind of step: all that graphs, lists, help and search know of it. */
export interface GraphStep {
  /** MaterialX or GLSL name, else our own. */
  name: string;
  group: StepGroup;
  help: string;
  words: string;
  materialx: string;
  inputs(operation: Pick<MasterOperation, 'settings' | 'inputs'>): readonly StepInput[];
  outputs(operation: Pick<MasterOperation, 'settings'>): readonly StepOutput[];
  settings: readonly StepSetting[];
  /** @throws GraphError */
  lower(site: StepSite): Record<string, GraphValue>;
  /** Text that is equal for two operations, in their context, exactly when they are lowered alike, settings aside. */
  shape?(operation: MasterOperation, document: MasterDocument, context: GraphContext): string;
  /** Inputs that only decide something within what another input holds. */
  thresholds?: Readonly<Record<string, string>>;
  /** The input that is handed on when it is bypassed, by output; the first that fits where it does not say. */
  through?: string;
}

const kinds = new Map<string, GraphStep>();

/** Adds kinds of steps, refusing any that is incomplete or taken. */
export function registerSteps(...list: readonly GraphStep[]): void {
  for (const kind of list) {
    if (kinds.has(kind.name)) throw new Error(`Step ${kind.name} is registered twice`);
    for (const need of ['group', 'help', 'words', 'materialx'] as const) if (!kind[need]) throw new Error(`Step ${kind.name} lacks its ${need}`);
    kinds.set(kind.name, kind);
  }
}
export const stepKinds = (): readonly GraphStep[] => [...kinds.values()];
export const isStep = (name: string): boolean => kinds.has(name);
/** @throws GraphError `unknown-step` */
export function stepKind(name: string, operation = ''): GraphStep {
  const kind = kinds.get(name);
  if (!kind) throw new GraphError('unknown-step', `There is no operation called ${name}. Replace it by another`, operation);
  return kind;
}
