import type { Lanes } from '../lanes';

/**
 * Three random words of a lattice point and a seed. Source: "pcg3d", Jarzynski & Olano, "Hash Functions for GPU Rendering",
 * 2020. The scalar twin is `hash3` in the noise room.
 */
export function hashLanes<V>(l: Lanes<V>, x: V, y: V, z: V): [V, V, V] {
  const stir = (v: V) => l.addWhole(l.multiplyWhole(v, l.whole(1664525)), l.whole(1013904223));
  const v = [stir(x), stir(y), stir(z)];
  const round = () => {
    v[0] = l.addWhole(v[0], l.multiplyWhole(v[1], v[2]));
    v[1] = l.addWhole(v[1], l.multiplyWhole(v[2], v[0]));
    v[2] = l.addWhole(v[2], l.multiplyWhole(v[0], v[1]));
  };
  round();
  for (let i = 0; i < 3; i++) v[i] = l.xor(v[i], l.shift(v[i], 16));
  round();
  return [v[0], v[1], v[2]];
}

/** The top 24 bits as a number in [0, 1). */
export const unitLanes = <V>(l: Lanes<V>, word: V): V => l.multiply(l.toFloat(l.shift(word, 8)), l.number(1 / 16777216));
/** The low 16 bits as a number in [0, 1): a second draw from the same word. */
export const lowUnitLanes = <V>(l: Lanes<V>, word: V): V => unitLanes(l, l.multiplyWhole(word, l.whole(65536)));

export const wholeCells = <V>(l: Lanes<V>, period: V): V => l.max(l.number(1), l.floor(l.add(period, l.number(0.5))));

/** A whole float brought into 0…period − 1. The quotient may be off by one; the remainder is exact and says so. */
export function wrapLanes<V>(l: Lanes<V>, cell: V, period: V): V {
  const rest = l.subtract(cell, l.multiply(l.floor(l.divide(cell, period)), period));
  const up = l.select(l.less(rest, l.number(0)), l.add(rest, period), rest);
  return l.select(l.less(up, period), up, l.subtract(up, period));
}

/** A period for each axis: given for both at once, or one by one. */
export const periodsOf = <V>(l: Lanes<V>, period: readonly V[]): [V, V] => {
  const x = wholeCells(l, period[0]);
  return [x, period.length > 1 ? wholeCells(l, period[1]) : x];
};
