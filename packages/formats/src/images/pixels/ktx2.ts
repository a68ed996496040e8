// KTX2 in: plain samples, blocks and supercompression by libraries of the format's own makers. Whoever reads universal blocks
// brings their transcoder, which is fetched otherwise in every place.
import type { ColourSpace, Image, Samples } from '@pebble/core';
import { fromHalf, fullScale, makeImage } from '@pebble/core';
import { unzlibSync } from 'fflate';
import type { KTX2Container } from 'ktx-parse';
import { KHR_SUPERCOMPRESSION_NONE, KHR_SUPERCOMPRESSION_ZLIB, KHR_SUPERCOMPRESSION_ZSTD, read } from 'ktx-parse';
import { ZSTDDecoder } from 'three/examples/jsm/libs/zstddec.module.js';
import { decodeBlocks } from './blocks';
import { FormatError } from '../../codec';
import type { ImageShape } from '../kind';
import { KTX2_PIXELS, ktx2Swizzle, shownChannels, stored } from '../ktx2';
import { Reader, corrupt, unsupported } from '../../reader';

/** What the transcoder offers of a file; it is C++ behind WebAssembly and wants to be told when to let go. */
interface TranscoderFile {
  isValid(): boolean;
  getWidth(): number;
  getHeight(): number;
  startTranscoding(): boolean;
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(out: Uint8Array, level: number, layer: number, face: number, format: number, unused: number, a: number, b: number): boolean;
  close(): void;
  delete(): void;
}
export interface Transcoder {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => TranscoderFile;
}
/** The transcoder's number for four bytes a texel. */
const RGBA32 = 13;

let zstd: Promise<ZSTDDecoder> | undefined;
const startZstd = (): Promise<ZSTDDecoder> =>
  (zstd ??= (async () => {
    const decoder = new ZSTDDecoder();
    await decoder.init();
    return decoder;
  })());

type Start = () => Promise<Transcoder>;

/** Reads the largest level of KTX2 files, their channels as they are to be shown. @param start the transcoder, when it is first wanted */
export const ktx2Decoder =
  (start: Start) =>
  /** @throws FormatError */
  async (bytes: Uint8Array, _: ImageShape, colourSpace: ColourSpace): Promise<Image> => {
    const reader = new Reader(bytes);
    return swizzled(await largestLevel(bytes, stored(reader), colourSpace, start), ktx2Swizzle(reader));
  };

function swizzled(image: Image, swizzle: string): Image {
  const channels = shownChannels(image.channels, swizzle);
  if (channels === image.channels && swizzle.startsWith('rgba'.slice(0, channels))) return image;
  const full = fullScale(image.depth);
  const shown = channels === 2 ? [swizzle[0], swizzle[3]] : [...swizzle.slice(0, channels)];
  const out = makeImage({ ...image, channels, data: undefined });
  shown.forEach((from, c) => {
    const source = 'rgba'.indexOf(from);
    const constant = from === '1' || from === 'a' ? full : 0;
    for (let i = 0; i < image.width * image.height; i++)
      out.data[i * channels + c] = source >= 0 && source < image.channels ? image.data[i * image.channels + source] : constant;
  });
  return out;
}

async function largestLevel(bytes: Uint8Array, facts: ImageShape, colourSpace: ColourSpace, start: Start): Promise<Image> {
  let container: KTX2Container;
  try {
    container = read(bytes);
  } catch (error) {
    throw new FormatError('truncated', `its levels are not all there (${String((error as Error).message).slice(0, 80)}). Export it again`);
  }
  if (container.vkFormat === 0) return transcode(await start(), bytes, facts, colourSpace);
  const pixels = KTX2_PIXELS[container.vkFormat];
  const level = container.levels[0];
  if (!level) throw corrupt('it has no level', 80);
  const { width, height } = facts;
  const wanted = pixels.blocks ? 0 : width * height * pixels.channels * (pixels.half || pixels.depth === 16 ? 2 : pixels.depth / 8);
  const data = await expand(container, level.levelData, level.uncompressedByteLength);
  if (data.length < wanted) throw new FormatError('truncated', 'its largest level is cut off. Copy or export it again');
  try {
    const samples = pixels.blocks ? decodeBlocks(data, width, height, pixels.blocks, pixels.channels) : plain(data.subarray(0, wanted), pixels);
    return makeImage({ width, height, channels: pixels.channels, depth: pixels.depth, colourSpace, data: samples });
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw new FormatError('truncated', `its largest level is cut off (${(error as Error).message}). Copy or export it again`);
  }
}

function plain(data: Uint8Array, { depth, half, turned, channels }: (typeof KTX2_PIXELS)[number]): Samples {
  // A copy of its own: offsets in the file need not fit the width of samples.
  const own = Uint8Array.from(data);
  if (half) return Float32Array.from(new Uint16Array(own.buffer), fromHalf);
  if (depth === 16) return new Uint16Array(own.buffer);
  if (depth === 32) return new Float32Array(own.buffer);
  if (turned) for (let i = 0; i < own.length; i += channels) [own[i], own[i + 2]] = [own[i + 2], own[i]];
  return own;
}

/** A level without its supercompression; never more than it says it holds. */
async function expand(container: KTX2Container, data: Uint8Array, length: number): Promise<Uint8Array> {
  const { supercompressionScheme: scheme } = container;
  if (scheme === KHR_SUPERCOMPRESSION_NONE) return data;
  if (length > 16384 * 16384 * 4) throw corrupt('its largest level says it holds more than any picture', 80);
  try {
    if (scheme === KHR_SUPERCOMPRESSION_ZSTD) return (await startZstd()).decode(data, length);
    if (scheme === KHR_SUPERCOMPRESSION_ZLIB) return unzlibSync(data, { out: new Uint8Array(length) });
  } catch (error) {
    throw corrupt(`its largest level cannot be unpacked (${String((error as Error).message ?? error).slice(0, 60)})`, 80);
  }
  throw unsupported(`supercompression ${scheme} is not read`, 44);
}

function transcode({ KTX2File }: Transcoder, bytes: Uint8Array, { width, height, channels }: ImageShape, colourSpace: ColourSpace): Image {
  const file = new KTX2File(bytes);
  try {
    if (!file.isValid() || file.getWidth() !== width || file.getHeight() !== height || !file.startTranscoding())
      throw corrupt('its blocks make no sense', 0);
    const rgba = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
    if (rgba.length !== width * height * 4 || !file.transcodeImage(rgba, 0, 0, 0, RGBA32, 0, -1, -1)) throw corrupt('its blocks cannot be read', 0);
    if (channels === 4) return makeImage({ width, height, channels: 4, colourSpace, data: rgba });
    const rgb = new Uint8Array(width * height * 3);
    for (let i = 0; i < width * height; i++) rgb.set(rgba.subarray(i * 4, i * 4 + 3), i * 3);
    return makeImage({ width, height, channels: 3, colourSpace, data: rgb });
  } finally {
    file.close();
    file.delete();
  }
}
