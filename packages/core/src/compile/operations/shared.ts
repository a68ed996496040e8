import type { Change, Port } from '../registry';
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
