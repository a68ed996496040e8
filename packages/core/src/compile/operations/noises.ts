import type { Lanes } from '../lanes';
import { mixLanes, smoothLanes } from '../lanes';
import type { Operation } from '../registry';
import { UNIT } from '../types';
import { always } from './shared';

/** Same integer arithmetic as noise/hash. `% p` is taken of positive numbers only: GLSL leaves negative ones undefined. */
const HASH = `uint pb_pcg(uint v) { uint s = v * 747796405u + 2891336453u; uint w = ((s >> ((s >> 28u) + 4u)) ^ s) * 277803737u; return (w >> 22u) ^ w; }
float pb_unit(uint h) { return float(h >> 8u) * (1.0 / 16777216.0); }`;
const VALUE = `float pb_noise2d(vec2 p, int period, uint seed) {
  vec2 cell = floor(p); vec2 f = p - cell; vec2 s = f * f * (3.0 - 2.0 * f);
  ivec2 a = (ivec2(cell) + period * 4096) % period; ivec2 b = (a + 1) % period;
  uint k = pb_pcg(seed); uint r0 = pb_pcg(uint(a.y) + k); uint r1 = pb_pcg(uint(b.y) + k);
  float v00 = pb_unit(pb_pcg(uint(a.x) + r0)); float v10 = pb_unit(pb_pcg(uint(b.x) + r0));
  float v01 = pb_unit(pb_pcg(uint(a.x) + r1)); float v11 = pb_unit(pb_pcg(uint(b.x) + r1));
  float top = v00 + (v10 - v00) * s.x; return top + (v01 + (v11 - v01) * s.x - top) * s.y; }`;
const FRACTAL = `float pb_fractal2d(vec2 p, int period, uint seed, int octaves) {
  float sum = 0.0; float weight = 0.5; float total = 0.0;
  for (int o = 0; o < 8; o++) { if (o >= octaves) break;
    sum += weight * pb_noise2d(p, period, seed + uint(o)); total += weight; weight *= 0.5; p *= 2.0; period *= 2; }
  return sum / max(total, 1e-6); }`;

/** Hash and noise as in the noise room (see there for the source), in lanes. */
function pcgLanes<V>(l: Lanes<V>, v: V): V {
  const state = l.addWhole(l.multiplyWhole(v, l.whole(747796405)), l.whole(2891336453));
  const word = l.xor(l.shiftBy(state, l.addWhole(l.shift(state, 28), l.whole(4))), state);
  const mixed = l.multiplyWhole(word, l.whole(277803737));
  return l.xor(l.shift(mixed, 22), mixed);
}
const unitLanes = <V>(l: Lanes<V>, hash: V): V => l.multiply(l.toFloat(l.shift(hash, 8)), l.number(1 / 16777216));
const wholeCells = <V>(l: Lanes<V>, period: V): V => l.max(l.number(1), l.floor(l.add(period, l.number(0.5))));

/** A whole float brought into 0…period − 1. The quotient may be off by one; the remainder is exact and says so. */
function wrapLanes<V>(l: Lanes<V>, cell: V, period: V): V {
  const rest = l.subtract(cell, l.multiply(l.floor(l.divide(cell, period)), period));
  const up = l.select(l.less(rest, l.number(0)), l.add(rest, period), rest);
  return l.select(l.less(up, period), up, l.subtract(up, period));
}

function noiseLanes<V>(l: Lanes<V>, p: readonly V[], cells: V, seed: V): V {
  const one = l.number(1);
  const period = wholeCells(l, cells);
  const cell = p.map((v) => l.floor(v));
  const [u, v] = p.map((x, c) => smoothLanes(l, l.subtract(x, cell[c])));
  const low = cell.map((c) => wrapLanes(l, c, period));
  const high = low.map((c) => l.select(l.equal(l.add(c, one), period), l.number(0), l.add(c, one)));
  const key = pcgLanes(l, l.toWhole(seed));
  const [x0, x1] = [low[0], high[0]].map((x) => l.toWhole(x));
  const rows = [low[1], high[1]].map((y) => pcgLanes(l, l.addWhole(l.toWhole(y), key)));
  const [top, below] = rows.map((row) => {
    const [a, b] = [x0, x1].map((x) => unitLanes(l, pcgLanes(l, l.addWhole(x, row))));
    return mixLanes(l, a, b, u);
  });
  return mixLanes(l, top, below, v);
}

/** Seeds are whole numbers below 2²⁴, so that a float carries them exactly. */
export const MAX_SEED = 0xffffff;

export const NOISES: Operation[] = [
  {
    name: 'noise2d',
    help: 'Value noise, 0–1, repeating after a whole number of cells',
    materialx: 'noise2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'float' },
      { name: 'seed', type: 'float' },
    ],
    result: always('float'),
    functions: [HASH, VALUE],
    glsl: ([p, period, seed]) => `pb_noise2d(${p}, max(1, int(${period} + 0.5)), uint(${seed}))`,
    lanes: (l, [p, [period], [seed]]) => [noiseLanes(l, p, period, seed)],
    price: { alu: 42 },
    range: () => UNIT,
    derivative: 'zero',
  },
  {
    name: 'fractal2d',
    help: 'Sum of value noises, each half the size and weight of the last',
    materialx: 'fractal2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'period', type: 'float' },
      { name: 'seed', type: 'float' },
      { name: 'octaves', type: 'float' },
    ],
    result: always('float'),
    functions: [HASH, VALUE, FRACTAL],
    glsl: ([p, period, seed, octaves]) => `pb_fractal2d(${p}, max(1, int(${period} + 0.5)), uint(${seed}), int(${octaves} + 0.5))`,
    lanes: (l, [p, [period], [seed], [octaves]]) => {
      const half = l.number(0.5);
      let sum = l.number(0);
      let total = l.number(0);
      for (let o = 0, weight = 0.5; o < 8; o++, weight *= 0.5) {
        const wanted = l.less(l.number(o), l.max(l.number(1), l.floor(l.add(octaves, half))));
        const size = l.number(2 ** o);
        const octave = () => {
          const cells = l.multiply(wholeCells(l, period), size);
          const noise = noiseLanes(
            l,
            p.map((v) => l.multiply(v, size)),
            cells,
            l.add(seed, l.number(o)),
          );
          return [l.add(sum, l.multiply(noise, l.number(weight))), l.add(total, l.number(weight))];
        };
        [sum, total] = l.whereAny(wanted, octave, [sum, total]);
      }
      return [l.divide(sum, total)];
    },
    price: { alu: 140 },
    range: () => UNIT,
    derivative: 'zero',
  },
];
