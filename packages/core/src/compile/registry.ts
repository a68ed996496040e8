import type { LaneDefinition } from './lanes';
import type { Kernel } from './tile';
import type { Algebra, Attributes, DagNode, Interval, ValueType } from './types';
import { CompileError } from './types';

export interface Port {
  name: string;
  /** `any` takes every type; operations on components give the widest of their inputs, floats being spread. */
  type: ValueType | 'any';
}

/** Work of one application, in the units of the price: see cost. */
export interface OperationPrice {
  /** Arithmetic per pixel, multiplied by the components of the result when `perComponent`; `counted` as its lanes run. */
  alu: number | 'counted';
  perComponent?: boolean;
}

/** How a derivative passes through: `zero` (piecewise constant or not differentiable here), or built from the inputs'. */
export type DerivativeRule = 'zero' | ((b: Algebra, node: DagNode, d: (port: number) => DagNode) => DagNode);

/** What operations are found under in graphs. */
export const STEP_GROUPS = [
  'arithmetic',
  'vectors',
  'channels',
  'geometry',
  'images',
  'procedural',
  'normals',
  'effects',
  'conditions',
  'surfaces',
] as const;
export type StepGroup = (typeof STEP_GROUPS)[number];

/** How an operation stands in graphs that people build. */
export interface GraphUse {
  group: StepGroup;
  /** What it is looked for by, beside its name: other names and purposes, with commas. */
  words: string;
  /** What an input is while nothing feeds it, one a port: numbers (one goes with every component), or another leaf by its name. */
  defaults: readonly (readonly number[] | string)[];
  /** Inputs that only decide something within what another input holds, by their names. */
  thresholds?: Readonly<Record<string, string>>;
  /** Attributes that people choose, the first choice being the usual one. */
  settings?: readonly { name: string; choices: readonly (string | number)[] }[];
}

export interface Operation {
  /** MaterialX or GLSL name, else our own. */
  name: string;
  help: string;
  /** MaterialX node category; own ones become a nodedef with this name. */
  materialx: string;
  inputs: readonly Port[];
  result: (types: readonly ValueType[], attrs: Attributes) => ValueType;
  /** GLSL expression from argument expressions; made from the lanes where it is left out. */
  glsl?: (args: readonly string[], node: DagNode) => string;
  /** The same for live shaders, where the hardware's own functions are quicker and near enough: within 2/255 of what is seen. */
  live?: (args: readonly string[], node: DagNode) => string;
  /** GLSL functions that the expression calls; the same text is emitted once. */
  functions?: readonly string[];
  /** How the processor works it out: in lanes, or, where it must look things up, by a loop of its own. */
  lanes?: LaneDefinition;
  kernel?: Kernel;
  price: OperationPrice;
  range: (ranges: readonly Interval[], node: DagNode) => Interval;
  derivative: DerivativeRule;
  /** A simpler node of the same type that is the same for every input, given the ranges that are proved; null where there is none. */
  simpler?: (node: DagNode, b: Algebra) => DagNode | null;
  /** The order of its two inputs does not matter, to the last bit. */
  commutes?: true;
  /** What it looks at of a picture: its texels, those without what is smaller than its third input says, or its size alone. Without, it only computes. */
  picture?: 'texels' | 'coarse texels' | 'size';
  /** Whether it changes linearly over a triangle, given how each of its inputs changes there; never unless stated. */
  linear?: (inputs: readonly Change[]) => boolean;
  /** Whether what it gives jumps from one pixel to the next where its inputs do not: levels of what is looked up by it are worked out, never guessed from neighbours. */
  jumps?: boolean | ((node: DagNode) => boolean);
  /** What it gives is a unit normal with z at 0.05 or above. */
  unit?: true;
  /** Leaves read what changes from pixel to pixel; everything made of constants and values alone runs once. */
  leaf?: 'constant' | 'value' | 'pixel';
  /** Without it only what is lowered by our own hands uses it. */
  graph?: GraphUse;
}

/** How something changes over a triangle: not at all, linearly, or otherwise. */
export type Change = 'steady' | 'linear' | 'other';

const operations = new Map<string, Operation>();

/** Adds operations, refusing any that is incomplete or taken: menus list only what is registered. */
export function register(...list: Operation[]): void {
  for (const op of list) {
    if (operations.has(op.name)) throw new Error(`Operation ${op.name} is registered twice`);
    for (const need of ['help', 'materialx', 'price', 'range', 'derivative', 'result'] as const)
      if (!op[need]) throw new Error(`Operation ${op.name} lacks its ${need}`);
    if (!op.glsl && !op.lanes) throw new Error(`Operation ${op.name} lacks its glsl`);
    if (!op.lanes === !op.kernel) throw new Error(`Operation ${op.name} needs lanes or a kernel, and not both`);
    if (op.graph && op.graph.defaults.length !== op.inputs.length) throw new Error(`Operation ${op.name} needs a default for each input`);
    operations.set(op.name, op);
  }
}

/** @throws CompileError `unknown-operation` */
export function operation(name: string): Operation {
  const op = operations.get(name);
  if (!op) throw new CompileError('unknown-operation', `There is no operation called ${name}`, name);
  return op;
}

/** Whether a node reads texels of a map. */
export const readsMap = ({ op }: DagNode): boolean => ['texels', 'coarse texels'].includes(operation(op).picture ?? '');
/** Whether it leaves small things of the map out. */
export const readsCoarse = ({ op }: DagNode): boolean => operation(op).picture === 'coarse texels';
/** Whether it looks at the size of a map alone. */
export const readsSize = ({ op }: DagNode): boolean => operation(op).picture === 'size';

export const allOperations = (): Operation[] => [...operations.values()];
