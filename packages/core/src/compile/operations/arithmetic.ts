import { clampLanes, mixLanes, smoothLanes } from '../lanes';
import type { Operation } from '../registry';
import { ANY } from '../types';
import { pointwise } from './pointwise';
import { corners, hasEqual, isConstant, isSound, isWhole, productIsLinear, sumIsLinear } from './shared';

/** GLSL: 1 where a component is 0, else 0. */
const isZero = (type: string, x: string) => (type === 'float' ? `float(${x} == 0.0)` : `${type}(equal(${x}, ${type}(0.0)))`);
const TYPES = ['float', 'vec2', 'vec3', 'vec4'];
const within = (x: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, x));

export const ARITHMETIC: Operation[] = [
  pointwise({
    name: 'add',
    commutes: true,
    graph: { group: 'arithmetic', words: 'sum, plus, brighten, offset', defaults: [[0], [0]] },
    help: 'a + b',
    linear: sumIsLinear,
    ports: ['in1', 'in2'],
    glsl: ([a, b]) => `${a} + ${b}`,
    lanes: (l, [a, b]) => l.add(a, b),
    range: ([a, b]) => ({ lo: a.lo + b.lo, hi: a.hi + b.hi }),
    derivative: (b, _, d) => b.add(d(0), d(1)),
    simpler: ({ args: [a, b] }) => (isConstant(b, 0) ? a : isConstant(a, 0) ? b : null),
  }),
  pointwise({
    name: 'subtract',
    graph: { group: 'arithmetic', words: 'minus, difference, darken', defaults: [[0], [0]] },
    help: 'a − b',
    linear: sumIsLinear,
    ports: ['in1', 'in2'],
    glsl: ([a, b]) => `${a} - ${b}`,
    lanes: (l, [a, b]) => l.subtract(a, b),
    range: ([a, b]) => ({ lo: a.lo - b.hi, hi: a.hi - b.lo }),
    derivative: (b, _, d) => b.subtract(d(0), d(1)),
    simpler: ({ args: [a, b], type }, to) => (isConstant(b, 0) ? a : a === b && isSound(a) ? to.zero(type) : null),
  }),
  pointwise({
    name: 'multiply',
    commutes: true,
    graph: { group: 'arithmetic', words: 'times, scale, product, darken, tint, mask out', defaults: [[1], [1]] },
    help: 'a · b',
    linear: productIsLinear,
    ports: ['in1', 'in2'],
    glsl: ([a, b]) => `${a} * ${b}`,
    lanes: (l, [a, b]) => l.multiply(a, b),
    range: (r) => corners(r, (a, b) => a * b),
    derivative: (b, node, d) => b.add(b.multiply(d(0), node.args[1]), b.multiply(node.args[0], d(1))),
    simpler: ({ args: [a, b] }) => (isConstant(b, 1) || isConstant(a, 0) ? a : isConstant(a, 1) || isConstant(b, 0) ? b : null),
  }),
  pointwise({
    // 0 where the divisor is 0, on both back ends: no infinity leaves an operation.
    name: 'divide',
    graph: { group: 'arithmetic', words: 'over, ratio, quotient', defaults: [[1], [1]] },
    help: 'a / b, and 0 where b is 0',
    ports: ['in1', 'in2'],
    alu: 2,
    functions: TYPES.map((t) => `${t} pb_divide(${t} a, ${t} b) { ${t} z = ${isZero(t, 'b')}; return a / (b + z) * (${t}(1.0) - z); }`),
    glsl: ([a, b]) => `pb_divide(${a}, ${b})`,
    lanes: (l, [a, b]) => l.select(l.equal(b, l.number(0)), l.number(0), l.divide(a, b)),
    range: (r) => (r[1].lo > 0 || r[1].hi < 0 ? corners(r, (a, b) => a / b) : ANY),
    derivative: (b, node, d) => {
      const [x, y] = node.args;
      return b.divide(b.subtract(b.multiply(d(0), y), b.multiply(x, d(1))), b.multiply(y, y));
    },
    simpler: ({ args: [a, b] }) => (isConstant(b, 1) ? a : null),
  }),
  pointwise({
    name: 'min',
    graph: { group: 'arithmetic', words: 'minimum, smaller, at most, intersect masks', defaults: [[0], [1]] },
    help: 'The smaller of a and b',
    ports: ['in1', 'in2'],
    glsl: ([a, b]) => `min(${a}, ${b})`,
    lanes: (l, [a, b]) => l.min(a, b),
    range: ([a, b]) => ({ lo: Math.min(a.lo, b.lo), hi: Math.min(a.hi, b.hi) }),
    derivative: 'zero',
    simpler: ({ args: [a, b] }) => (a === b || a.range.hi <= b.range.lo ? a : b.range.hi <= a.range.lo ? b : null),
  }),
  pointwise({
    name: 'max',
    graph: { group: 'arithmetic', words: 'maximum, larger, at least, union of masks', defaults: [[0], [0]] },
    help: 'The larger of a and b',
    ports: ['in1', 'in2'],
    glsl: ([a, b]) => `max(${a}, ${b})`,
    lanes: (l, [a, b]) => l.max(a, b),
    range: ([a, b]) => ({ lo: Math.max(a.lo, b.lo), hi: Math.max(a.hi, b.hi) }),
    derivative: 'zero',
    simpler: ({ args: [a, b] }) => (a === b || a.range.lo >= b.range.hi ? a : b.range.lo >= a.range.hi ? b : null),
  }),
  pointwise({
    name: 'clamp',
    graph: { group: 'arithmetic', words: 'limit, hold, saturate, keep in range', defaults: [[0], [0], [1]] },
    help: 'The value held between low and high',
    ports: ['in', 'low', 'high'],
    alu: 2,
    glsl: ([x, lo, hi]) => `clamp(${x}, ${lo}, ${hi})`,
    lanes: (l, [x, lo, hi]) => clampLanes(l, x, lo, hi),
    range: ([x, lo, hi]) => ({ lo: within(x.lo, lo.lo, hi.lo), hi: within(x.hi, lo.hi, hi.hi) }),
    derivative: 'zero',
    simpler: ({ args: [x, lo, hi] }) => (isConstant(lo) && isConstant(hi) && x.range.lo >= lo.range.hi && x.range.hi <= hi.range.lo ? x : null),
  }),
  pointwise({
    name: 'mix',
    graph: { group: 'arithmetic', words: 'lerp, blend, interpolate, fade, crossfade', defaults: [[0], [1], [0.5]] },
    help: 'From background to foreground by the mix',
    ports: ['bg', 'fg', 'mix'],
    alu: 2,
    glsl: ([a, b, t]) => `pb_mix(${a}, ${b}, ${t})`,
    functions: TYPES.map((t) => `${t} pb_mix(${t} a, ${t} b, ${t} t) { return a + (b - a) * t; }`),
    lanes: (l, [a, b, t]) => mixLanes(l, a, b, t),
    range: (r) =>
      r[2].lo >= 0 && r[2].hi <= 1 ? { lo: Math.min(r[0].lo, r[1].lo), hi: Math.max(r[0].hi, r[1].hi) } : corners(r, (a, b, t) => a + (b - a) * t),
    derivative: (b, node, d) => {
      const [x, y, t] = node.args;
      return b.add(b.mix(d(0), d(1), t), b.multiply(b.subtract(y, x), d(2)));
    },
    simpler: ({ args: [a, b, t] }) => (isConstant(t, 0) || a === b ? a : isConstant(t, 1) ? b : null),
  }),
  pointwise({
    name: 'invert',
    graph: { group: 'arithmetic', words: 'one minus, negative, complement, flip a mask', defaults: [[0]] },
    help: '1 − a',
    ports: ['in'],
    glsl: ([a], node) => `${node.type}(1.0) - ${a}`,
    lanes: (l, [a]) => l.subtract(l.number(1), a),
    range: ([a]) => ({ lo: 1 - a.hi, hi: 1 - a.lo }),
    derivative: (b, node, d) => b.subtract(b.zero(node.type), d(0)),
    simpler: ({ args: [a] }) => (a.op === 'invert' ? a.args[0] : null),
  }),
  pointwise({
    name: 'absval',
    graph: { group: 'arithmetic', words: 'absolute, abs, magnitude of a number', defaults: [[0]] },
    help: 'The value without its sign',
    ports: ['in'],
    glsl: ([a]) => `abs(${a})`,
    lanes: (l, [a]) => l.abs(a),
    range: ([a]) => ({ lo: a.lo > 0 ? a.lo : a.hi < 0 ? -a.hi : 0, hi: Math.max(Math.abs(a.lo), Math.abs(a.hi)) }),
    derivative: 'zero',
    simpler: ({ args: [a] }) => (a.range.lo >= 0 ? a : null),
  }),
  pointwise({
    name: 'sqrt',
    graph: { group: 'arithmetic', words: 'square root, brighten a mask', defaults: [[0]] },
    help: 'Square root, 0 below 0',
    ports: ['in'],
    alu: 2,
    glsl: ([a], node) => `sqrt(max(${a}, ${node.type}(0.0)))`,
    lanes: (l, [a]) => l.sqrt(l.max(l.number(0), a)),
    range: ([a]) => ({ lo: Math.sqrt(Math.max(0, a.lo)), hi: Math.sqrt(Math.max(0, a.hi)) }),
    derivative: (b, node, d) => b.divide(d(0), b.multiply(b.constant(2), node)),
  }),
  pointwise({
    name: 'floor',
    jumps: true,
    graph: { group: 'arithmetic', words: 'round down, whole, steps', defaults: [[0]] },
    help: 'The whole number at or below',
    ports: ['in'],
    glsl: ([a]) => `floor(${a})`,
    lanes: (l, [a]) => l.floor(a),
    range: ([a]) => ({ lo: Math.floor(a.lo), hi: Math.floor(a.hi) }),
    derivative: 'zero',
    simpler: ({ args: [a] }) => (isWhole(a) ? a : null),
  }),
  pointwise({
    name: 'fract',
    jumps: true,
    graph: { group: 'arithmetic', words: 'fraction, sawtooth, repeat', defaults: [[0]] },
    help: 'What lies past the whole number',
    ports: ['in'],
    glsl: ([a]) => `(${a} - floor(${a}))`,
    lanes: (l, [a]) => l.subtract(a, l.floor(a)),
    range: () => ({ lo: 0, hi: 1 }),
    derivative: (_, __, d) => d(0),
  }),
  pointwise({
    name: 'smoothstep',
    graph: { group: 'arithmetic', words: 'smooth threshold, soft edge, ease', defaults: [[0], [0], [1]], thresholds: { low: 'in', high: 'in' } },
    help: 'Smooth rise from 0 at low to 1 at high; a step where they meet',
    ports: ['in', 'low', 'high'],
    alu: 7,
    functions: TYPES.map(
      (t) =>
        `${t} pb_smoothstep(${t} x, ${t} lo, ${t} hi) { ${t} k = clamp((x - lo) / max(hi - lo, ${t}(1e-6)), ${t}(0.0), ${t}(1.0)); return k * k * (${t}(3.0) - 2.0 * k); }`,
    ),
    glsl: ([x, lo, hi]) => `pb_smoothstep(${x}, ${lo}, ${hi})`,
    lanes: (l, [x, lo, hi]) => {
      const width = l.max(l.number(1e-6), l.subtract(hi, lo));
      return smoothLanes(l, clampLanes(l, l.divide(l.subtract(x, lo), width), l.number(0), l.number(1)));
    },
    range: () => ({ lo: 0, hi: 1 }),
    derivative: 'zero',
  }),
  pointwise({
    name: 'remap',
    graph: {
      group: 'arithmetic',
      words: 'scale a range, levels, from and to',
      defaults: [[0], [0], [1], [0], [1]],
      thresholds: { inlow: 'in', inhigh: 'in' },
    },
    help: 'From one range to another, straight',
    ports: ['in', 'inlow', 'inhigh', 'outlow', 'outhigh'],
    alu: 5,
    functions: TYPES.map(
      (t) =>
        `${t} pb_remap(${t} x, ${t} a, ${t} b, ${t} c, ${t} d) { ${t} s = b - a; ${t} z = ${isZero(t, 's')}; return c + (x - a) / (s + z) * (${t}(1.0) - z) * (d - c); }`,
    ),
    glsl: (args) => `pb_remap(${args.join(', ')})`,
    lanes: (l, [x, a, b, c, d]) => {
      const width = l.subtract(b, a);
      const t = l.select(l.equal(width, l.number(0)), l.number(0), l.divide(l.subtract(x, a), width));
      return l.add(c, l.multiply(t, l.subtract(d, c)));
    },
    range: () => ANY,
    derivative: (b, { args: [, from, to, low, high] }, d) => b.divide(b.multiply(d(0), b.subtract(high, low)), b.subtract(to, from)),
    simpler: ({ args: [x, a, b, c, d] }) => (isConstant(a) && isConstant(b) && a === c && b === d && a !== b && !hasEqual(a, b) ? x : null),
  }),
];
