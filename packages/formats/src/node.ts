// Codecs for Node, on sharp: exact for 8 and 16 bit when told so explicitly at every step.
import type { ColourSpace, Image, RowImage } from '@pebble/core';
import { asRows, makeImage } from '@pebble/core';
import sharp, { type SharpOptions } from 'sharp';
import type { ImageCodec, ImageReader } from './codec';
import { FormatError, makeCodec } from './codec';
import { letGoBefore } from './let-go';
import type { ImageFacts, ImageFormat } from './images';
import { probeImage } from './images';
import { decodeExr } from './images/pixels/exr';
import { decodeHdr } from './images/pixels/hdr';
import { decodeKtx2 } from './images/pixels/ktx2-node';
import { openPngRows } from './images/pixels/png-rows';
import { pngStrips } from './images/pixels/png-strips';
import { decodeTga } from './images/pixels/tga';
import { decodeTiff, isPlainTiff } from './images/pixels/tiff';
import { turned } from './images/pixels/turn';

export { letGoAfter } from './let-go';

// Pixels are decoded once and thrown away: a cache only holds memory.
sharp.cache(false);

const MAX_PIXELS = 16384 * 16384;

const reader: ImageReader = {
  async decode(bytes: Uint8Array, colourSpace: ColourSpace): Promise<Image> {
    const facts = probeImage(bytes);
    await letGoBefore((facts.width * facts.height * facts.channels * facts.depth) / 8);
    return turned(await stored(bytes, facts, colourSpace), facts.turn);
  },
  async openRows(bytes: AsyncIterable<Uint8Array>, colourSpace: ColourSpace): Promise<RowImage> {
    const opened = await openPngRows(bytes);
    return opened instanceof Uint8Array ? asRows(await this.decode(opened, colourSpace)) : { ...opened, colourSpace };
  },
};

/** Pixels as they are stored, before they are turned. */
async function stored(bytes: Uint8Array, facts: ImageFacts, colourSpace: ColourSpace): Promise<Image> {
  const own = OWN[facts.format];
  if (own) return own(bytes, facts, colourSpace);
  if (facts.format === 'tiff' && !isPlainTiff(bytes)) return decodeTiff(bytes, colourSpace);
  const grey = facts.channels <= 2;
  const deep = facts.depth === 16;
  // An 8-bit grey image loses its alpha on the way to grey, so that one kind travels as RGBA.
  const asColour = facts.channels === 2 && !deep;
  try {
    // Embedded profiles are ignored: a data map must come through as its numbers, whatever a painting program wrote.
    const pipeline = sharp(bytes, { failOn: 'error', limitInputPixels: MAX_PIXELS, ignoreIcc: true, sequentialRead: true } as SharpOptions)
      .toColourspace(deep ? (grey ? 'grey16' : 'rgb16') : grey && !asColour ? 'b-w' : 'srgb')
      .raw({ depth: deep ? 'ushort' : 'uchar' });
    const { data, info } = await pipeline.toBuffer({ resolveWithObject: true });
    const samples = deep
      ? new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2)
      : new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    if (asColour) return greyAndAlpha(info.width, info.height, info.channels, samples, colourSpace);
    return makeImage({ width: info.width, height: info.height, channels: info.channels, depth: deep ? 16 : 8, colourSpace, data: samples });
  } catch (error) {
    throw asFormatError(error);
  }
}
export const nodeCodec: ImageCodec = makeCodec(reader, { png: { mediaType: 'image/png', depths: [8, 16], encode: pngStrips } });

/** Kinds that sharp does not read. */
const OWN: Partial<Record<ImageFormat, (bytes: Uint8Array, facts: ImageFacts, colourSpace: ColourSpace) => Image | Promise<Image>>> = {
  tga: (bytes, _, colourSpace) => decodeTga(bytes, colourSpace),
  exr: decodeExr,
  hdr: decodeHdr,
  ktx2: decodeKtx2,
};

function greyAndAlpha(width: number, height: number, channels: number, rgba: Uint8Array | Uint16Array, colourSpace: ColourSpace): Image {
  const data = new Uint8Array(width * height * 2);
  for (let i = 0, j = 0; i < data.length; i += 2, j += channels) {
    data[i] = rgba[j];
    data[i + 1] = rgba[j + channels - 1];
  }
  return makeImage({ width, height, channels: 2, depth: 8, colourSpace, data });
}

function asFormatError(error: unknown): FormatError {
  if (error instanceof FormatError) return error;
  const text = String((error as Error).message).split('\n')[0];
  if (/premature end|truncat|end of|not enough|insufficient|read error/i.test(text))
    return new FormatError('truncated', 'the file is cut off before its last row. Copy or export it again');
  return new FormatError('corrupt', `its pixels cannot be read (${text.slice(0, 90)}). Export it again`);
}
