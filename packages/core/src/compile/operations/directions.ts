// Directions, lengths, and normals from one space to another.
import type { Lanes } from '../lanes';
import { dotLanes } from '../lanes';
import type { Operation } from '../registry';
import type { Interval } from '../types';
import { ANY, UNIT } from '../types';
import { hashLanes, unitLanes as randomLanes } from './hash';
import { cosine, sine } from './polynomials';
import { always, any, isConstant } from './shared';

const vec3 = (name: string) => ({ name, type: 'vec3' as const });
const SIGNED: Interval = { lo: -1.0001, hi: 1.0001 };
const crossLanes = <V>(l: Lanes<V>, a: readonly V[], b: readonly V[]): V[] =>
  [0, 1, 2].map((i) => {
    const [j, k] = [(i + 1) % 3, (i + 2) % 3];
    return l.subtract(l.multiply(a[j], b[k]), l.multiply(a[k], b[j]));
  });
const lengthLanes = <V>(l: Lanes<V>, v: readonly V[]): V => l.sqrt(dotLanes(l, v, v));
/** The same direction with length 1; zero stays zero. */
const safeUnit = <V>(l: Lanes<V>, v: readonly V[]): V[] => {
  const length = l.max(l.number(1e-12), lengthLanes(l, v));
  return v.map((x) => l.divide(x, length));
};
/** Axes of a place: along u, along v, out of the ground. */
function frameLanes<V>(l: Lanes<V>, normal: readonly V[], tangent: readonly V[]): V[][] {
  const n = safeUnit(l, normal);
  const along = tangent.slice(0, 3);
  const out = dotLanes(l, n, along);
  const across = along.map((x, c) => l.subtract(x, l.multiply(n[c], out)));
  // What a tangent along the normal leaves is rounding alone: it has no direction, and gives none.
  const none = l.less(dotLanes(l, across, across), l.multiply(l.number(1e-8), dotLanes(l, along, along)));
  const t = safeUnit(
    l,
    across.map((x) => l.select(none, l.number(0), x)),
  );
  return [t, crossLanes(l, n, t).map((x) => l.multiply(x, tangent[3])), n];
}

/** Furthest that vectors within an interval reach from one another, or from 0. */
const reach = (r: Interval): Interval => ({ lo: 0, hi: 2 * Math.max(Math.abs(r.lo), Math.abs(r.hi)) * 1.0001 });

export const NORMAL_SPACES = ['tangent', 'object', 'world'] as const;

export const DIRECTIONS: Operation[] = [
  {
    name: 'crossproduct',
    help: 'The direction square to two others',
    materialx: 'crossproduct',
    inputs: [vec3('in1'), vec3('in2')],
    result: always('vec3'),
    graph: {
      group: 'vectors',
      words: 'cross, perpendicular',
      defaults: [
        [1, 0, 0],
        [0, 1, 0],
      ],
    },
    lanes: (l, [a, b]) => crossLanes(l, a, b),
    price: { alu: 9 },
    range: () => ANY,
    derivative: (b, { args: [x, y] }, d) => b.add(b.node('crossproduct', [d(0), y]), b.node('crossproduct', [x, d(1)])),
  },
  {
    name: 'magnitude',
    help: 'Length of a vector',
    materialx: 'magnitude',
    inputs: any('in'),
    result: always('float'),
    graph: { group: 'vectors', words: 'length, distance from 0', defaults: [[0]] },
    lanes: (l, [a]) => [lengthLanes(l, a)],
    price: { alu: 5 },
    range: ([a]) => reach(a),
    derivative: (b, node, d) => b.divide(b.node('dotproduct', [node.args[0], d(0)]), node),
  },
  {
    name: 'distance',
    help: 'Length from one place to another',
    materialx: 'distance',
    inputs: any('in1', 'in2'),
    result: always('float'),
    graph: { group: 'vectors', words: 'length between, radius, circle', defaults: [[0], [0]] },
    lanes: (l, [a, b]) => {
      const many = Math.max(a.length, b.length);
      const at = (v: readonly (typeof a)[number][], c: number) => v[Math.min(c, v.length - 1)];
      return [
        lengthLanes(
          l,
          Array.from({ length: many }, (_, c) => l.subtract(at(a, c), at(b, c))),
        ),
      ];
    },
    price: { alu: 8 },
    range: ([a, b]) => {
      const far = Math.max(Math.abs(a.hi - b.lo), Math.abs(b.hi - a.lo));
      return { lo: 0, hi: 2 * far * 1.0001 };
    },
    derivative: (b, node, d) => {
      const apart = b.subtract(node.args[0], node.args[1]);
      return b.divide(b.node('dotproduct', [apart, b.subtract(d(0), d(1))]), node);
    },
  },
  {
    name: 'rotate2d',
    help: 'Turned about 0 by degrees',
    materialx: 'rotate2d',
    inputs: [
      { name: 'in', type: 'vec2' },
      { name: 'amount', type: 'float' },
    ],
    result: always('vec2'),
    graph: { group: 'vectors', words: 'turn, spin, rotate coordinates', defaults: ['texcoord', [0]] },
    lanes: (l, [[x, y], [degrees]]) => {
      const angle = l.multiply(degrees, l.number(Math.PI / 180));
      const [c, s] = [cosine(l, angle), sine(l, angle)];
      return [l.add(l.multiply(c, x), l.multiply(s, y)), l.subtract(l.multiply(c, y), l.multiply(s, x))];
    },
    price: { alu: 14 },
    range: ([a]) => ({ lo: -2 * Math.max(Math.abs(a.lo), Math.abs(a.hi)), hi: 2 * Math.max(Math.abs(a.lo), Math.abs(a.hi)) }),
    derivative: (b, node, d) => b.node('rotate2d', [d(0), node.args[1]]),
    simpler: ({ args: [a, amount] }) => (isConstant(amount, 0) ? a : null),
  },
  {
    name: 'transformnormal',
    help: 'A normal from one space to another: tangent (x along u, z out of the ground), object, world. On the stage an object stands as it was made, so object and world are the same',
    materialx: 'transformnormal',
    inputs: [vec3('in'), vec3('normal'), { name: 'tangent', type: 'vec4' }],
    result: always('vec3'),
    graph: {
      group: 'normals',
      words: 'tangent to world, world to tangent, object space normal',
      defaults: [[0, 0, 1], 'normal', 'tangent'],
      settings: [
        { name: 'fromspace', choices: NORMAL_SPACES },
        { name: 'tospace', choices: ['world', 'object', 'tangent'] },
      ],
    },
    lanes: (l, [v, normal, tangent], node) => {
      const [from, to] = [node.attrs['fromspace'], node.attrs['tospace']].map((space) => space === 'tangent');
      if (from === to) return [...v];
      const axes = frameLanes(l, normal, tangent);
      if (!from) return axes.map((axis) => dotLanes(l, v, axis));
      return [0, 1, 2].map((c) => axes.map((axis, i) => l.multiply(axis[c], v[i])).reduce((p, q) => l.add(p, q)));
    },
    price: { alu: 'counted' },
    range: () => ANY,
    derivative: 'zero',
    simpler: ({ args, attrs }) => ((attrs['fromspace'] === 'tangent') === (attrs['tospace'] === 'tangent') ? args[0] : null),
  },
  {
    // Source: Barré-Brisebois & Hill, "Blending in Detail", 2012.
    name: 'overnormal',
    unit: true,
    help: 'A detail normal laid over a base: a flat detail leaves the base, a flat base leaves the detail',
    materialx: 'PB_overnormal',
    inputs: [vec3('base'), vec3('detail')],
    result: always('vec3'),
    graph: {
      group: 'normals',
      words: 'detail normal, combine normals, reoriented, own normal over',
      defaults: [
        [0, 0, 1],
        [0, 0, 1],
      ],
    },
    lanes: (l, [base, detail]) => {
      const t = [base[0], base[1], l.add(base[2], l.number(1))];
      const u = [l.subtract(l.number(0), detail[0]), l.subtract(l.number(0), detail[1]), detail[2]];
      const by = l.divide(dotLanes(l, t, u), l.max(t[2], l.number(1e-3)));
      const r = t.map((x, c) => l.subtract(l.multiply(x, by), u[c]));
      // No flatter to the surface than z = 0.05.
      return safeUnit(l, [r[0], r[1], l.max(r[2], l.number(0.05))]);
    },
    price: { alu: 20 },
    range: () => SIGNED,
    derivative: 'zero',
  },
  {
    name: 'randomfloat',
    jumps: true,
    help: 'A number between 0 and 1 for each whole number, the same for the same seed',
    materialx: 'randomfloat',
    inputs: [
      { name: 'in', type: 'float' },
      { name: 'seed', type: 'float' },
    ],
    result: always('float'),
    graph: { group: 'procedural', words: 'random, hash, vary by object, random by object', defaults: ['part', [1]] },
    lanes: (l, [[x], [seed]]) => {
      const whole = (v: typeof x) => l.toWhole(l.max(l.number(0), l.min(l.number(8388607), l.floor(v))));
      return [randomLanes(l, hashLanes(l, whole(x), l.whole(0), whole(seed))[0])];
    },
    price: { alu: 'counted' },
    range: () => UNIT,
    derivative: 'zero',
  },
];
