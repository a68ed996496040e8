import type { Image } from '@pebble/core';
import { makeImage } from '@pebble/core';

/** Columns run backward, rows run backward, rows and columns change places; by Exif's numbers from 2 on. Source: Exif 2.32, 4.6.4. */
const TURNS: Readonly<Record<number, readonly [back: boolean, up: boolean, across: boolean]>> = {
  2: [true, false, false],
  3: [true, true, false],
  4: [false, true, false],
  5: [false, false, true],
  6: [false, true, true],
  7: [true, true, true],
  8: [true, false, true],
};

/** An image as it is to be seen, from its pixels as they are stored. */
export function turned(image: Image, turn: number | undefined): Image {
  if (!turn || !TURNS[turn]) return image;
  const [back, up, across] = TURNS[turn];
  const { width: w, height: h, channels } = image;
  const [width, height] = across ? [h, w] : [w, h];
  const out = makeImage({ ...image, width, height, data: undefined });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [sx, sy] = across ? [y, x] : [x, y];
      const at = ((up ? h - 1 - sy : sy) * w + (back ? w - 1 - sx : sx)) * channels;
      for (let c = 0; c < channels; c++) out.data[(y * width + x) * channels + c] = image.data[at + c];
    }
  return out;
}
