import type { PixelInput } from '../../geometry';
import { PIXEL_INPUT_NAMES, inputFacts, inputType } from '../../geometry';
import type { Operation } from '../registry';
import type { TileContext } from '../tile';
import type { DagNode } from '../types';
import { ANY, COMPONENTS, typeOf } from '../types';
import { literal } from './literal';

const numbers = (node: DagNode) => node.attrs['value'] as readonly number[];

/** What was given for a value. @throws RangeError */
export function givenValue(node: DagNode, { values, footprints }: Pick<TileContext, 'values' | 'footprints'>): readonly number[] {
  const name = String(node.attrs['name']);
  const given = values[name] ?? footprints[name];
  if (!given || given.length !== COMPONENTS[node.type]) throw new RangeError(`The value ${name} (${node.type}) was not given`);
  return given;
}

const bound = (v: unknown, open: number) => (typeof v === 'number' ? v : open);

/** A leaf that the place of evaluation fills in: a G-buffer on the CPU, a varying or a texture on the GPU. */
function input(name: PixelInput): Operation {
  const { help, materialx, range, words } = inputFacts(name);
  return {
    name,
    help,
    materialx,
    inputs: [],
    leaf: 'pixel',
    price: { alu: 0 },
    derivative: 'zero',
    result: () => inputType(name),
    range: () => range,
    // Only texture coordinates are there where vertices are worked on.
    ...(name === 'texcoord' ? { linear: () => true } : {}),
    ...(words === undefined ? {} : { graph: { group: 'geometry' as const, words, defaults: [] } }),
    glsl: () => `in_${name}`,
    kernel: ({ memory, n, out, context }) => context.domain.fill(name, context.tile, memory, out, n),
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
    // What a float holds of it: a number too small for one is 0 when it is worked with.
    range: (_, node) => {
      const held = numbers(node).map(Math.fround);
      return { lo: Math.min(...held), hi: Math.max(...held) };
    },
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
    kernel: ({ memory, n, out, node, context }) => givenValue(node, context).forEach((v, c) => memory.fill(v, out[c], out[c] + n)),
    price: { alu: 0 },
    derivative: 'zero',
  },
  ...PIXEL_INPUT_NAMES.map(input),
];
