import type { Image } from '../image';
import { fullScale } from '../image';
import type { Planes } from './planes';

/**
 * How much larger bends at the borders of 8 × 8 blocks are than elsewhere, across and down, whichever is less (a pattern
 * may lie on the borders in one direction): 0 where there are no blocks.
 */
export function blockEdges(parts: readonly Planes[]): number {
  return Math.min(bendsAtBorders(parts, true), bendsAtBorders(parts, false));
}

function bendsAtBorders(parts: readonly Planes[], across: boolean): number {
  // Parts begin at whole blocks. A bend, not a step: a slope over a border is no edge.
  const sums = new Float64Array(8);
  const counts = new Float64Array(8);
  for (const { width, height, channels } of parts)
    for (const plane of channels.slice(0, 3))
      for (let y = 2; y + 1 < height; y++)
        for (let x = 2; x + 1 < width; x++) {
          const i = y * width + x;
          const [k, along] = across ? [x % 8, 1] : [y % 8, width];
          sums[k] += Math.abs(plane[i - 2 * along] - 3 * plane[i - along] + 3 * plane[i] - plane[i + along]);
          counts[k]++;
        }
  const bends = sums.map((v, k) => v / Math.max(1, counts[k]));
  const elsewhere = (bends[2] + bends[3] + bends[4] + bends[5] + bends[6]) / 5;
  return elsewhere > 1e-6 ? Math.max(0, bends[0] / elsewhere - 1) : 0;
}

/** How much larger the step over the tile's border is than steps within: 1 for a map that tiles. */
export function seamError({ width, height, channels, data, depth }: Image): number {
  const scale = 1 / fullScale(depth);
  const at = (x: number, y: number, c: number) => data[(y * width + x) * channels + c] * scale;
  let [over, within, overs, withins] = [0, 0, 0, 0];
  const used = Math.min(3, channels);
  const stride = Math.max(1, Math.floor(height / 512));
  for (let y = 0; y < height; y += stride)
    for (let c = 0; c < used; c++) {
      over += Math.abs(at(0, y, c) - at(width - 1, y, c));
      overs++;
      for (const x of [0.2, 0.4, 0.6, 0.8].map((f) => Math.floor(f * (width - 1)))) {
        within += Math.abs(at(x + 1 < width ? x + 1 : x, y, c) - at(x, y, c));
        withins++;
      }
    }
  const across = Math.max(1, Math.floor(width / 512));
  for (let x = 0; x < width; x += across)
    for (let c = 0; c < used; c++) {
      over += Math.abs(at(x, 0, c) - at(x, height - 1, c));
      overs++;
      for (const y of [0.2, 0.4, 0.6, 0.8].map((f) => Math.floor(f * (height - 1)))) {
        within += Math.abs(at(x, y + 1 < height ? y + 1 : y, c) - at(x, y, c));
        withins++;
      }
    }
  const usual = within / Math.max(1, withins);
  const border = over / Math.max(1, overs);
  // A step of one in 255 is what rounding makes.
  return (border + 1 / 255) / (usual + 1 / 255);
}

export interface ChannelRange {
  lo: number;
  hi: number;
  mean: number;
  /** Shares of samples at the very ends. */
  atLo: number;
  atHi: number;
}

/** Least, largest and mean of every channel over the whole image, 0–1. */
export function ranges({ width, height, channels, data, depth }: Image): ChannelRange[] {
  const n = width * height;
  const full = fullScale(depth);
  return Array.from({ length: channels }, (_, c) => {
    let [lo, hi, sum, low, high] = [Infinity, -Infinity, 0, 0, 0];
    for (let i = c; i < data.length; i += channels) {
      const v = data[i];
      if (v < lo) lo = v;
      if (v > hi) hi = v;
      sum += v;
      if (v <= 0) low++;
      if (v >= full) high++;
    }
    return { lo: lo / full, hi: hi / full, mean: sum / n / full, atLo: low / n, atHi: high / n };
  });
}
