import type { Image } from './buffer';
import { fullScale, makeSamples, quantise } from './buffer';
import { decodeTable, linearToSrgb } from './srgb';

/** Weights of source texels for every target texel along one axis, by the area they share. */
function areaWeights(from: number, to: number): { first: Int32Array; count: Int32Array; weight: Float32Array; most: number } {
  const ratio = from / to;
  const most = ratio > 1 ? Math.ceil(ratio) + 1 : 2;
  const first = new Int32Array(to);
  const count = new Int32Array(to);
  const weight = new Float32Array(to * most);
  for (let t = 0; t < to; t++) {
    if (ratio <= 1) {
      // Enlarging: linear between the two nearest centres, held at the border.
      const x = Math.min(from - 1, Math.max(0, (t + 0.5) * ratio - 0.5));
      first[t] = Math.min(from - 1, Math.floor(x));
      count[t] = first[t] + 1 < from ? 2 : 1;
      weight[t * most] = count[t] === 2 ? 1 - (x - first[t]) : 1;
      if (count[t] === 2) weight[t * most + 1] = x - first[t];
      continue;
    }
    const begin = t * ratio;
    const end = Math.min(from, begin + ratio);
    first[t] = Math.floor(begin);
    for (let s = first[t]; s < end && s < from; s++) weight[t * most + count[t]++] = (Math.min(end, s + 1) - Math.max(begin, s)) / ratio;
  }
  return { first, count, weight, most };
}

/**
 * Area-true resize: every target texel is the mean of the source area it covers (linear between centres when enlarging).
 * sRGB colour is averaged in linear light, alpha and data as they are. Same depth and channels out.
 */
export function resize(image: Image, width: number, height: number): Image {
  if (width === image.width && height === image.height) return image;
  const { channels, depth } = image;
  const data = makeSamples(depth, width * height * channels);
  const rowsOf = areaWeights(image.height, height);
  const columnsOf = areaWeights(image.width, width);
  // Colour is averaged as linear light; anything else as the integers it is, so that rounding is exact.
  const table = image.colourSpace === 'srgb' && depth !== 32 ? decodeTable(depth, true) : null;
  const sums = new Float64Array(image.width * channels);
  const isAlpha = (c: number) => (channels === 4 && c === 3) || (channels === 2 && c === 1);
  const curves = Array.from({ length: channels }, (_, c) => (isAlpha(c) ? null : table));
  const full = fullScale(depth);
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    for (let k = 0; k < rowsOf.count[y]; k++) {
      const w = rowsOf.weight[y * rowsOf.most + k];
      const at = (rowsOf.first[y] + k) * image.width * channels;
      for (let c = 0; c < channels; c++) {
        const curve = curves[c];
        for (let i = c; i < sums.length; i += channels) sums[i] += w * (curve ? curve[image.data[at + i]] : image.data[at + i]);
      }
    }
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++) {
        let v = 0;
        for (let k = 0; k < columnsOf.count[x]; k++) v += columnsOf.weight[x * columnsOf.most + k] * sums[(columnsOf.first[x] + k) * channels + c];
        const at = (y * width + x) * channels + c;
        if (depth === 32) data[at] = v;
        else data[at] = curves[c] ? quantise(linearToSrgb(v), depth) : Math.floor(Math.min(full, Math.max(0, v)) + 0.5);
      }
  }
  return { ...image, width, height, data };
}

/** The size that fits inside `most` on its longer side, with the proportion kept and no side below 1. */
export function fitWithin(width: number, height: number, most: number): { width: number; height: number } {
  const scale = Math.min(1, most / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
}
