import type { ChannelRoute, MapRoute, OutputChannel, RecipeFile } from '../document';
import { OUTPUT_CHANNELS } from '../document';
import type { Image, RowImage } from '../image';
import { asRows, fullScale, linearToSrgb, makeImage, makeSamples, readWhole, resize } from '../image';
import type { MapSet, Role } from '../surface';
import { changes, ditherAt, routeTable, routed } from './steps';
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

/**
 * Whether a file holds colour: its first three channels come, in order and untouched, from a map in sRGB.
 * @param maps without them each role is taken for what it usually is
 */
export function isColourFile(channels: RecipeFile['channels'], maps?: PackMaps): boolean {
  return (['r', 'g', 'b'] as const).every((c, i) => {
    const route = channels[c];
    if (route?.from !== 'map' || route.channel !== i || route.invert || changes(route)) return false;
    return (maps ? maps[route.role] : ROLE_FACTS[route.role])?.colourSpace === 'srgb';
  });
}

/** What stands in a channel of a map that is not there, as it would be stored, 0–1. */
export function neutralStored(role: Role, channel: number): number {
  const { neutral, colourSpace } = ROLE_FACTS[role];
  const value = neutral[Math.min(channel, neutral.length - 1)];
  return colourSpace === 'srgb' ? linearToSrgb(value) : role === 'normal' ? value * 0.5 + 0.5 : value;
}

/** The channels of a file with the neutral value of every role that `has` does not know: a stone without a metallic map is no metal. */
export function withNeutral(channels: RecipeFile['channels'], has: (role: Role) => boolean): RecipeFile['channels'] {
  return Object.fromEntries(
    Object.entries(channels).map(([name, route]): [string, ChannelRoute] => {
      if (route.from !== 'map' || has(route.role)) return [name, route];
      return [name, { from: 'constant', value: routed(route, neutralStored(route.role, route.channel)) }];
    }),
  );
}

export interface PackTarget {
  width: number;
  height: number;
  depth: 8 | 16;
  /** Finer steps than the file's are spread over neighbours. */
  dither?: boolean;
}

/** Maps to join, each whole or read by rows. */
export type PackMaps = Partial<Record<Role, Image | RowImage>>;

/** A packed file whose rows can be had a few at a time, from the top down. */
export interface RowPacker {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  depth: 8 | 16;
  colourSpace: Image['colourSpace'];
  /** Samples of rows `[first, end)`, interleaved. */
  rows(first: number, end: number): Promise<Uint8Array | Uint16Array>;
}

/** What fills one channel of an output. */
type Feed<T> = { kind: 'map'; map: T; route: MapRoute } | { kind: 'constant'; value: number };

/** Where every channel of a file comes from. @throws PackError naming the role or channel that is missing. */
function feedsOf<T extends Image | RowImage>(channels: RecipeFile['channels'], maps: Partial<Record<Role, T>>, depth: 8 | 16): Feed<T>[] {
  const count = channelCount(channels);
  if (!OUTPUT_CHANNELS.some((c) => channels[c])) throw new PackError('empty-file', 'No channel of this file has a source');
  return Array.from({ length: count }, (_, c) => {
    const name: OutputChannel = count === 1 ? 'r' : OUTPUT_CHANNELS[c];
    const route = channels[name];
    if (route?.from === 'map') return { kind: 'map', map: source(route, maps), route };
    return { kind: 'constant', value: Math.floor((route ? route.value : name === 'a' ? 1 : 0) * fullScale(depth) + 0.5) };
  });
}

/** Joins rows: `samples` are those of one map, from the first row wanted on. */
function join<T extends Image | RowImage>(
  feeds: readonly Feed<T>[],
  samples: ReadonlyMap<T, Image>,
  pixels: number,
  { depth, width, dither = false }: Pick<PackTarget, 'depth' | 'width' | 'dither'>,
  top = 0,
): Uint8Array | Uint16Array {
  const out = makeSamples(depth, pixels * feeds.length) as Uint8Array | Uint16Array;
  if (joinGreys(out, feeds, samples)) return out;
  feeds.forEach((feed, c) => {
    const map = feed.kind === 'map' ? (samples.get(feed.map) as Image) : null;
    if (feed.kind === 'map' && map && (changes(feed.route) || (dither && map.depth > depth)))
      stepChannel(out, feeds.length, c, map, feed.route, { depth, width, dither }, top);
    else if (feed.kind === 'map' && map) copyChannel(out, feeds.length, c, depth, map, feed.route);
    else if (feed.kind === 'constant') for (let i = c; i < out.length; i += feeds.length) out[i] = feed.value;
  });
  return out;
}

/**
 * The everyday file, three grey 8-bit maps in RGB, four pixels at a time as 32-bit words (of the byte order that WebGL and
 * every processor we run on have). False when the file is of another kind.
 */
function joinGreys<T extends Image | RowImage>(out: Uint8Array | Uint16Array, feeds: readonly Feed<T>[], samples: ReadonlyMap<T, Image>): boolean {
  if (feeds.length !== 3 || !(out instanceof Uint8Array)) return false;
  const inputs: Uint8Array[] = [];
  for (const feed of feeds) {
    const map = feed.kind === 'map' ? samples.get(feed.map) : undefined;
    if (map?.channels !== 1 || (feed.kind === 'map' && changes(feed.route)) || !(map.data instanceof Uint8Array) || map.data.byteOffset % 4)
      return false;
    inputs.push(map.data);
  }
  const pixels = out.length / 3;
  const whole = pixels >> 2;
  const [r, g, b] = inputs.map((data) => new Uint32Array(data.buffer, data.byteOffset, whole));
  // 255 − v is v with every bit turned over.
  const [fr, fg, fb] = feeds.map((feed) => (feed.kind === 'map' && feed.route.invert ? -1 : 0));
  const words = new Uint32Array(out.buffer, out.byteOffset, whole * 3);
  for (let i = 0, o = 0; i < whole; i++, o += 3) {
    const rr = r[i] ^ fr;
    const gg = g[i] ^ fg;
    const bb = b[i] ^ fb;
    words[o] = (rr & 0xff) | ((gg & 0xff) << 8) | ((bb & 0xff) << 16) | ((rr & 0xff00) << 16);
    words[o + 1] = ((gg >>> 8) & 0xff) | (bb & 0xff00) | (rr & 0xff0000) | ((gg & 0xff0000) << 8);
    words[o + 2] = ((bb >>> 16) & 0xff) | ((rr >>> 16) & 0xff00) | ((gg >>> 8) & 0xff0000) | (bb & 0xff000000);
  }
  for (let i = whole * 4; i < pixels; i++) [fr, fg, fb].forEach((flip, c) => (out[i * 3 + c] = inputs[c][i] ^ (flip & 0xff)));
  return true;
}

const mapsOf = <T>(feeds: readonly Feed<T>[]): T[] => [...new Set(feeds.flatMap((f) => (f.kind === 'map' ? [f.map] : [])))];

/**
 * Prepares the joining of channels. A map of the target's size and depth is copied exactly; 16 → 8 bit rounds to nearest;
 * another size is resized by area, for which that map is held whole. `invert` gives full scale − v, exactly undone by a
 * second inversion.
 * @throws PackError naming the role or channel that is missing.
 */
export function rowPacker(channels: RecipeFile['channels'], maps: PackMaps, target: PackTarget): RowPacker {
  const { width, height, depth } = target;
  const feeds = feedsOf(channels, maps, depth);
  const inputs = new Map<Image | RowImage, RowImage>();
  const open = async (map: Image | RowImage): Promise<RowImage> => {
    if (map.width === width && map.height === height) return 'data' in map ? asRows(map) : map;
    return asRows(resize('data' in map ? map : await readWhole(map), width, height));
  };
  return {
    width,
    height,
    channels: feeds.length as 1 | 3 | 4,
    depth,
    colourSpace: isColourFile(channels, maps) ? 'srgb' : 'data',
    async rows(first, end) {
      const strips = await Promise.all(
        mapsOf(feeds).map(async (map) => {
          const input = inputs.get(map) ?? (await open(map));
          inputs.set(map, input);
          return [map, { ...input, height: end - first, data: await input.rows(first, end) }] as const;
        }),
      );
      return join(feeds, new Map(strips), (end - first) * width, target, first);
    },
  };
}

/** Joins channels into one image. @throws PackError */
export function packChannels(channels: RecipeFile['channels'], maps: MapSet, target: PackTarget): Image {
  const { width, height, depth } = target;
  const feeds = feedsOf(channels, maps, depth);
  const sized = new Map(mapsOf(feeds).map((map) => [map, resize(map, width, height)]));
  const colourSpace = isColourFile(channels, maps) ? 'srgb' : 'data';
  return makeImage({ width, height, channels: feeds.length, depth, colourSpace, data: join(feeds, sized, width * height, target) });
}

/** The same with steps between map and file, and with finer steps spread over neighbours where that is asked for. */
function stepChannel(
  data: Uint8Array | Uint16Array,
  k: number,
  c: number,
  map: Image,
  route: MapRoute,
  { depth, width, dither }: Pick<PackTarget, 'depth' | 'width' | 'dither'>,
  top: number,
): void {
  const full = fullScale(depth);
  const table = map.depth === 32 ? null : routeTable(route, map.depth, depth);
  const { data: from, channels: stride } = map;
  for (let i = c, j = route.channel, at = 0; i < data.length; i += k, j += stride, at++) {
    const value = table ? table[from[j]] : routed(route, Math.min(1, Math.max(0, from[j]))) * full;
    data[i] = Math.min(full, Math.max(0, Math.floor(value + 0.5 + (dither ? ditherAt(at % width, top + Math.floor(at / width)) : 0))));
  }
}

function source<T extends Image | RowImage>(route: MapRoute, maps: Partial<Record<Role, T>>): T {
  const map = maps[route.role];
  if (!map) throw new PackError('missing-role', `There is no ${ROLE_FACTS[route.role].label.toLowerCase()} map (${route.role})`);
  if (route.channel >= map.channels) {
    throw new PackError(
      'missing-channel',
      `The ${ROLE_FACTS[route.role].label.toLowerCase()} map has ${map.channels} ${map.channels === 1 ? 'channel' : 'channels'}: there is no ${'rgba'[route.channel]}`,
    );
  }
  return map;
}

function copyChannel(data: Uint8Array | Uint16Array, k: number, c: number, depth: 8 | 16, map: Image, route: MapRoute): void {
  const full = fullScale(depth);
  const { data: from, channels: stride } = map;
  const flip = route.invert ? -1 : 1;
  const base = route.invert ? full : 0;
  let i = c;
  let j = route.channel;
  const last = from.length;
  if (map.depth === depth && !route.invert) for (; j < last; i += k, j += stride) data[i] = from[j];
  else if (map.depth === depth) for (; j < last; i += k, j += stride) data[i] = base + flip * from[j];
  // v / 257 is never half way between two bytes, so adding one half before cutting off rounds to nearest.
  else if (map.depth === 16) for (; j < last; i += k, j += stride) data[i] = base + flip * Math.floor(from[j] / 257 + 0.5);
  else if (map.depth === 8) for (; j < last; i += k, j += stride) data[i] = base + flip * from[j] * 257;
  else for (; j < last; i += k, j += stride) data[i] = base + flip * Math.floor(Math.min(1, Math.max(0, from[j])) * full + 0.5);
}
