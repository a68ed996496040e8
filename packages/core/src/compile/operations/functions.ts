// Functions of one or two numbers, component by component, beside plain arithmetic.
import type { Lanes } from '../lanes';
import { clampLanes } from '../lanes';
import type { Operation } from '../registry';
import type { Interval } from '../types';
import { ANY, UNIT } from '../types';
import { pointwise } from './pointwise';
import { isConstant, isWhole } from './shared';
import { TINY, angleOf, cosine, logarithm, polynomial, powerLanes, powerOfTwo, sine } from './polynomials';

/** Arc cosine on 0…1 is √(1 − x) times this. Source: Abramowitz & Stegun, 4.4.46 (error 2e-8). */
const ARC = [-0.0012624911, 0.0066700901, -0.0170881256, 0.030891881, -0.0501743046, 0.0889789874, -0.2145988016, 1.570796305];
/** Largest and smallest power of e that a float holds with room to spare. */
const MOST = 87;
const SIGNED = { lo: -1, hi: 1 };
/** What a curve may be that polynomials miss by a few last places. */
const loose = ({ lo, hi }: Interval): Interval => ({ lo: lo - 1e-5 * Math.max(1, Math.abs(lo)), hi: hi + 1e-5 * Math.max(1, Math.abs(hi)) });
const raised = (a: number, b: number): number => (b === 0 ? 1 : a > 0 ? Math.min(2 ** 127.5, a ** b) : 0);

/** Arc cosine of what is held within ±1. */
function arcCosine<V>(l: Lanes<V>, x: V): V {
  const [zero, one] = [l.number(0), l.number(1)];
  const held = clampLanes(l, x, l.number(-1), one);
  const size = l.abs(held);
  const angle = l.multiply(l.sqrt(l.subtract(one, size)), polynomial(l, size, ARC));
  return l.select(l.less(held, zero), l.subtract(l.number(Math.PI), angle), angle);
}

/** a / b, and 0 where b is 0. */
const guarded = <V>(l: Lanes<V>, a: V, b: V): V => l.select(l.equal(b, l.number(0)), l.number(0), l.divide(a, b));

export const FUNCTIONS: Operation[] = [
  pointwise({
    name: 'modulo',
    jumps: true,
    help: 'What is left of a after whole times b, with the sign of b; 0 where b is 0',
    graph: { group: 'arithmetic', words: 'mod, remainder, repeat every', defaults: [[0], [1]] },
    ports: ['in1', 'in2'],
    alu: 6,
    lanes: (l, [a, b]) => l.select(l.equal(b, l.number(0)), l.number(0), l.subtract(a, l.multiply(b, l.floor(guarded(l, a, b))))),
    range: ([, b]) => (b.lo > 0 ? loose({ lo: 0, hi: b.hi }) : ANY),
    derivative: (_, __, d) => d(0),
  }),
  pointwise({
    name: 'sign',
    jumps: true,
    help: '1 above 0, −1 below it, 0 at it',
    graph: { group: 'arithmetic', words: 'direction of a number, plus or minus', defaults: [[0]] },
    ports: ['in'],
    alu: 2,
    lanes: (l, [a]) => {
      const zero = l.number(0);
      return l.select(l.less(zero, a), l.number(1), l.select(l.less(a, zero), l.number(-1), zero));
    },
    range: () => SIGNED,
    derivative: 'zero',
  }),
  pointwise({
    name: 'ceil',
    jumps: true,
    help: 'The whole number at or above',
    graph: { group: 'arithmetic', words: 'round up, whole, steps', defaults: [[0]] },
    ports: ['in'],
    alu: 1,
    lanes: (l, [a]) => l.subtract(l.number(0), l.floor(l.subtract(l.number(0), a))),
    range: ([a]) => ({ lo: Math.ceil(a.lo), hi: Math.ceil(a.hi) }),
    derivative: 'zero',
    simpler: ({ args: [a] }) => (isWhole(a) ? a : null),
  }),
  pointwise({
    name: 'round',
    jumps: true,
    help: 'The nearest whole number, halves going up',
    graph: { group: 'arithmetic', words: 'whole, nearest, posterise, steps', defaults: [[0]] },
    ports: ['in'],
    alu: 2,
    lanes: (l, [a]) => l.floor(l.add(a, l.number(0.5))),
    range: ([a]) => ({ lo: Math.floor(a.lo + 0.5), hi: Math.floor(a.hi + 0.5) }),
    derivative: 'zero',
    simpler: ({ args: [a] }) => (isWhole(a) ? a : null),
  }),
  pointwise({
    name: 'power',
    help: 'a to the power b; a at or below 0 gives 0, and anything to the power 0 is 1',
    graph: { group: 'arithmetic', words: 'pow, exponent, gamma, sharpen a falloff, contrast of a mask', defaults: [[1], [1]] },
    ports: ['in1', 'in2'],
    alu: 8,
    lanes: (l, [a, b]) => powerLanes(l, a, b),
    range: ([a, b]) => {
      if (a.lo < 0 || b.lo < 0 || !Number.isFinite(a.hi) || !Number.isFinite(b.hi)) return { lo: 0, hi: Infinity };
      const ends = [a.lo, a.hi].flatMap((x) => [b.lo, b.hi].map((y) => raised(x, y)));
      return loose({ lo: Math.min(...ends, a.lo < 1 && a.hi > 1 ? 1 : Infinity), hi: Math.max(...ends) });
    },
    derivative: (b, node, d) => {
      const [x, y] = node.args;
      const along = b.multiply(b.divide(b.multiply(node, y), x), d(0));
      return b.add(along, b.multiply(b.multiply(node, b.node('ln', [x])), d(1)));
    },
    simpler: ({ args: [a, b] }) => (b.op === 'constant' && (b.attrs['value'] as number[]).every((v) => v === 1) && a.range.lo >= 0 ? a : null),
  }),
  pointwise({
    name: 'exp',
    help: `e to the power of the value, which is held within ±${MOST}`,
    graph: { group: 'arithmetic', words: 'exponential, growth, fade with depth', defaults: [[0]] },
    ports: ['in'],
    alu: 4,
    lanes: (l, [x]) => powerOfTwo(l, l.multiply(clampLanes(l, x, l.number(-MOST), l.number(MOST)), l.number(Math.LOG2E))),
    range: ([x]) => ({ lo: 0, hi: Math.exp(Math.min(MOST, x.hi)) * 1.0001 }),
    derivative: (b, node, d) => b.multiply(node, d(0)),
  }),
  pointwise({
    name: 'ln',
    help: 'Natural logarithm; what lies at or below 0 is taken for the smallest number there is, which gives −87.3',
    graph: { group: 'arithmetic', words: 'log, logarithm', defaults: [[1]] },
    ports: ['in'],
    alu: 4,
    lanes: (l, [x]) => l.multiply(logarithm(l, x), l.number(Math.LN2)),
    range: ([x]) => loose({ lo: Math.log(Math.max(TINY, x.lo)), hi: Math.log(Math.min(3.5e38, Math.max(TINY, x.hi))) }),
    derivative: (b, node, d) => b.divide(d(0), node.args[0]),
  }),
  pointwise({
    name: 'sin',
    live: ([a]) => `sin(${a})`,
    help: 'Sine of an angle in radians, which is held within ±65536',
    graph: { group: 'arithmetic', words: 'sine, wave, oscillate, pulse', defaults: [[0]] },
    ports: ['in'],
    alu: 4,
    lanes: (l, [x]) => sine(l, x),
    range: () => loose(SIGNED),
    derivative: (b, node, d) => b.multiply(b.node('cos', [node.args[0]]), d(0)),
  }),
  pointwise({
    name: 'cos',
    live: ([a]) => `cos(${a})`,
    help: 'Cosine of an angle in radians, which is held within ±65536',
    graph: { group: 'arithmetic', words: 'cosine, wave, oscillate', defaults: [[0]] },
    ports: ['in'],
    alu: 4,
    lanes: (l, [x]) => cosine(l, x),
    range: () => loose(SIGNED),
    derivative: (b, node, d) => b.multiply(b.subtract(b.zero(node.type), b.node('sin', [node.args[0]])), d(0)),
  }),
  pointwise({
    name: 'tan',
    help: 'Tangent of an angle in radians, which is held within ±65536',
    graph: { group: 'arithmetic', words: 'tangent, slope of an angle', defaults: [[0]] },
    ports: ['in'],
    alu: 10,
    lanes: (l, [x]) => guarded(l, sine(l, x), cosine(l, x)),
    range: () => ANY,
    derivative: (b, node, d) => b.multiply(b.add(b.constant(1), b.multiply(node, node)), d(0)),
  }),
  pointwise({
    name: 'acos',
    help: 'Angle in radians whose cosine is the value, which is held within ±1',
    graph: { group: 'arithmetic', words: 'arc cosine, angle between directions', defaults: [[0]] },
    ports: ['in'],
    alu: 22,
    lanes: (l, [x]) => arcCosine(l, x),
    range: () => ({ lo: 0, hi: Math.PI + 1e-6 }),
    derivative: 'zero',
  }),
  pointwise({
    name: 'asin',
    help: 'Angle in radians whose sine is the value, which is held within ±1',
    graph: { group: 'arithmetic', words: 'arc sine', defaults: [[0]] },
    ports: ['in'],
    alu: 23,
    lanes: (l, [x]) => l.subtract(l.number(Math.PI / 2), arcCosine(l, x)),
    range: () => ({ lo: -Math.PI / 2 - 1e-6, hi: Math.PI / 2 + 1e-6 }),
    derivative: 'zero',
  }),
  pointwise({
    name: 'atan2',
    jumps: true,
    help: 'Angle in radians, −π to π, of the direction x to the right and y up; 0 where both are 0',
    graph: { group: 'arithmetic', words: 'angle of a direction, arc tangent, around, polar', defaults: [[0], [1]] },
    ports: ['iny', 'inx'],
    alu: 12,
    lanes: (l, [y, x]) => angleOf(l, y, x),
    range: () => loose({ lo: -Math.PI, hi: Math.PI }),
    derivative: (b, { args: [y, x] }, d) => b.divide(b.subtract(b.multiply(x, d(0)), b.multiply(y, d(1))), b.add(b.multiply(x, x), b.multiply(y, y))),
  }),
  pointwise({
    name: 'step',
    jumps: true,
    help: '0 below the edge, 1 from it on',
    materialx: 'PB_step',
    graph: { group: 'conditions', words: 'threshold, hard edge, cut, binary mask', defaults: [[0.5], [0]], thresholds: { edge: 'in' } },
    ports: ['edge', 'in'],
    alu: 1,
    lanes: (l, [edge, x]) => l.select(l.less(x, edge), l.number(0), l.number(1)),
    range: () => UNIT,
    derivative: 'zero',
  }),
  pointwise({
    name: 'contrast',
    help: 'Farther from the pivot by an amount, or nearer to it below 1',
    graph: { group: 'arithmetic', words: 'steepen, flatten, levels', defaults: [[0], [1], [0.5]], thresholds: { pivot: 'in' } },
    ports: ['in', 'amount', 'pivot'],
    alu: 3,
    lanes: (l, [x, amount, pivot]) => l.add(l.multiply(l.subtract(x, pivot), amount), pivot),
    range: () => ANY,
    derivative: (b, node, d) => b.multiply(d(0), node.args[1]),
    simpler: ({ args: [x, amount, pivot] }) =>
      isConstant(amount, 1) && isConstant(pivot) && Math.max(-pivot.range.lo, pivot.range.hi) <= 1 ? x : null,
  }),
  pointwise({
    name: 'range',
    help: 'From one range to another through a gamma, held within the range it goes to',
    graph: {
      group: 'arithmetic',
      words: 'levels, gamma, remap with gamma, photo to data',
      defaults: [[0], [0], [1], [1], [0], [1]],
      thresholds: { inlow: 'in', inhigh: 'in' },
    },
    ports: ['in', 'inlow', 'inhigh', 'gamma', 'outlow', 'outhigh'],
    alu: 18,
    lanes: (l, [x, a, b, gamma, c, d]) => {
      const [zero, one] = [l.number(0), l.number(1)];
      const t = clampLanes(l, guarded(l, l.subtract(x, a), l.subtract(b, a)), zero, one);
      const bent = l.select(l.equal(gamma, one), t, powerLanes(l, t, guarded(l, one, gamma)));
      return l.add(c, l.multiply(bent, l.subtract(d, c)));
    },
    range: ([, , , , c, d]) => loose({ lo: Math.min(c.lo, d.lo), hi: Math.max(c.hi, d.hi) }),
    derivative: 'zero',
  }),
];
