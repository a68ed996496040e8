import type { BlendSurface, Shading, SlotLists } from '../blend';
import type { Builder, DagNode, ImageChannel, StepGroup, ValueType, Values } from '../compile';
import type { BlendDocument, MasterDocument, MasterOperation, Source } from '../document';

/** All of a surface at a place. */
export interface SurfaceValue {
  surface: Shading;
}
export type GraphValue = DagNode | SurfaceValue;
export const isSurface = (value: GraphValue): value is SurfaceValue => 'surface' in value;

/** Everything that a value is made of. */
export const valueParts = (value: GraphValue): DagNode[] =>
  isSurface(value) ? [...Object.values(value.surface.channels), value.surface.specular, value.surface.spread] : [value];

/** `any` takes numbers and vectors, `either` those and surfaces, `map` a parameter that holds a map. */
export type PortType = ValueType | 'any' | 'surface' | 'either' | 'map';

export interface StepInput {
  name: string;
  type: PortType;
  /** What it is called, where its name is only a key. */
  label?: string;
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
  label?: string;
}
/** Something that is fixed when a graph is compiled. */
export interface StepSetting {
  name: string;
  label: string;
  kind: 'choice' | 'count' | 'surface' | 'role' | 'blend' | 'master' | 'switch' | 'text' | 'swizzle';
  choices?: readonly (string | number)[];
  initial: string | number;
  /** Bounds of a count, and why there are no more. */
  low?: number;
  high?: number;
  most?: string;
}

/** What a graph knows of the project. */
export interface GraphContext {
  surfaces: Readonly<Record<string, BlendSurface>>;
  blends: Readonly<Record<string, BlendDocument>>;
  /** Masters that may be used as operations of others. */
  masters: Readonly<Record<string, MasterDocument>>;
}
/** A project in which there is nothing. */
export const NO_CONTEXT: GraphContext = { surfaces: {}, blends: {}, masters: {} };

/** Why a step cannot be worked out: where, and what to do. */
export class GraphError extends Error {
  constructor(
    readonly code:
      | 'unknown-step'
      | 'unknown-port'
      | 'missing-link'
      | 'type-mismatch'
      | 'cycle'
      | 'missing-input'
      | 'formula'
      | 'missing-blend'
      | 'missing-master'
      | 'too-many',
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
  code: 'missing-map' | 'missing-surface' | 'missing-place' | 'unused';
  message: string;
}

/** A master while it is lowered. */
export interface Lowering {
  readonly b: Builder;
  /** Works out all that sources need, each before what it feeds. @throws GraphError where there is too much of it */
  ahead(from: readonly Source[]): void;
  /** What a source gives. @param at who asks, for messages; @throws GraphError */
  source(source: Source, at: { operation: string; port: string }, input?: StepInput): GraphValue;
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
  /** Both sides of switches count, and numbers of its own are what they are: for looking for what can be left out. */
  all: boolean;
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
  /** A setting that counts something. @throws GraphError `too-many` where it is out of its bounds */
  count(name: string): number;
  /** Seconds since the loop began. */
  time(): DagNode;
  /** A number of its own that may change without compiling. */
  value(name: string, type: ValueType, read: ValueReader): DagNode;
  /** The number that an input has while nothing else feeds it, where that may change elsewhere. */
  number(port: string, type: ValueType, initial: (context: GraphContext) => readonly number[]): DagNode;
  /**
   * Another master within it.
   * @param now the same as it is when values are read
   * @param feeds what stands in for a parameter of it
   */
  within(
    master: MasterDocument,
    now: (document: MasterDocument, context: GraphContext) => MasterDocument | null,
    feeds: (parameter: string) => GraphValue | null,
  ): Lowering;
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
  inputs(operation: Pick<MasterOperation, 'settings' | 'inputs'>, context: GraphContext): readonly StepInput[];
  outputs(operation: Pick<MasterOperation, 'settings'>, context: GraphContext): readonly StepOutput[];
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

/** Inputs and outputs of an operation; none where its step is not known. */
export const inputsOf = (op: MasterOperation | undefined, context: GraphContext): readonly StepInput[] =>
  op && isStep(op.step) ? stepKind(op.step).inputs(op, context) : [];
export const outputsOf = (op: MasterOperation | undefined, context: GraphContext): readonly StepOutput[] =>
  op && isStep(op.step) ? stepKind(op.step).outputs(op, context) : [];
