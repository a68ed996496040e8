import type { Lanes } from '../lanes';
import { dotLanes, mixLanes } from '../lanes';
import type { Operation } from '../registry';
import { operation } from '../registry';
import { ANY, typeOf } from '../types';
import { always, any, corners, isConstant } from './shared';

const XYZW = 'xyzw';

/** A vector that is not zero, with length 1. */
function unitLanes<V>(l: Lanes<V>, v: readonly V[]): V[] {
  const inverse = l.divide(l.number(1), l.sqrt(dotLanes(l, v, v)));
  return v.map((x) => l.multiply(x, inverse));
}

/** The unit normal of a slope, no flatter to the surface than z = 0.05. */
function heldLanes<V>(l: Lanes<V>, slope: readonly V[]): V[] {
  const one = l.number(1);
  const length = l.sqrt(l.add(dotLanes(l, slope, slope), one));
  return unitLanes(l, [...slope, l.max(one, l.multiply(l.number(0.05), length))]);
}

const combine = (count: 2 | 3 | 4): Operation => ({
  name: `combine${count}`,
  help: `${count} numbers as one vector`,
  materialx: `combine${count}`,
  inputs: Array.from({ length: count }, (_, i) => ({ name: `in${i + 1}`, type: 'float' as const })),
  result: always(typeOf(count)),
  glsl: (args) => `vec${count}(${args.join(', ')})`,
  lanes: (_, args) => args.map(([a]) => a),
  price: { alu: 0 },
  range: (r) => ({ lo: Math.min(...r.map((x) => x.lo)), hi: Math.max(...r.map((x) => x.hi)) }),
  graph: { group: 'channels', words: `vec${count}, pack numbers, make a vector`, defaults: Array.from({ length: count }, () => [0]) },
  derivative: (b, _, d) => b.combine(...Array.from({ length: count }, (__, i) => d(i))),
  // The components of one vector in their order are that vector.
  simpler: ({ args, type }) => {
    const [from] = args[0].op === 'extract' ? args[0].args : [];
    const same = from?.type === type && args.every((a, i) => a.op === 'extract' && a.args[0] === from && a.attrs['index'] === i);
    return same ? from : null;
  },
});

export const VECTORS: Operation[] = [
  combine(2),
  combine(3),
  combine(4),
  {
    name: 'extract',
    help: 'One component of a vector',
    materialx: 'extract',
    inputs: any('in'),
    result: always('float'),
    glsl: ([a], node) => (node.args[0].type === 'float' ? a : `${a}.${XYZW[node.attrs['index'] as number]}`),
    lanes: (_, [a], node) => [a[node.attrs['index'] as number]],
    graph: {
      group: 'channels',
      words: 'component, channel, red, green, blue, swizzle',
      defaults: [[0]],
      settings: [{ name: 'index', choices: [0, 1, 2, 3] }],
    },
    price: { alu: 0 },
    range: ([a]) => a,
    derivative: (b, node, d) => b.extract(d(0), node.attrs['index'] as number),
    simpler: ({ args: [a], attrs }) => (a.op.startsWith('combine') ? a.args[attrs['index'] as number] : a.type === 'float' ? a : null),
  },
  {
    name: 'dotproduct',
    help: 'Sum of the products of the components',
    materialx: 'dotproduct',
    inputs: any('in1', 'in2'),
    result: always('float'),
    // Two floats are multiplied; a float beside a vector goes with every component.
    lanes: (l, [a, b]) => {
      const spread = (v: typeof a) => Array.from({ length: Math.max(a.length, b.length) }, (_, c) => v[Math.min(c, v.length - 1)]);
      return [dotLanes(l, spread(a), spread(b))];
    },
    graph: { group: 'vectors', words: 'dot, angle between, facing, project', defaults: [[0], [0]] },
    price: { alu: 3 },
    range: (r) => {
      const one = corners(r, (a, b) => a * b);
      return { lo: Math.min(4 * one.lo, one.lo), hi: Math.max(4 * one.hi, one.hi) };
    },
    derivative: (b, node, d) => b.add(b.node('dotproduct', [d(0), node.args[1]]), b.node('dotproduct', [node.args[0], d(1)])),
  },
  {
    name: 'normalize',
    help: 'The same direction with length 1; zero stays zero',
    materialx: 'normalize',
    inputs: any('in'),
    result: ([t]) => t,
    functions: ['float', 'vec2', 'vec3', 'vec4'].map((t) => `${t} pb_normalize(${t} v) { return v / max(sqrt(dot(v, v)), 1e-12); }`),
    glsl: ([a]) => `pb_normalize(${a})`,
    lanes: (l, [a]) => {
      const length = l.max(l.number(1e-12), l.sqrt(dotLanes(l, a, a)));
      return a.map((x) => l.divide(x, length));
    },
    graph: { group: 'vectors', words: 'unit length, direction', defaults: [[0]] },
    price: { alu: 7 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
    simpler: ({ args: [a] }) => (operation(a.op).unit ? a : null),
  },
  {
    name: 'place2d',
    help: 'Texture coordinate repeated (scale) and moved (offset)',
    materialx: 'place2d',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'scale', type: 'vec2' },
      { name: 'offset', type: 'vec2' },
    ],
    result: always('vec2'),
    glsl: ([uv, s, o]) => `${uv} * ${s} + ${o}`,
    lanes: (l, [uv, s, o]) => uv.map((x, c) => l.add(l.multiply(x, s[c]), o[c])),
    graph: { group: 'images', words: 'tile, repeat, move, scale coordinates, tiling', defaults: ['texcoord', [1], [0]] },
    linear: ([uv, ...by]) => uv === 'linear' && by.every((v) => v === 'steady'),
    price: { alu: 2 },
    range: () => ANY,
    derivative: (b, node, d) => b.multiply(d(0), node.args[1]),
    simpler: ({ args: [uv, scale, offset] }) => (isConstant(scale, 1) && isConstant(offset, 0) ? uv : null),
  },
  {
    name: 'normalmap',
    unit: true,
    help: 'A stored normal (x and y, −1 to 1) as a unit vector, steepened by a strength',
    materialx: 'normalmap',
    inputs: [
      { name: 'in', type: 'vec2' },
      { name: 'scale', type: 'float' },
    ],
    result: always('vec3'),
    functions: [
      `vec3 pb_unit(vec3 n) { n.z = max(n.z, 0.05); return n / sqrt(dot(n, n)); }`,
      `vec3 pb_normalmap(vec2 xy, float k) { float z = sqrt(max(0.0, 1.0 - dot(xy, xy))); return pb_unit(vec3(xy * k, z)); }`,
    ],
    glsl: ([a, k]) => `pb_normalmap(${a}, ${k})`,
    lanes: (l, [xy, [k]]) => {
      const z = l.sqrt(l.max(l.number(0), l.subtract(l.number(1), dotLanes(l, xy, xy))));
      return unitLanes(l, [...xy.map((v) => l.multiply(v, k)), l.max(l.number(0.05), z)]);
    },
    graph: { group: 'normals', words: 'unpack a normal, normal strength', defaults: [[0], [1]] },
    price: { alu: 14 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
  },
  {
    name: 'mixnormal',
    unit: true,
    help: 'Two unit normals mixed in slope space, so that half way is half the slope',
    materialx: 'PB_mixnormal',
    inputs: [
      { name: 'bg', type: 'vec3' },
      { name: 'fg', type: 'vec3' },
      { name: 'mix', type: 'float' },
    ],
    result: always('vec3'),
    functions: [
      `vec3 pb_mixnormal(vec3 a, vec3 b, float t) { vec2 p = a.xy / max(a.z, 0.05); vec2 q = b.xy / max(b.z, 0.05); vec3 n = vec3(p + (q - p) * t, 1.0); n.z = max(1.0, 0.05 * sqrt(dot(n, n))); return n / sqrt(dot(n, n)); }`,
    ],
    glsl: (args) => `pb_mixnormal(${args.join(', ')})`,
    lanes: (l, [a, b, [t]]) => {
      const slopes = ([x, y, z]: typeof a) => [x, y].map((v) => l.divide(v, l.max(l.number(0.05), z)));
      const [p, q] = [slopes(a), slopes(b)];
      return heldLanes(
        l,
        p.map((v, c) => mixLanes(l, v, q[c], t)),
      );
    },
    graph: { group: 'normals', words: 'blend normals, weaken a normal, normal strength', defaults: [[0, 0, 1], [0, 0, 1], [0.5]] },
    price: { alu: 26 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
  },
  {
    name: 'leannormal',
    unit: true,
    help: 'A unit normal with a slope added to its own',
    materialx: 'PB_leannormal',
    inputs: [
      { name: 'in', type: 'vec3' },
      { name: 'slope', type: 'vec2' },
    ],
    result: always('vec3'),
    lanes: (l, [n, slope]) => {
      const z = l.max(l.number(0.05), n[2]);
      return heldLanes(
        l,
        slope.map((v, c) => l.add(l.divide(n[c], z), v)),
      );
    },
    graph: { group: 'normals', words: 'add a slope, tilt', defaults: [[0, 0, 1], [0]] },
    price: { alu: 22 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
  },
];
