import type { Image } from './buffer';

/**
 * How much neighbours differ across the rims of a picture, for each time that they differ inside: near 1 for one that
 * tiles, many times that for one with a seam. Along u (left to right rim) and v; 1 for a picture of one value. Own.
 */
export function seamRatio({ width, height, channels, data }: Image): { u: number; v: number } {
  let [acrossU, acrossV, inside] = [0, 0, 0];
  const row = width * channels;
  for (let y = 0; y < height; y++) for (let c = 0; c < channels; c++) acrossU += Math.abs(data[y * row + c] - data[y * row + row - channels + c]);
  for (let i = 0; i < row; i++) acrossV += Math.abs(data[i] - data[(height - 1) * row + i]);
  // Every fourth row is enough to know what is usual.
  let count = 0;
  for (let y = 0; y < height; y += 4)
    for (let i = channels; i < row; i++, count++) inside += Math.abs(data[y * row + i] - data[y * row + i - channels]);
  const usual = inside / Math.max(1, count);
  // One part in 500 of the full range is as good as nothing.
  const least = (data instanceof Uint8Array ? 255 : data instanceof Uint16Array ? 65535 : 1) / 500;
  const ratio = (sum: number, n: number) => Math.max(sum / n, least) / Math.max(usual, least);
  return { u: ratio(acrossU, height * channels), v: ratio(acrossV, row) };
}
