import type { ColourSpace, Image } from '@pebble/core';
import { makeImage } from '@pebble/core';
import { FormatError } from '../../codec';
import { Reader, corrupt } from '../../reader';
import { tgaChannels, tgaHeader } from '../tga';

/** Five bits spread over eight. */
const five = (v: number): number => (v << 3) | (v >> 2);

/**
 * Reads a TGA file: palettes, colours and greys, run lengths, from any corner. Samples of 15 and 16 bits are spread over
 * eight. Source: Truevision TGA file format 2.0. @throws FormatError
 */
export function decodeTga(bytes: Uint8Array, colourSpace: ColourSpace): Image {
  const r = new Reader(bytes);
  const header = tgaHeader(r);
  const { width, height, kind, bits } = header;
  const channels = tgaChannels(header);
  const step = Math.ceil(bits / 8);
  const entry = Math.ceil(header.paletteBits / 8);
  const palette = 18 + header.idLength;
  const start = palette + (header.mapped ? header.paletteLength * entry : 0);
  const image = makeImage({ width, height, channels, colourSpace });
  const out = image.data as Uint8Array;

  const colour = (from: number, size: number, at: number) => {
    if (size === 2) {
      const v = r.u16(from);
      out[at] = five((v >> 10) & 31);
      out[at + 1] = five((v >> 5) & 31);
      out[at + 2] = five(v & 31);
      if (channels === 4) out[at + 3] = v & 0x8000 ? 255 : 0;
      return;
    }
    out[at] = bytes[from + 2];
    out[at + 1] = bytes[from + 1];
    out[at + 2] = bytes[from];
    if (channels === 4) out[at + 3] = bytes[from + 3];
  };
  /** Writes the pixel whose bytes stand at `from`. */
  const put = (pixel: number, from: number) => {
    const [x, y] = [pixel % width, Math.floor(pixel / width)];
    const at = ((header.fromTop ? y : height - 1 - y) * width + (header.fromRight ? width - 1 - x : x)) * channels;
    if (kind === 3) for (let c = 0; c < channels; c++) out[at + c] = bytes[from + c];
    else if (kind === 2) colour(from, step, at);
    else {
      const index = (step === 1 ? bytes[from] : r.u16(from)) - header.paletteFirst;
      if (index < 0 || index >= header.paletteLength) throw corrupt('a pixel names a colour that its palette does not have', from);
      colour(palette + index * entry, entry, at);
    }
  };

  const count = width * height;
  const cutOff = (at: number) => new FormatError('truncated', 'the file is cut off before its last row. Copy or export it again', at);
  r.need(0, Math.min(start, bytes.length));
  if (start > bytes.length) throw cutOff(bytes.length);
  if (!header.runs) {
    if (start + count * step > bytes.length) throw cutOff(bytes.length);
    for (let i = 0; i < count; i++) put(i, start + i * step);
    return seen(image);
  }
  for (let i = 0, at = start; i < count;) {
    if (at >= bytes.length) throw cutOff(at);
    const packet = bytes[at++];
    const length = Math.min((packet & 127) + 1, count - i);
    const run = packet >= 128;
    if (at + (run ? step : length * step) > bytes.length) throw cutOff(bytes.length);
    for (let k = 0; k < length; k++) put(i + k, run ? at : at + k * step);
    at += run ? step : length * step;
    i += length;
  }
  return seen(image);
}

/** Many writers leave the bits of alpha at 0 where they mean none: a picture of which nothing is seen is opaque. */
function seen(image: Image): Image {
  const { channels, data } = image;
  if (channels % 2) return image;
  for (let i = channels - 1; i < data.length; i += channels) if (data[i]) return image;
  for (let i = channels - 1; i < data.length; i += channels) data[i] = 255;
  return image;
}
