import type { DagNode } from './types';

/**
 * Arithmetic in which operations are written once for the processor. `V` is opaque: four pixels in a WebAssembly
 * register, or one number. Floats are IEEE float32, rounded after every step; whole numbers are 32-bit and wrap.
 * A mask comes from a comparison and goes only into `select`, `both` and `whereAny`.
 */
export interface Lanes<V> {
  number(value: number): V;
  add(a: V, b: V): V;
  subtract(a: V, b: V): V;
  multiply(a: V, b: V): V;
  divide(a: V, b: V): V;
  /** The smaller; a NaN stays. */
  min(a: V, b: V): V;
  max(a: V, b: V): V;
  sqrt(a: V): V;
  abs(a: V): V;
  floor(a: V): V;
  less(a: V, b: V): V;
  equal(a: V, b: V): V;
  both(a: V, b: V): V;
  select(mask: V, yes: V, no: V): V;
  /** Work that is skipped where no pixel of the group wants it; the pixels that do not keep `otherwise`. */
  whereAny(mask: V, work: () => V[], otherwise: readonly V[]): V[];
  /**
   * Steps from one state to the next, `times` of them, a whole number, though no fewer than `least` and no more than
   * `most`; pixels that have had theirs keep their state. `step` gets its number from 0 and the state.
   */
  repeat(times: V, least: number, most: number, start: readonly V[], step: (index: V, state: readonly V[]) => V[]): V[];
  /** A float that is whole, as a 32-bit whole number. */
  toWhole(a: V): V;
  /** A whole number, taken as unsigned, as the nearest float. */
  toFloat(a: V): V;
  whole(value: number): V;
  addWhole(a: V, b: V): V;
  multiplyWhole(a: V, b: V): V;
  xor(a: V, b: V): V;
  /** Unsigned shift to the right by a fixed count. */
  shift(a: V, count: number): V;
  /** The 32 bits of a float as a whole number, and back: sign, exponent (127 more than it is), fraction. Source: IEEE 754. */
  toBits(a: V): V;
  fromBits(a: V): V;
}

/** An operation in lanes: `args[port][component]` to one value a component of the result. */
export type LaneDefinition = <V>(l: Lanes<V>, args: readonly (readonly V[])[], node: DagNode) => V[];

/** Repeats by writing every step out, the ones that may not come behind a mask. */
export function writtenOut<V>(l: Lanes<V>): Lanes<V>['repeat'] {
  return (times, least, most, start, step) => {
    let state = [...start];
    for (let i = 0; i < most; i++) {
      const next = (): V[] => step(l.number(i), state);
      state = i < least ? next() : l.whereAny(l.less(l.number(i), times), next, state);
    }
    return state;
  };
}

const f = Math.fround;
const asFloat = new Float32Array(1);
const asBits = new Int32Array(asFloat.buffer);

/** One number at a time: what folding and values computed once a frame need. */
export const scalarLanes: Lanes<number> = {
  number: f,
  add: (a, b) => f(a + b),
  subtract: (a, b) => f(a - b),
  multiply: (a, b) => f(a * b),
  divide: (a, b) => f(a / b),
  min: (a, b) => (b < a ? b : a),
  max: (a, b) => (a < b ? b : a),
  sqrt: (a) => f(Math.sqrt(a)),
  abs: Math.abs,
  floor: Math.floor,
  less: (a, b) => Number(a < b),
  equal: (a, b) => Number(a === b),
  both: (a, b) => a & b,
  select: (mask, yes, no) => (mask ? yes : no),
  whereAny: (mask, work, otherwise) => (mask ? work() : [...otherwise]),
  repeat: (...given) => writtenOut(scalarLanes)(...given),
  toWhole: (a) => Math.trunc(a) | 0,
  toFloat: (a) => f(a >>> 0),
  whole: (value) => value | 0,
  addWhole: (a, b) => (a + b) | 0,
  multiplyWhole: Math.imul,
  xor: (a, b) => a ^ b,
  shift: (a, count) => (a >>> count) | 0,
  toBits: (a) => {
    asFloat[0] = a;
    return asBits[0];
  },
  fromBits: (a) => {
    asBits[0] = a;
    return asFloat[0];
  },
};

export const clampLanes = <V>(l: Lanes<V>, x: V, lo: V, hi: V): V => l.min(hi, l.max(lo, x));
/** 3t² − 2t³. */
export const smoothLanes = <V>(l: Lanes<V>, t: V): V => l.multiply(l.multiply(t, t), l.subtract(l.number(3), l.multiply(l.number(2), t)));
export const mixLanes = <V>(l: Lanes<V>, a: V, b: V, t: V): V => l.add(a, l.multiply(l.subtract(b, a), t));
export const dotLanes = <V>(l: Lanes<V>, a: readonly V[], b: readonly V[]): V => a.map((x, c) => l.multiply(x, b[c])).reduce((p, q) => l.add(p, q));
