import type { Change, Port } from '../registry';
import { operation } from '../registry';
import type { DagNode, Interval, ValueType } from '../types';
import { COMPONENTS, typeOf } from '../types';

export const any = (...names: string[]): Port[] => names.map((name) => ({ name, type: 'any' as const }));
export const floats = (...names: string[]): Port[] => names.map((name) => ({ name, type: 'float' as const }));

/** The widest of the inputs: how operations on components choose their type. */
export const widest = (types: readonly ValueType[]): ValueType => typeOf(Math.max(...types.map((t) => COMPONENTS[t])));
export const always = (type: ValueType) => (): ValueType => type;

/** Interval from the corner values of a function that is monotone in each input. */
export function corners(ranges: readonly Interval[], f: (...v: number[]) => number): Interval {
  let lo = Infinity;
  let hi = -Infinity;
  for (let mask = 0; mask < 1 << ranges.length; mask++) {
    const v = f(...ranges.map((r, i) => ((mask >> i) & 1 ? r.hi : r.lo)));
    if (Number.isNaN(v)) return { lo: -Infinity, hi: Infinity };
    if (v < lo) lo = v;
    if (v > hi) hi = v;
  }
  return { lo, hi };
}

/** A sum is linear where all of it is linear or steady, and not all steady. */
export const sumIsLinear = (inputs: readonly Change[]): boolean => inputs.includes('linear') && !inputs.includes('other');
/** A product is linear where one factor is and the others are steady. */
export const productIsLinear = (inputs: readonly Change[]): boolean => inputs.filter((i) => i === 'linear').length === 1 && !inputs.includes('other');

/** Whether a node is one number in every component; any number unless stated. */
export const isConstant = (node: DagNode, value?: number): boolean =>
  node.op === 'constant' && (value === undefined || (node.attrs['value'] as readonly number[]).every((v) => v === value));

/** Operations that give whole numbers. */
const WHOLE = new Set(['floor', 'ceil', 'round', 'sign', 'step']);
export const isWhole = ({ op, attrs }: DagNode): boolean =>
  WHOLE.has(op) || (op === 'constant' && (attrs['value'] as readonly number[]).every(Number.isInteger));
/** Whether two constants are one number in some component. */
export const hasEqual = (a: DagNode, b: DagNode): boolean => {
  const [x, y] = [a, b].map((n) => n.attrs['value'] as readonly number[]);
  return x.some((v, i) => v === y[Math.min(i, y.length - 1)]);
};

/** Whether no step on the way to a value can pass the largest number there is: then nothing of it is no number. */
export function isSound({ op, range, args }: DagNode, known = new Set<DagNode>()): boolean {
  // What is given from outside are numbers.
  if (operation(op).leaf) return true;
  if (!Number.isFinite(range.lo) || !Number.isFinite(range.hi) || Math.max(-range.lo, range.hi) > 1e30) return false;
  return args.every((a) => {
    if (known.has(a)) return true;
    known.add(a);
    return isSound(a, known);
  });
}
