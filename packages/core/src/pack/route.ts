import type { ChannelRoute, OutputChannel, RecipeFile } from '../document';
import { OUTPUT_CHANNELS } from '../document';
import type { Image } from '../image';
import { fullScale, makeImage, makeSamples, resize } from '../image';
import type { MapSet } from '../surface';
import { ROLE_FACTS } from '../surface';

/** What went wrong with a channel of an output. */
export class PackError extends Error {
  constructor(
    readonly code: 'missing-role' | 'missing-channel' | 'size-mismatch' | 'empty-file',
    message: string,
  ) {
    super(message);
    this.name = 'PackError';
  }
}

/** How many channels a file has: 1 (only red), 3, or 4 when alpha is routed. Unrouted channels are 0, alpha 1. */
export function channelCount(channels: RecipeFile['channels']): 1 | 3 | 4 {
  if (channels.a) return 4;
  return channels.g || channels.b ? 3 : 1;
}

/** Whether a file holds colour: its first three channels come, in order and untouched, from a map in sRGB. */
export function isColourFile(channels: RecipeFile['channels'], maps: MapSet): boolean {
  return (['r', 'g', 'b'] as const).every((c, i) => {
    const route = channels[c];
    return route?.from === 'map' && route.channel === i && !route.invert && maps[route.role]?.colourSpace === 'srgb';
  });
}

export interface PackTarget {
  width: number;
  height: number;
  depth: 8 | 16;
}

/** A packed file whose rows can be had a few at a time. */
export interface RowPacker {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  depth: 8 | 16;
  colourSpace: Image['colourSpace'];
  /** Samples of rows `[first, end)`, interleaved. */
  rows(first: number, end: number): Uint8Array | Uint16Array;
}

/**
 * Prepares the joining of channels. A map of the target's size and depth is copied exactly; 16 → 8 bit rounds to nearest;
 * another size is resized by area first. `invert` gives full scale − v, exactly undone by a second inversion.
 * @throws PackError naming the role or channel that is missing.
 */
export function rowPacker(channels: RecipeFile['channels'], maps: MapSet, target: PackTarget): RowPacker {
  const count = channelCount(channels);
  if (!OUTPUT_CHANNELS.some((c) => channels[c])) throw new PackError('empty-file', 'No channel of this file has a source');
  const { width, height, depth } = target;
  const sized = new Map<Image, Image>();
  const feeds = Array.from({ length: count }, (_, c) => {
    const name: OutputChannel = count === 1 ? 'r' : OUTPUT_CHANNELS[c];
    const route = channels[name];
    if (route?.from === 'map') return { map: source(route, maps, sized, target), route };
    return { value: Math.floor((route ? route.value : name === 'a' ? 1 : 0) * fullScale(depth) + 0.5) };
  });
  return {
    width,
    height,
    channels: count,
    depth,
    colourSpace: isColourFile(channels, maps) ? 'srgb' : 'data',
    rows(first, end) {
      const out = makeSamples(depth, (end - first) * width * count) as Uint8Array | Uint16Array;
      feeds.forEach((feed, c) => {
        if (feed.map) copyChannel(out, count, c, depth, feed.map, feed.route, first * width, end * width);
        else for (let i = c; i < out.length; i += count) out[i] = feed.value;
      });
      return out;
    },
  };
}

/** Joins channels into one image. @throws PackError */
export function packChannels(channels: RecipeFile['channels'], maps: MapSet, target: PackTarget): Image {
  const packer = rowPacker(channels, maps, target);
  return makeImage({ ...packer, data: packer.rows(0, packer.height) });
}

function source(route: ChannelRoute & { from: 'map' }, maps: MapSet, sized: Map<Image, Image>, target: PackTarget): Image {
  const map = maps[route.role];
  if (!map) throw new PackError('missing-role', `There is no ${ROLE_FACTS[route.role].label.toLowerCase()} map (${route.role})`);
  if (route.channel >= map.channels) {
    throw new PackError(
      'missing-channel',
      `The ${ROLE_FACTS[route.role].label.toLowerCase()} map has ${map.channels} ${map.channels === 1 ? 'channel' : 'channels'}: there is no ${'rgba'[route.channel]}`,
    );
  }
  if (!sized.has(map)) sized.set(map, resize(map, target.width, target.height));
  return sized.get(map) as Image;
}

function copyChannel(
  data: Uint8Array | Uint16Array,
  k: number,
  c: number,
  depth: 8 | 16,
  map: Image,
  route: ChannelRoute & { from: 'map' },
  begin: number,
  end: number,
): void {
  const full = fullScale(depth);
  const { data: from, channels: stride } = map;
  const flip = route.invert ? -1 : 1;
  const base = route.invert ? full : 0;
  let i = c;
  let j = begin * stride + route.channel;
  const last = end * stride;
  if (map.depth === depth && !route.invert) for (; j < last; i += k, j += stride) data[i] = from[j];
  else if (map.depth === depth) for (; j < last; i += k, j += stride) data[i] = base + flip * from[j];
  // v / 257 is never half way between two bytes, so adding one half before cutting off rounds to nearest.
  else if (map.depth === 16) for (; j < last; i += k, j += stride) data[i] = base + flip * Math.floor(from[j] / 257 + 0.5);
  else if (map.depth === 8) for (; j < last; i += k, j += stride) data[i] = base + flip * from[j] * 257;
  else for (; j < last; i += k, j += stride) data[i] = base + flip * Math.floor(Math.min(1, Math.max(0, from[j])) * full + 0.5);
}
