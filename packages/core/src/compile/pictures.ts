import type { ImageChannel } from './sources';
import type { DagNode } from './types';

/** What an operation that looks at a picture reads of which one. */
export const channelOf = (node: DagNode): ImageChannel => node.attrs['channel'] as ImageChannel;
export const slotOf = (node: DagNode): number => node.attrs['slot'] as number;

/** The packed texture arrays on the GPU. */
export type Unit = 'colour' | 'shape' | 'height' | 'rare' | 'mask' | 'id';

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
  mask: { unit: 'mask', swizzle: 'r' },
  id: { unit: 'id', swizzle: 'rgb' },
};
