import type { Image, Samples } from '../image';
import { decodeTable, heightChain, mipChain, normalMipChain } from '../image';
import type { MapSet, Role } from '../surface';
import { CompileError } from './types';

/**
 * What an image operation can ask for. `spread` is the standard deviation of height under a mip texel. Masks and IDs are
 * pictures that cues read; they have slots of their own, and the colours of IDs are never mixed.
 */
export type ImageChannel =
  'baseColor' | 'opacity' | 'normal' | 'roughness' | 'occlusion' | 'metallic' | 'emissive' | 'height' | 'spread' | 'mask' | 'id';
/** The map whose presence decides whether a channel is sampled. */
export const CHANNEL_ROLE: Record<ImageChannel, Role> = {
  baseColor: 'baseColor',
  opacity: 'opacity',
  normal: 'normal',
  roughness: 'roughness',
  occlusion: 'occlusion',
  metallic: 'metallic',
  emissive: 'emissive',
  height: 'height',
  spread: 'height',
  mask: 'mask',
  id: 'id',
};

/** One mip level of one channel: sample `component` of texel i is `data[i · stride + offset + component]`. */
export interface ChannelLevel {
  width: number;
  height: number;
  data: Samples;
  stride: number;
  offset: number;
}
export interface ChannelSource {
  levels: ChannelLevel[];
  /** Integer sample → real value (of a normal, −1…1); null when the samples are real already. */
  table: Float32Array | null;
}

/** Finds a channel of the surface, or the picture of cues, in a slot. @throws CompileError `missing-source` */
export type Sources = (slot: number, channel: ImageChannel) => ChannelSource;

const signed = { 8: decodeTable(8, false).map((v) => v * 2 - 1), 16: decodeTable(16, false).map((v) => v * 2 - 1) };
/** Integer sample of a normal → −1…1. Shared: do not write. */
export const signedTable = (depth: 8 | 16): Float32Array => signed[depth];
const ofImages = (images: Image[], offset = 0, signed = false): ChannelSource => {
  const { depth, colourSpace } = images[0];
  return {
    // Float normals have no table to turn 0…1 into −1…1: their samples are turned.
    levels: images.map(({ width, height, channels, data }) => ({
      width,
      height,
      data: signed && depth === 32 ? data.map((v) => v * 2 - 1) : data,
      stride: channels,
      offset,
    })),
    table: depth === 32 ? null : signed ? signedTable(depth) : decodeTable(depth, colourSpace === 'srgb'),
  };
};

/**
 * Channels straight from the maps of a surface, at their own size and depth. Mip chains are made when `mips` is asked
 * for; without them only level 0 exists, which costs no memory beyond the maps themselves.
 */
export function sourcesOfMaps(maps: MapSet, mips = false): (channel: ImageChannel) => ChannelSource | undefined {
  const made = new Map<ImageChannel, ChannelSource | undefined>();
  const chain = (image: Image | undefined, of: (image: Image) => Image[]) => image && (mips ? of(image) : [image]);
  const make = (channel: ImageChannel): ChannelSource | undefined => {
    if (channel === 'spread' || (channel === 'height' && mips)) {
      if (!maps.height) return undefined;
      if (!mips) return { levels: [{ width: 1, height: 1, data: new Float32Array(1), stride: 1, offset: 0 }], table: null };
      return ofHeightLevels(heightChain(maps.height))[channel === 'spread' ? 'spread' : 'height'];
    }
    const images = chain(maps[CHANNEL_ROLE[channel]], channel === 'normal' ? normalMipChain : mipChain);
    return images && ofImages(images, 0, channel === 'normal');
  };
  return (channel) => {
    if (!made.has(channel)) made.set(channel, make(channel));
    return made.get(channel);
  };
}

function ofHeightLevels(levels: ReturnType<typeof heightChain>): { height: ChannelSource; spread: ChannelSource } {
  const of = (pick: 'mean' | 'spread'): ChannelSource => ({
    levels: levels.map((l) => ({ width: l.width, height: l.height, data: l[pick], stride: 1, offset: 0 })),
    table: null,
  });
  return { height: of('mean'), spread: of('spread') };
}

/** A picture that cues read: a mask with its mips, or the colours of IDs, all of one size. */
export interface PackedPicture {
  size: number;
  levels: Image[];
}

/** Everything that a program looks up, by slot. */
export interface PackedSet {
  surfaces: readonly PackedSurface[];
  masks: readonly PackedPicture[];
  ids: readonly PackedPicture[];
}

/** Whether two lists hold the very same things in the same places. */
export function sameItems(a: ArrayLike<unknown>, b: ArrayLike<unknown>): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

export const NO_SLOTS: PackedSet = { surfaces: [], masks: [], ids: [] };

/** The packed texture levels of one surface as the stage uploads them; the CPU can read the same texels. */
export interface PackedSurface {
  size: number;
  colour: Image[];
  shape: Image[];
  /** Interleaved mean and spread. */
  height: { width: number; height: number; data: Float32Array }[];
  rare: Image[];
  /** Emissive colour; absent where a surface gives no light. */
  glow?: Image[];
}

/** Channels of pictures that cues read. */
export const sourceOfPicture = (levels: Image[]): ChannelSource => ofImages(levels);

/** Everything from packed levels: what exact mode on the GPU sees. @throws CompileError `missing-source` */
export function sourcesOfPacked({ surfaces, masks, ids }: PackedSet): Sources {
  const made = new Map<string, ChannelSource>();
  const surface = surfaces.map(sourcesOfSurface);
  const pictures = { mask: masks, id: ids };
  return (slot, channel) => {
    const key = `${slot}${channel}`;
    const found = made.get(key);
    if (found) return found;
    const picture = channel === 'mask' || channel === 'id' ? pictures[channel].at(slot) : undefined;
    const source = picture ? ofImages(picture.levels) : surface[slot]?.(channel);
    if (!source) throw new CompileError('missing-source', `Slot ${slot} has no ${channel}`, 'image');
    made.set(key, source);
    return source;
  };
}

function sourcesOfSurface(packed: PackedSurface): (channel: ImageChannel) => ChannelSource | undefined {
  const heights = (offset: number): ChannelSource => ({
    levels: packed.height.map((l) => ({ width: l.width, height: l.height, data: l.data, stride: 2, offset })),
    table: null,
  });
  return (channel) => {
    const made: Partial<Record<ImageChannel, () => ChannelSource>> = {
      baseColor: () => ofImages(packed.colour),
      opacity: () => ({ ...ofImages(packed.colour, 3), table: decodeTable(8, false) }),
      normal: () => ofImages(packed.shape, 0, true),
      roughness: () => ofImages(packed.shape, 2),
      occlusion: () => ofImages(packed.shape, 3),
      metallic: () => ofImages(packed.rare),
      ...(packed.glow ? { emissive: () => ofImages(packed.glow as Image[]) } : {}),
      height: () => heights(0),
      spread: () => heights(1),
    };
    return made[channel]?.();
  };
}
