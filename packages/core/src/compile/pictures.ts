import type { ImageChannel } from './sources';
import { footprintOf } from './domain';
import { operation, readsCoarse, readsMap } from './registry';
import type { DagNode } from './types';

/** What an operation that looks at a picture reads of which one. */
export const channelOf = (node: DagNode): ImageChannel => node.attrs['channel'] as ImageChannel;
export const slotOf = (node: DagNode): number => node.attrs['slot'] as number;

/** The packed texture arrays on the GPU. */
export type Unit = 'colour' | 'shape' | 'height' | 'rare' | 'glow' | 'mask' | 'id';
/** Those whose texels are kept as sRGB and read as linear light. */
export const SRGB_UNITS: ReadonlySet<Unit> = new Set(['colour', 'glow']);

/** Which packed texture array carries a channel on the GPU, and where in it. */
export const PACKING: Record<ImageChannel, { unit: Unit; swizzle: string; signed?: boolean }> = {
  baseColor: { unit: 'colour', swizzle: 'rgb' },
  opacity: { unit: 'colour', swizzle: 'a' },
  normal: { unit: 'shape', swizzle: 'rg', signed: true },
  roughness: { unit: 'shape', swizzle: 'b' },
  occlusion: { unit: 'shape', swizzle: 'a' },
  height: { unit: 'height', swizzle: 'r' },
  spread: { unit: 'height', swizzle: 'g' },
  metallic: { unit: 'rare', swizzle: 'r' },
  emissive: { unit: 'glow', swizzle: 'rgb' },
  mask: { unit: 'mask', swizzle: 'r' },
  id: { unit: 'id', swizzle: 'rgb' },
};

/** Whether a leaf is the same number all over a picture: how far coordinates move is not, where places are seen in depth. */
export const isGiven = ({ op, attrs }: DagNode): boolean => {
  const { leaf } = operation(op);
  return leaf === 'constant' || (leaf === 'value' && !footprintOf(String(attrs['name'])));
};

interface Course {
  steady: boolean;
  jumps: boolean;
}
const courses = new WeakMap<DagNode, Course>();
/** How a node runs over a picture. What is looked up is continuous, whatever it is looked up by. */
function courseOf(node: DagNode): Course {
  const found = courses.get(node);
  if (found) return found;
  const { leaf, jumps } = operation(node.op);
  const args = readsMap(node) ? [] : node.args.map(courseOf);
  const steady = leaf ? isGiven(node) : !readsMap(node) && args.every((a) => a.steady);
  const own = typeof jumps === 'function' ? jumps(node) : jumps === true;
  const made = { steady, jumps: !steady && (own || args.some((a) => a.jumps)) };
  courses.set(node, made);
  return made;
}

/** How a live shader finds the level of what it looks up: by itself from neighbours, from slopes that are worked out, or as it is told. */
export function levelBy(node: DagNode): 'neighbours' | 'slopes' | 'level' {
  const [uv, level] = node.args;
  if (channelOf(node) === 'id') return 'neighbours';
  if (level.op === 'constant' && (level.attrs['value'] as readonly number[])[0] > 0) return 'level';
  return level.op === 'imagelevel' && courseOf(uv).jumps ? 'slopes' : 'neighbours';
}

/** Inputs of a node that live shaders read. */
export function liveInputs(node: DagNode): readonly DagNode[] {
  if (!readsMap(node)) return node.args;
  const [uv, level, share] = node.args;
  const by = levelBy(node);
  return [uv, ...(by === 'slopes' ? level.args : by === 'level' ? [level] : []), ...(share && readsCoarse(node) ? [share] : [])];
}
