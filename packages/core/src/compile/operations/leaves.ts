import type { Operation } from '../registry';
import type { DagNode, Interval } from '../types';
import { ANY, COMPONENTS, UNIT, typeOf } from '../types';
import { literal } from './literal';

const numbers = (node: DagNode) => node.attrs['value'] as readonly number[];

/** What was given for a value. @throws RangeError */
export function givenValue(node: DagNode, values: Readonly<Record<string, readonly number[]>>): readonly number[] {
  const name = String(node.attrs['name']);
  const given = values[name];
  if (!given || given.length !== COMPONENTS[node.type]) throw new RangeError(`The value ${name} (${node.type}) was not given`);
  return given;
}

const bound = (v: unknown, open: number) => (typeof v === 'number' ? v : open);

/** A leaf that the place of evaluation fills in: a G-buffer on the CPU, a varying or a texture on the GPU. */
function input(name: string, type: 'vec2' | 'vec3' | 'vec4', help: string, materialx: string, range: Interval): Operation {
  return {
    name,
    help,
    materialx,
    inputs: [],
    leaf: 'pixel',
    price: { alu: 0 },
    derivative: 'zero',
    result: () => type,
    range: () => range,
    glsl: () => `in_${name}`,
    kernel: ({ memory, n, out, context }) => context.domain.fill(name as never, context.tile, memory, out, n),
  };
}

export const LEAVES: Operation[] = [
  {
    name: 'constant',
    help: 'A fixed value, known when compiling',
    materialx: 'constant',
    inputs: [],
    leaf: 'constant',
    result: (_, attrs) => typeOf((attrs['value'] as readonly number[]).length),
    range: (_, node) => ({ lo: Math.min(...numbers(node)), hi: Math.max(...numbers(node)) }),
    glsl: (_, node) => {
      const parts = numbers(node).map(literal);
      return parts.length === 1 ? parts[0] : `${node.type}(${parts.join(', ')})`;
    },
    lanes: (l, _, node) => numbers(node).map((v) => l.number(v)),
    price: { alu: 0 },
    derivative: 'zero',
  },
  {
    name: 'value',
    help: 'A number that may change at runtime',
    materialx: 'constant',
    inputs: [],
    leaf: 'value',
    result: (_, attrs) => attrs['type'] as DagNode['type'],
    range: (_, node) => ({ lo: bound(node.attrs['lo'], ANY.lo), hi: bound(node.attrs['hi'], ANY.hi) }),
    glsl: (_, node) => `u_${String(node.attrs['name'])}`,
    kernel: ({ memory, n, out, node, context }) => givenValue(node, context.values).forEach((v, c) => memory.fill(v, out[c], out[c] + n)),
    price: { alu: 0 },
    derivative: 'zero',
  },
  input('texcoord', 'vec2', 'Texture coordinate: u right, v down, one repetition of the extent a unit', 'texcoord', ANY),
  input('position', 'vec3', 'Place in metres', 'position', ANY),
  input('normal', 'vec3', 'Direction of the ground, unit length', 'normal', { lo: -1, hi: 1 }),
  input('geomcolor', 'vec4', 'Vertex colour', 'geomcolor', UNIT),
  input('geomprop', 'vec3', 'What a mesh knows of its places: mean curvature (1/m), share of open sky, number of the part', 'geompropvalue', ANY),
  input('geomuv', 'vec4', 'The first two sets of texture coordinates of a mesh, as they came', 'texcoord', ANY),
  input('relief', 'vec4', 'The ground around: height 0–1, slope (rise over run), convexity (−1 hollow to 1 edge), occlusion', 'PB_relief', ANY),
];
