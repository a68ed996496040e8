import { fractalNoise, valueNoise } from '../../noise';
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

const count = (v: number) => Math.max(1, Math.round(v));

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
    kernel: ({ memory: m, n, out: [o], args: [[x, y], [period], [seed]] }) => {
      for (let i = 0; i < n; i++) m[o + i] = valueNoise(m[x + i], m[y + i], count(m[period + i]), m[seed + i]);
    },
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
    kernel: ({ memory: m, n, out: [o], args: [[x, y], [period], [seed], [octaves]] }) => {
      for (let i = 0; i < n; i++) m[o + i] = fractalNoise(m[x + i], m[y + i], count(m[period + i]), m[seed + i], Math.min(8, count(m[octaves + i])));
    },
    // Priced at three octaves, what a seam usually has: octaves may change without compiling.
    price: { alu: 140 },
    range: () => UNIT,
    derivative: 'zero',
  },
];
