import type { KernelCall, Port } from '../registry';
import type { Interval, ValueType } from '../types';
import { COMPONENTS, typeOf } from '../types';

export const any = (...names: string[]): Port[] => names.map((name) => ({ name, type: 'any' as const }));
export const floats = (...names: string[]): Port[] => names.map((name) => ({ name, type: 'float' as const }));

/** The widest of the inputs: how operations on components choose their type. */
export const widest = (types: readonly ValueType[]): ValueType => typeOf(Math.max(...types.map((t) => COMPONENTS[t])));
export const always = (type: ValueType) => (): ValueType => type;

/** Runs a loop once a component; a float beside a vector gives its one plane to every component. */
export function perComponent(call: KernelCall, loop: (m: Float32Array, n: number, out: number, ...args: number[]) => void): void {
  for (let c = 0; c < call.out.length; c++)
    loop(call.memory, call.n, call.out[c], ...call.args.map((planes) => planes[Math.min(c, planes.length - 1)]));
}

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
