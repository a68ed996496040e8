import type { Image } from '@pebble/core';
import { fullScale, histogram } from '@pebble/core';
import type { ShownMap } from './protocol';

/** An image as screen pixels: grey for one channel, colours as stored, 16 bit cut to 8. */
export async function picture(image: Image): Promise<ImageBitmap> {
  const n = image.width * image.height;
  const rgba = new Uint8ClampedArray(n * 4);
  const k = 255 / fullScale(image.depth);
  const step = image.channels;
  const [g, b] = step >= 3 ? [1, 2] : [0, 0];
  for (let i = 0, j = 0; i < n; i++, j += step) {
    rgba[i * 4] = image.data[j] * k;
    rgba[i * 4 + 1] = image.data[j + g] * k;
    rgba[i * 4 + 2] = image.data[j + b] * k;
    rgba[i * 4 + 3] = 255;
  }
  return createImageBitmap(new ImageData(rgba, image.width, image.height));
}

/** A map as the interface shows it: pixels, numbers and how its values are spread. */
export const shownMap = async (image: Image): Promise<ShownMap> => ({ picture: await picture(image), image, spread: histogram(image) });
