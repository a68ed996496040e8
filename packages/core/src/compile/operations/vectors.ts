import type { Operation } from '../registry';
import { ANY, typeOf } from '../types';
import { always, any, corners } from './shared';

const XYZW = 'xyzw';

const combine = (count: 2 | 3 | 4): Operation => ({
  name: `combine${count}`,
  help: `${count} numbers as one vector`,
  materialx: `combine${count}`,
  inputs: Array.from({ length: count }, (_, i) => ({ name: `in${i + 1}`, type: 'float' as const })),
  result: always(typeOf(count)),
  glsl: (args) => `vec${count}(${args.join(', ')})`,
  kernel: ({ memory, n, out, args }) => out.forEach((o, c) => memory.copyWithin(o, args[c][0], args[c][0] + n)),
  price: { alu: 0 },
  range: (r) => ({ lo: Math.min(...r.map((x) => x.lo)), hi: Math.max(...r.map((x) => x.hi)) }),
  derivative: (b, _, d) => b.combine(...Array.from({ length: count }, (__, i) => d(i))),
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
    kernel: ({ memory, n, out, args, node }) => {
      const from = args[0][node.attrs['index'] as number];
      memory.copyWithin(out[0], from, from + n);
    },
    price: { alu: 0 },
    range: ([a]) => a,
    derivative: (b, node, d) => b.extract(d(0), node.attrs['index'] as number),
  },
  {
    name: 'dotproduct',
    help: 'Sum of the products of the components',
    materialx: 'dotproduct',
    inputs: any('in1', 'in2'),
    result: always('float'),
    glsl: ([a, b]) => `dot(${a}, ${b})`,
    kernel: ({ memory: m, n, out, args: [a, b] }) => {
      for (let i = 0; i < n; i++) {
        let sum = 0;
        for (let c = 0; c < a.length; c++) sum = Math.fround(sum + Math.fround(m[a[c] + i] * m[b[c] + i]));
        m[out[0] + i] = sum;
      }
    },
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
    functions: ['vec2', 'vec3', 'vec4'].map((t) => `${t} pb_normalize(${t} v) { return v / max(sqrt(dot(v, v)), 1e-12); }`),
    glsl: ([a]) => `pb_normalize(${a})`,
    kernel: ({ memory: m, n, out, args: [a] }) => {
      for (let i = 0; i < n; i++) {
        let sum = 0;
        for (let c = 0; c < a.length; c++) sum += m[a[c] + i] * m[a[c] + i];
        const inv = 1 / Math.max(Math.sqrt(sum), 1e-12);
        for (let c = 0; c < a.length; c++) m[out[c] + i] = m[a[c] + i] * inv;
      }
    },
    price: { alu: 7 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
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
    kernel: ({ memory: m, n, out, args: [uv, s, o] }) => {
      for (let c = 0; c < 2; c++) for (let i = 0; i < n; i++) m[out[c] + i] = Math.fround(m[uv[c] + i] * m[s[c] + i]) + m[o[c] + i];
    },
    price: { alu: 2 },
    range: () => ANY,
    derivative: (b, node, d) => b.multiply(d(0), node.args[1]),
  },
  {
    name: 'normalmap',
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
    kernel: ({ memory: m, n, out: [ox, oy, oz], args: [[x, y], [k]] }) => {
      for (let i = 0; i < n; i++) {
        const sx = m[x + i];
        const sy = m[y + i];
        const z = Math.max(0.05, Math.sqrt(Math.max(0, 1 - sx * sx - sy * sy)));
        const px = sx * m[k + i];
        const py = sy * m[k + i];
        const inv = 1 / Math.sqrt(px * px + py * py + z * z);
        m[ox + i] = px * inv;
        m[oy + i] = py * inv;
        m[oz + i] = z * inv;
      }
    },
    price: { alu: 14 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
  },
  {
    name: 'mixnormal',
    help: 'Two unit normals mixed in slope space, so that half way is half the slope',
    materialx: 'PB_mixnormal',
    inputs: [
      { name: 'bg', type: 'vec3' },
      { name: 'fg', type: 'vec3' },
      { name: 'mix', type: 'float' },
    ],
    result: always('vec3'),
    functions: [
      `vec3 pb_mixnormal(vec3 a, vec3 b, float t) { vec2 p = a.xy / max(a.z, 0.05); vec2 q = b.xy / max(b.z, 0.05); vec3 n = vec3(p + (q - p) * t, 1.0); return n / sqrt(dot(n, n)); }`,
    ],
    glsl: (args) => `pb_mixnormal(${args.join(', ')})`,
    kernel: ({ memory: m, n, out: [ox, oy, oz], args: [[ax, ay, az], [bx, by, bz], [t]] }) => {
      for (let i = 0; i < n; i++) {
        const ia = 1 / Math.max(m[az + i], 0.05);
        const ib = 1 / Math.max(m[bz + i], 0.05);
        const w = m[t + i];
        const px = m[ax + i] * ia;
        const py = m[ay + i] * ia;
        const x = px + (m[bx + i] * ib - px) * w;
        const y = py + (m[by + i] * ib - py) * w;
        const inv = 1 / Math.sqrt(x * x + y * y + 1);
        m[ox + i] = x * inv;
        m[oy + i] = y * inv;
        m[oz + i] = inv;
      }
    },
    price: { alu: 18 },
    range: () => ({ lo: -1, hi: 1 }),
    derivative: 'zero',
  },
];
