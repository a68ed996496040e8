// Codecs for the browser, on fast-png: exact, without a canvas (which destroys values under low alpha). JPEG is decoded
// by the server, which keeps its samples for the stage.
import type { ColourSpace, Image, RowImage } from '@pebble/core';
import { asRows, makeImage } from '@pebble/core';
import { convertIndexedToRgb, decode, encode } from 'fast-png';
import type { ImageCodec, ImageReader, RowSource, RowsShape } from './codec';
import { FormatError, makeCodec } from './codec';
import { probeImage } from './images';

const reader: ImageReader = {
  async decode(bytes: Uint8Array, colourSpace: ColourSpace): Promise<Image> {
    const facts = probeImage(bytes);
    if (facts.format !== 'png') throw new FormatError('unsupported', 'only PNG is decoded in the browser');
    let png: ReturnType<typeof decode>;
    try {
      png = decode(bytes, { checkCrc: true });
    } catch (error) {
      const text = String((error as Error).message ?? error);
      if (/crc/i.test(text)) throw new FormatError('corrupt', `its pixels cannot be read (${text.slice(0, 90)}). Export it again`);
      throw new FormatError('truncated', 'the file is cut off before its last row. Copy or export it again');
    }
    const { width, height } = png;
    if (png.palette) {
      const data = Uint8Array.from(convertIndexedToRgb(png));
      return makeImage({ width, height, channels: data.length / (width * height), depth: 8, colourSpace, data });
    }
    const spread = png.depth < 8 ? unpackBits(png.data as Uint8Array, width, height, png.depth) : png.data;
    const deep = png.depth === 16;
    const data = deep ? Uint16Array.from(spread) : new Uint8Array(spread.buffer as ArrayBuffer, spread.byteOffset, spread.length);
    return withColourKey(makeImage({ width, height, channels: png.channels, depth: deep ? 16 : 8, colourSpace, data }), png.transparency);
  },
  async openRows(bytes: AsyncIterable<Uint8Array>, colourSpace: ColourSpace): Promise<RowImage> {
    const parts: Uint8Array<ArrayBuffer>[] = [];
    for await (const part of bytes) parts.push(Uint8Array.from(part));
    return asRows(await this.decode(new Uint8Array(await new Blob(parts).arrayBuffer()), colourSpace));
  },
};

/** PNG in one piece. */
async function* png({ width, height, channels, depth }: RowsShape, rows: RowSource): AsyncGenerator<Uint8Array> {
  const data = await rows(0, height);
  yield encode({ width, height, channels, depth, data: depth === 16 ? Uint16Array.from(data) : Uint8Array.from(data) });
}
export const webCodec: ImageCodec = makeCodec(reader, { png: { mediaType: 'image/png', depths: [8, 16], encode: png } });

/** Samples of 1, 2 or 4 bits, rows padded to bytes, spread over 0–255. */
function unpackBits(packed: Uint8Array, width: number, height: number, bits: number): Uint8Array {
  const out = new Uint8Array(width * height);
  const rowBytes = Math.ceil((width * bits) / 8);
  const scale = 255 / ((1 << bits) - 1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = x * bits;
      const byte = packed[y * rowBytes + (at >> 3)];
      out[y * width + x] = ((byte >> (8 - bits - (at & 7))) & ((1 << bits) - 1)) * scale;
    }
  return out;
}

/** A tRNS colour becomes an alpha channel: 0 where the pixel has that very colour. */
function withColourKey(image: Image, key: Uint16Array | undefined): Image {
  if (!key) return image;
  const { channels, data, depth } = image;
  const n = image.width * image.height;
  const out = depth === 16 ? new Uint16Array(n * (channels + 1)) : new Uint8Array(n * (channels + 1));
  for (let i = 0; i < n; i++) {
    let clear = true;
    for (let c = 0; c < channels; c++) {
      out[i * (channels + 1) + c] = data[i * channels + c];
      if (data[i * channels + c] !== key[c]) clear = false;
    }
    out[i * (channels + 1) + channels] = clear ? 0 : depth === 16 ? 65535 : 255;
  }
  return makeImage({ ...image, channels: channels + 1, data: out });
}
