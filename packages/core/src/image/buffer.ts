/** Bits a sample: 8 and 16 are unsigned integers, 32 is IEEE float. */
export type Depth = 8 | 16 | 32;
/** How stored numbers become real ones: `srgb` through the IEC 61966-2-1 curve, `linear` and `data` as they are. */
export type ColourSpace = 'srgb' | 'linear' | 'data';
export type Samples = Uint8Array | Uint16Array | Float32Array;

/**
 * One image. Samples are interleaved (`data[(row * width + column) * channels + channel]`), row 0 at the top.
 * Integer samples stand for `v / 255` and `v / 65535`; the alpha channel is never colour-encoded.
 */
export interface Image {
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 2 | 3 | 4;
  readonly depth: Depth;
  readonly colourSpace: ColourSpace;
  readonly data: Samples;
}

/** An image that is read from the top down, a few rows at a time, so that it never exists as a whole. */
export interface RowImage extends Omit<Image, 'data'> {
  /** Samples of rows `[first, end)`. Asked for in order and without gaps. */
  rows(first: number, end: number): Promise<Samples>;
  /** Gives back what feeds it, wherever the reading stopped. */
  close(): Promise<void>;
}

/** The largest side of an image that any part of the product accepts, in pixels. */
export const MAX_SIDE = 16384;

/** Samples of a depth, zeroed; `shared` puts them where workers can read them without a copy. */
export function makeSamples(depth: Depth, length: number, shared = false): Samples {
  const bytes = (length * depth) / 8;
  const memory = shared ? (new SharedArrayBuffer(bytes) as unknown as ArrayBuffer) : new ArrayBuffer(bytes);
  return depth === 8 ? new Uint8Array(memory) : depth === 16 ? new Uint16Array(memory) : new Float32Array(memory);
}

export interface ImageSpec {
  width: number;
  height: number;
  channels: number;
  depth?: Depth;
  colourSpace?: ColourSpace;
  data?: Samples;
}

/**
 * Makes an image, checking that the numbers belong together.
 * @throws RangeError for a side outside 1…16384, a channel count outside 1…4 or samples of the wrong length.
 * @example makeImage({ width: 2, height: 2, channels: 3 }).data.length // 12
 */
export function makeImage(spec: ImageSpec): Image {
  const { width, height, channels, depth = 8, colourSpace = 'data' } = spec;
  for (const side of [width, height])
    if (!Number.isInteger(side) || side < 1 || side > MAX_SIDE)
      throw new RangeError(`An image of ${width} × ${height} is outside 1 to ${MAX_SIDE} pixels on a side`);
  if (![1, 2, 3, 4].includes(channels)) throw new RangeError(`An image has 1 to 4 channels, not ${channels}`);
  const data = spec.data ?? makeSamples(depth, width * height * channels);
  if (data.length !== width * height * channels) throw new RangeError(`${width} × ${height} × ${channels} samples expected, ${data.length} given`);
  return { width, height, channels: channels as Image['channels'], depth, colourSpace, data };
}

/** An image in memory, read by rows. */
export function asRows(image: Image): RowImage {
  const { data, ...shape } = image;
  const perRow = image.width * image.channels;
  return { ...shape, rows: async (first, end) => data.subarray(first * perRow, end * perRow), close: async () => undefined };
}

/** Every row of an image, and the end of its reading. */
export async function readWhole(image: RowImage): Promise<Image> {
  try {
    return makeImage({ ...image, data: await image.rows(0, image.height) });
  } finally {
    await image.close();
  }
}

/** The integer that stands for 1, or 1 for float images. */
export const fullScale = (depth: Depth): number => (depth === 8 ? 255 : depth === 16 ? 65535 : 1);

/** Writes a real value into integer samples: clamped and rounded to nearest; floats are kept as they are. */
export const quantise = (value: number, depth: Depth): number =>
  depth === 32 ? value : Math.floor(Math.min(1, Math.max(0, value)) * fullScale(depth) + 0.5);

/** One channel as an image of its own, bit for bit. @throws RangeError when the image has no such channel. */
export function extractChannel(image: Image, channel: number): Image {
  if (channel < 0 || channel >= image.channels) throw new RangeError(`Channel ${channel} of an image with ${image.channels}`);
  const n = image.width * image.height;
  const data = makeSamples(image.depth, n);
  for (let i = 0, j = channel; i < n; i++, j += image.channels) data[i] = image.data[j];
  return { ...image, channels: 1, data, colourSpace: channel === 3 ? 'data' : image.colourSpace };
}

/** The same values at another depth, rounded to nearest (16 → 8: `round(v / 257)`; 8 → 16: `v · 257`). */
export function convertDepth(image: Image, depth: Depth): Image {
  if (image.depth === depth) return image;
  const data = makeSamples(depth, image.data.length);
  const scale = 1 / fullScale(image.depth);
  for (let i = 0; i < data.length; i++) data[i] = quantise(image.data[i] * scale, depth);
  return { ...image, depth, data };
}
