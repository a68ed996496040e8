import { clampLanes, smoothLanes } from '../lanes';
import type { Operation } from '../registry';
import { UNIT } from '../types';
import { always, floats } from './shared';

/** Softness below this is a hard edge one part in a thousand wide: division stays safe on both back ends. */
const SHARPEST = 1 / 1024;

export const LAYERING: Operation[] = [
  {
    name: 'ramp',
    help: 'A cue: rises from 0 to 1 over a width around a centre, smooth or straight; a step when the width is 0',
    materialx: 'PB_ramp',
    inputs: floats('in', 'centre', 'width'),
    result: always('float'),
    functions: [
      `float pb_ramp(float x, float c, float w, float bend) { if (w < 1e-6) return x >= c ? 1.0 : 0.0; float t = clamp((x - c) / w + 0.5, 0.0, 1.0); return bend > 0.5 ? t * t * (3.0 - 2.0 * t) : t; }`,
    ],
    glsl: ([x, c, w], node) => `pb_ramp(${x}, ${c}, ${w}, ${node.attrs['shape'] === 'smooth' ? '1.0' : '0.0'})`,
    lanes: (l, [[x], [c], [w]], node) => {
      const [zero, one] = [l.number(0), l.number(1)];
      const t = clampLanes(l, l.add(l.divide(l.subtract(x, c), w), l.number(0.5)), zero, one);
      const step = l.select(l.less(x, c), zero, one);
      return [l.select(l.less(w, l.number(1e-6)), step, node.attrs['shape'] === 'smooth' ? smoothLanes(l, t) : t)];
    },
    price: { alu: 10 },
    range: () => UNIT,
    derivative: 'zero',
  },
  {
    name: 'bend',
    help: 'Coverage bent by the bias: the ends stay, the bias maps to one half',
    materialx: 'PB_bend',
    inputs: floats('in', 'bias'),
    result: always('float'),
    functions: [`float pb_bend(float c, float t) { float a = c * (1.0 - t); return a / max(a + t * (1.0 - c), 1e-9); }`],
    glsl: ([c, t]) => `pb_bend(${c}, ${t})`,
    lanes: (l, [[c], [t]]) => {
      const a = l.multiply(c, l.subtract(l.number(1), t));
      return [l.divide(a, l.max(l.number(1e-9), l.add(a, l.multiply(t, l.subtract(l.number(1), c)))))];
    },
    price: { alu: 7 },
    range: () => UNIT,
    derivative: 'zero',
  },
  {
    name: 'crossover',
    help: 'Weight of a layer where its height meets what lies below',
    materialx: 'PB_crossover',
    inputs: floats('top', 'below', 'span', 'coverage', 'softness', 'spreadtop', 'spreadbelow'),
    result: always('float'),
    functions: [
      `float pb_crossover(float hT, float hB, float span, float c, float soft, float sT, float sB) {
  float d = clamp((hT - hB) / span, -1.0, 1.0);
  float far = (1.0 - soft) * sqrt(sT * sT + sB * sB) / span;
  float s = clamp(sqrt(soft * soft + far * far), ${SHARPEST}, 1.0);
  float x = clamp(((1.0 - s) * d - (1.0 - 2.0 * c)) / (2.0 * s) + 0.5, 0.0, 1.0);
  return c <= 0.0 ? 0.0 : c >= 1.0 ? 1.0 : x * x * (3.0 - 2.0 * x); }`,
    ],
    glsl: (args) => `pb_crossover(${args.join(', ')})`,
    lanes: (l, [[hT], [hB], [span], [c], [soft], [sT], [sB]]) => {
      const [zero, one, half] = [l.number(0), l.number(1), l.number(0.5)];
      const d = clampLanes(l, l.divide(l.subtract(hT, hB), span), l.number(-1), one);
      const spread = l.sqrt(l.add(l.multiply(sT, sT), l.multiply(sB, sB)));
      const far = l.divide(l.multiply(l.subtract(one, soft), spread), span);
      const s = clampLanes(l, l.sqrt(l.add(l.multiply(soft, soft), l.multiply(far, far))), l.number(SHARPEST), one);
      const wanted = l.subtract(one, l.add(c, c));
      const x = l.add(l.divide(l.subtract(l.multiply(l.subtract(one, s), d), wanted), l.add(s, s)), half);
      const w = smoothLanes(l, clampLanes(l, x, zero, one));
      return [l.select(l.less(zero, c), l.select(l.less(c, one), w, one), zero)];
    },
    price: { alu: 28 },
    range: () => UNIT,
    derivative: 'zero',
  },
  {
    name: 'seamshade',
    help: 'Occlusion darkened where two layers meet',
    materialx: 'PB_seamshade',
    inputs: floats('in', 'contact', 'weight'),
    result: always('float'),
    functions: [`float pb_seamshade(float o, float k, float w) { return o * (1.0 - k * 4.0 * w * (1.0 - w)); }`],
    glsl: ([o, k, w]) => `pb_seamshade(${o}, ${k}, ${w})`,
    lanes: (l, [[o], [k], [w]]) => {
      const dark = l.multiply(l.multiply(l.multiply(k, l.number(4)), w), l.subtract(l.number(1), w));
      return [l.multiply(o, l.subtract(l.number(1), dark))];
    },
    price: { alu: 6 },
    range: () => UNIT,
    derivative: 'zero',
  },
];
