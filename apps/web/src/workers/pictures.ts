import type { Image } from '@pebble/core';
import { fullScale, histogram } from '@pebble/core';
import type { ShownMap } from './protocol';

/** Smallest side that is worth a picture of its own. */
const LEAST = 128;

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
export async function shownMap(image: Image): Promise<ShownMap> {
  const whole = await picture(image);
  return { picture: whole, smaller: await halves(whole), image, spread: histogram(image) };
}

/** The same picture at half its size, half of that and so on: drawn small, it is not made small while people wait. */
async function halves(whole: ImageBitmap): Promise<ImageBitmap[]> {
  const out: ImageBitmap[] = [];
  for (let { width, height } = whole; Math.min(width, height) >= LEAST * 2;) {
    [width, height] = [width >> 1, height >> 1];
    out.push(await createImageBitmap(out.at(-1) ?? whole, { resizeWidth: width, resizeHeight: height, resizeQuality: 'medium' }));
  }
  return out;
}

/** What a shown map hands over to the page. */
export const partsOf = ({ picture: whole, smaller, image }: ShownMap): Transferable[] => [whole, ...smaller, image.data.buffer as ArrayBuffer];
