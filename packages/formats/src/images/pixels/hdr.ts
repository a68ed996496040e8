import type { ColourSpace, Image } from '@pebble/core';
import { makeImage } from '@pebble/core';
import { FormatError } from '../../codec';
import type { ImageShape } from '../kind';
import { corrupt } from '../../reader';

const cutOff = (at: number) => new FormatError('truncated', 'the file is cut off before its last row. Copy or export it again', at);

/** Where the pixels begin: after the line that says the size. */
function afterHeader(bytes: Uint8Array): { at: number; exposure: number } {
  const text = String.fromCharCode(...bytes.subarray(0, 4096));
  const line = /(^|\n)-Y \d+ \+X \d+\n/.exec(text);
  if (!line) throw corrupt('its size is missing', 0);
  // Exposures that were applied one after the other: light is what is stored divided by all of them.
  const exposure = [...text.slice(0, line.index).matchAll(/^EXPOSURE=\s*(\S+)\s*$/gm)].reduce((product, [, value]) => product * Number(value), 1);
  if (!(exposure > 0 && Number.isFinite(exposure))) throw corrupt('its exposure is no positive number', 0);
  return { at: line.index + line[0].length, exposure };
}

/**
 * Reads a Radiance picture: a channel is `mantissa · 2^(exponent − 136)`, rows are plain or packed channel by channel.
 * Source: Ward, "Real Pixels", Graphics Gems II, 1991. @throws FormatError
 */
export function decodeHdr(bytes: Uint8Array, { width, height }: ImageShape, colourSpace: ColourSpace): Image {
  const image = makeImage({ width, height, channels: 3, depth: 32, colourSpace });
  const row = new Uint8Array(width * 4);
  const header = afterHeader(bytes);
  let { at } = header;
  for (let y = 0; y < height; y++) {
    const packed = width >= 8 && width < 32768 && bytes[at] === 2 && bytes[at + 1] === 2 && bytes[at + 2] < 128;
    if (packed) {
      if (((bytes[at + 2] << 8) | bytes[at + 3]) !== width) throw corrupt('a row is as wide as no other', at);
      at = unpackRow(bytes, at + 4, width, row);
    } else {
      if (at + width * 4 > bytes.length) throw cutOff(bytes.length);
      for (let x = 0; x < width; x++, at += 4) for (let c = 0; c < 4; c++) row[c * width + x] = bytes[at + c];
    }
    for (let x = 0; x < width; x++) {
      const exponent = row[3 * width + x];
      const scale = exponent ? 2 ** (exponent - 136) / header.exposure : 0;
      for (let c = 0; c < 3; c++) image.data[(y * width + x) * 3 + c] = row[c * width + x] * scale;
    }
  }
  return image;
}

/** One row, its four channels after one another; gives where the next begins. */
function unpackRow(bytes: Uint8Array, from: number, width: number, out: Uint8Array): number {
  let at = from;
  for (let c = 0; c < 4; c++)
    for (let x = 0; x < width;) {
      if (at + 2 > bytes.length) throw cutOff(bytes.length);
      const code = bytes[at++];
      const run = code > 128;
      const length = run ? code - 128 : code;
      if (!length || x + length > width) throw corrupt('a run goes past its row', at - 1);
      if (!run && at + length > bytes.length) throw cutOff(bytes.length);
      if (run) out.fill(bytes[at], c * width + x, c * width + x + length);
      else out.set(bytes.subarray(at, at + length), c * width + x);
      at += run ? 1 : length;
      x += length;
    }
  return at;
}
