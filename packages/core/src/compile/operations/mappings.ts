// Other coordinates to look things up by: around a middle, and cells in which each has its own random numbers.
import type { Operation } from '../registry';
import { ANY, UNIT } from '../types';
import { hashLanes, lowUnitLanes, periodsOf, unitLanes, wrapLanes } from './hash';
import { angleOf } from './polynomials';
import { always } from './shared';

const TURN = 2 * Math.PI;
/** Of the inputs of a polar mapping: place, middle, times around, times outward, what is added. */
const [PLACE, MIDDLE, AROUND, OUTWARD] = [0, 1, 2, 3];

/** From the axes of a triangle grid to those of its skewed square, and back. Source: Heitz & Neyret, "High-Performance By-Example Noise", 2018. */
const SKEW = { x: 0.57735027, y: 1.15470054 };

export const MAPPINGS: Operation[] = [
  {
    name: 'polar2d',
    help: 'Angle about a middle in turns, times a whole number (x), and distance from it (y)',
    materialx: 'PB_polar2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'middle', type: 'vec2' },
      { name: 'around', type: 'float' },
      { name: 'outward', type: 'float' },
    ],
    result: always('vec2'),
    lanes: (l, [place, middle, [around], [outward]], { attrs }) => {
      const [x, y] = place.map((p, c) => l.subtract(p, middle[c]));
      const far = l.sqrt(l.add(l.multiply(x, x), l.multiply(y, y)));
      const angle = angleOf(l, y, x);
      // Folded, the angle grows from the right to the left on both sides, and nothing jumps.
      const turns = attrs['folded'] ? l.multiply(l.abs(angle), l.number(1 / Math.PI)) : l.multiply(angle, l.number(1 / TURN));
      const whole = l.floor(l.add(around, l.number(0.5)));
      const times = l.select(l.equal(whole, l.number(0)), l.number(1), whole);
      return [l.multiply(turns, times), l.multiply(l.multiply(far, l.number(2)), outward)];
    },
    functions: [
      'vec2 pb_polar(vec2 p, float turn, float outward) { float far = length(p); return vec2((far > 0.0 ? atan(p.y, p.x) : 0.0) * turn, far * 2.0 * outward); }',
      'float pb_whole(float n) { float w = floor(n + 0.5); return w == 0.0 ? 1.0 : w; }',
    ],
    live: ([place, middle, around, outward], { attrs }) =>
      attrs['folded']
        ? `abs(pb_polar(${place} - ${middle}, pb_whole(${around}) * ${1 / Math.PI}, ${outward})) * vec2(sign(pb_whole(${around})), sign(${outward}))`
        : `pb_polar(${place} - ${middle}, pb_whole(${around}) * ${1 / TURN}, ${outward})`,
    price: { alu: 24 },
    range: () => ANY,
    // du = around · (n⊥·dx) / (2π · max(ρ, |dx|/π)), dv = 2 · outward · (n·dx): within a pixel of the middle no steeper than the pixel allows.
    derivative: (b, { args, attrs }, d) => {
      const at = b.subtract(args[PLACE], args[MIDDLE]);
      const moved = b.subtract(d(PLACE), d(MIDDLE));
      const far = b.node('magnitude', [at]);
      const to = b.node('ifgreater', [far, b.constant(0), b.node('normalize', [at]), b.constant(1, 0)]);
      const square = b.combine(b.subtract(b.constant(0), b.extract(to, 1)), b.extract(to, 0));
      const least = b.node('max', [far, b.multiply(b.node('magnitude', [moved]), b.constant(1 / Math.PI))]);
      const turns = b.divide(
        b.node('dotproduct', [square, moved]),
        b.multiply(b.constant(attrs['folded'] ? Math.PI : TURN), b.node('max', [least, b.constant(1e-9)])),
      );
      const times = b.node('round', [args[AROUND]]);
      return b.combine(b.multiply(times, turns), b.multiply(b.multiply(b.constant(2), args[OUTWARD]), b.node('dotproduct', [to, moved])));
    },
    jumps: ({ attrs }) => !attrs['folded'],
  },
  {
    name: 'cellrandom2d',
    help: 'Four random numbers of a cell, 0–1, the same again after a period of cells',
    materialx: 'PB_cellrandom2d',
    inputs: [
      { name: 'cell', type: 'vec2' },
      { name: 'period', type: 'any' },
      { name: 'seed', type: 'float' },
    ],
    result: always('vec4'),
    lanes: (l, [cell, period, [seed]]) => {
      const periods = periodsOf(l, period);
      const [x, y] = cell.map((c, i) => l.toWhole(wrapLanes(l, l.floor(l.add(c, l.number(0.5))), periods[i])));
      const words = hashLanes(l, x, y, l.toWhole(seed));
      return [...words.map((w) => unitLanes(l, w)), lowUnitLanes(l, l.xor(words[0], words[2]))];
    },
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: 'zero',
    jumps: true,
  },
  {
    name: 'trianglecell2d',
    help: 'One of the three corners of the triangle around a place: its cell (x, y) and how near it is (z); the three add up to 1',
    materialx: 'PB_trianglecell2d',
    inputs: [{ name: 'texcoord', type: 'vec2' }],
    result: always('vec3'),
    lanes: (l, [[u, v]], { attrs }) => {
      const [zero, one] = [l.number(0), l.number(1)];
      const skewed = [l.subtract(u, l.multiply(v, l.number(SKEW.x))), l.multiply(v, l.number(SKEW.y))];
      const base = skewed.map((x) => l.floor(x));
      const [x, y] = skewed.map((s, c) => l.subtract(s, base[c]));
      const z = l.subtract(l.subtract(one, x), y);
      // Which of the two triangles of the square.
      const far = l.less(z, zero);
      const pick = (near: typeof x, beyond: typeof x) => l.select(far, beyond, near);
      const corners = [
        { i: pick(zero, one), j: pick(zero, one), weight: l.abs(z) },
        { i: pick(zero, one), j: pick(one, zero), weight: pick(y, l.subtract(one, y)) },
        { i: pick(one, zero), j: pick(zero, one), weight: pick(x, l.subtract(one, x)) },
      ];
      const { i, j, weight } = corners[Number(attrs['index'] ?? 0)];
      return [l.add(base[0], i), l.add(base[1], j), weight];
    },
    price: { alu: 16 },
    range: () => ANY,
    derivative: 'zero',
    jumps: true,
  },
  {
    name: 'trianglecorner2d',
    help: 'Where a corner of the triangle grid lies, from its cell',
    materialx: 'PB_trianglecorner2d',
    inputs: [{ name: 'cell', type: 'vec2' }],
    result: always('vec2'),
    lanes: (l, [[i, j]]) => [l.add(i, l.multiply(j, l.number(0.5))), l.multiply(j, l.number(0.8660254))],
    price: { alu: 3 },
    range: () => ANY,
    derivative: 'zero',
  },
];
