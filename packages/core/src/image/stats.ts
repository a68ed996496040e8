import type { Image } from './buffer';
import { fullScale } from './buffer';

export interface ChannelStats {
  /** All in 0–1 of the stored values, colour curve not undone. */
  min: number;
  max: number;
  mean: number;
  deviation: number;
  constant: boolean;
}

/** Minimum, maximum, mean and standard deviation of every channel. */
export function statistics(image: Image): ChannelStats[] {
  const n = image.width * image.height;
  const full = fullScale(image.depth);
  return Array.from({ length: image.channels }, (_, c) => {
    let min = Infinity;
    let max = -Infinity;
    let sum = 0;
    let squares = 0;
    for (let i = 0, j = c; i < n; i++, j += image.channels) {
      const v = image.data[j] / full;
      if (v < min) min = v;
      if (v > max) max = v;
      sum += v;
      squares += v * v;
    }
    const mean = sum / n;
    return { min, max, mean, deviation: Math.sqrt(Math.max(0, squares / n - mean * mean)), constant: min === max };
  });
}

/** The most that two images differ at any sample, in units of 0–1. @throws RangeError when their shapes differ. */
export function maxDifference(a: Image, b: Image): number {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels)
    throw new RangeError('Images of different shapes cannot be compared');
  let most = 0;
  for (let i = 0; i < a.data.length; i++) most = Math.max(most, Math.abs(a.data[i] / fullScale(a.depth) - b.data[i] / fullScale(b.depth)));
  return most;
}

/** How often values fall into equal steps of 0–1, per channel, as shares of all pixels. Float images are held to 0–1. */
export function histogram(image: Image, bins = 64): number[][] {
  const n = image.width * image.height;
  const scale = bins / fullScale(image.depth);
  return Array.from({ length: image.channels }, (_, c) => {
    const counts = new Array<number>(bins).fill(0);
    for (let i = 0, j = c; i < n; i++, j += image.channels) counts[Math.min(bins - 1, Math.max(0, Math.floor(image.data[j] * scale)))]++;
    return counts.map((v) => v / n);
  });
}
