import { clampLanes, smoothLanes } from '../lanes';
import type { Operation } from '../registry';
import type { Interval } from '../types';
import { ANY, UNIT } from '../types';
import { always, floats, isConstant } from './shared';

/** Softness below this is a hard edge one part in a thousand wide: division stays safe on both back ends. */
const SHARPEST = 1 / 1024;

const isUnit = ({ lo, hi }: Interval): boolean => lo >= 0 && hi <= 1;

export const LAYERING: Operation[] = [
  {
    name: 'ramp',
    help: 'A cue: rises from 0 to 1 over a width around a centre, smooth or straight; a step when the width is 0',
    materialx: 'PB_ramp',
    inputs: floats('in', 'centre', 'width'),
    result: always('float'),
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
    graph: { group: 'arithmetic', words: 'bias, bend a mask, coverage', defaults: [[0], [0.5]] },
    lanes: (l, [[c], [t]]) => {
      const a = l.multiply(c, l.subtract(l.number(1), t));
      return [l.divide(a, l.max(l.number(1e-9), l.add(a, l.multiply(t, l.subtract(l.number(1), c)))))];
    },
    price: { alu: 7 },
    range: ([c, t]) => (isUnit(c) && isUnit(t) ? UNIT : ANY),
    derivative: 'zero',
  },
  {
    name: 'crossover',
    help: 'Weight of a layer where its height meets what lies below',
    materialx: 'PB_crossover',
    inputs: floats('top', 'below', 'span', 'coverage', 'softness', 'spreadtop', 'spreadbelow'),
    result: always('float'),
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
    simpler: ({ args }) => (isConstant(args[3], 0) || isConstant(args[3], 1) ? args[3] : null),
  },
  {
    name: 'seamshade',
    help: 'Occlusion darkened where two layers meet',
    materialx: 'PB_seamshade',
    inputs: floats('in', 'contact', 'weight'),
    result: always('float'),
    graph: { group: 'surfaces', words: 'contact shadow, darken edges, seam', defaults: [[1], [0.25], [0]] },
    lanes: (l, [[o], [k], [w]]) => {
      const dark = l.multiply(l.multiply(l.multiply(k, l.number(4)), w), l.subtract(l.number(1), w));
      return [l.multiply(o, l.subtract(l.number(1), dark))];
    },
    price: { alu: 6 },
    range: (all) => (all.every(isUnit) ? UNIT : ANY),
    derivative: 'zero',
    simpler: ({ args: [o, k, w] }) => (isConstant(k, 0) || isConstant(w, 0) || isConstant(w, 1) ? o : null),
  },
];
