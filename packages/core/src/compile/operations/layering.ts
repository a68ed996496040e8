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
    kernel: ({ memory: m, n, out: [o], args: [[x], [c], [w]], node }) => {
      const smooth = node.attrs['shape'] === 'smooth';
      for (let i = 0; i < n; i++) {
        const width = m[w + i];
        if (width < 1e-6) m[o + i] = m[x + i] >= m[c + i] ? 1 : 0;
        else {
          const t = Math.min(1, Math.max(0, (m[x + i] - m[c + i]) / width + 0.5));
          m[o + i] = smooth ? t * t * (3 - 2 * t) : t;
        }
      }
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
    kernel: ({ memory: m, n, out: [o], args: [[c], [t]] }) => {
      for (let i = 0; i < n; i++) {
        const a = m[c + i] * (1 - m[t + i]);
        m[o + i] = a / Math.max(a + m[t + i] * (1 - m[c + i]), 1e-9);
      }
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
    kernel: ({ memory: m, n, out: [o], args: [[hT], [hB], [span], [cov], [soft], [sT], [sB]] }) => {
      for (let i = 0; i < n; i++) {
        const c = m[cov + i];
        if (c <= 0) m[o + i] = 0;
        else if (c >= 1) m[o + i] = 1;
        else {
          const k = 1 / m[span + i];
          const d = Math.min(1, Math.max(-1, (m[hT + i] - m[hB + i]) * k));
          const q = m[soft + i];
          const a = m[sT + i];
          const b = m[sB + i];
          let s = q;
          if (a !== 0 || b !== 0) {
            const far = (1 - q) * Math.sqrt(a * a + b * b) * k;
            s = Math.sqrt(q * q + far * far);
          }
          s = Math.min(1, Math.max(SHARPEST, s));
          const x = Math.min(1, Math.max(0, ((1 - s) * d - (1 - 2 * c)) / (2 * s) + 0.5));
          m[o + i] = x * x * (3 - 2 * x);
        }
      }
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
    kernel: ({ memory: m, n, out: [out], args: [[o], [k], [w]] }) => {
      for (let i = 0; i < n; i++) m[out + i] = m[o + i] * (1 - m[k + i] * 4 * m[w + i] * (1 - m[w + i]));
    },
    price: { alu: 6 },
    range: () => UNIT,
    derivative: 'zero',
  },
];
