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
    for (const plane of channels.slice(0, 2)) {
      if (across) bendsInRows(plane, width, height, sums);
      else bendsInColumns(plane, width, height, sums);
      for (let k = 2; k + 1 < (across ? width : height); k++) counts[k & 7] += Math.max(0, (across ? height : width) - 3);
    }
  const bends = sums.map((v, k) => v / Math.max(1, counts[k]));
  const elsewhere = (bends[2] + bends[3] + bends[4] + bends[5] + bends[6]) / 5;
  return elsewhere > 1e-6 ? Math.max(0, bends[0] / elsewhere - 1) : 0;
}

// Sums are kept in numbers, not in the array: each would wait for the one before it.
function bendsInRows(plane: Float32Array, width: number, height: number, sums: Float64Array): void {
  for (let k = 0; k < 8; k++) {
    let sum = 0;
    for (let y = 2; y + 1 < height; y++)
      for (let x = k < 2 ? k + 8 : k, i = y * width + x; x + 1 < width; x += 8, i += 8)
        sum += Math.abs(plane[i - 2] - 3 * plane[i - 1] + 3 * plane[i] - plane[i + 1]);
    sums[k] += sum;
  }
}
function bendsInColumns(plane: Float32Array, width: number, height: number, sums: Float64Array): void {
  for (let y = 2; y + 1 < height; y++) {
    let sum = 0;
    for (let x = 2, i = y * width + 2; x + 1 < width; x++, i++)
      sum += Math.abs(plane[i - 2 * width] - 3 * plane[i - width] + 3 * plane[i] - plane[i + width]);
    sums[y & 7] += sum;
  }
}

/** Steps over the border this many times the largest within mean that a map does not tile. */
export const SEAM = 1.6;

/** Texels of a line that are looked at. */
const SAMPLES = 128;

/**
 * How much larger the step over the tile's border is than that over any line within, in the worse direction:
 * about 1 or less for a map that tiles, for its border is a line like others.
 */
export function seamError(image: Image): number {
  const { width, height } = image;
  return Math.max(width < 4 ? 1 : worst(columnSteps(image)), height < 4 ? 1 : worst(rowSteps(image)));
}

/** The last of these steps goes over the border. */
function worst(steps: Float64Array): number {
  const most = steps.subarray(0, -1).reduce((a, b) => Math.max(a, b), 0);
  // Joints of masonry lie on the border as on few lines within: all of them count.
  return steps[steps.length - 1] / most;
}

/** A step of one in 255 is what rounding makes. */
const ROUNDING = 1 / 255;

/** Mean step from each column to the next, the last one over the border. */
function columnSteps({ width, height, channels, data, depth }: Image): Float64Array {
  const sums = new Float64Array(width);
  const stride = Math.max(1, Math.floor(height / SAMPLES));
  let count = 0;
  for (let y = 0; y < height; y += stride, count++)
    for (let c = 0; c < Math.min(3, channels); c++) {
      const row = y * width * channels + c;
      let here = data[row];
      for (let x = 1, at = row + channels; x < width; x++, at += channels) {
        const next = data[at];
        sums[x - 1] += Math.abs(next - here);
        here = next;
      }
      sums[width - 1] += Math.abs(data[row] - here);
    }
  const scale = 1 / (count * Math.min(3, channels) * fullScale(depth));
  return sums.map((v) => v * scale + ROUNDING);
}

/** Mean step from each row to the next, the last one over the border. */
function rowSteps({ width, height, channels, data, depth }: Image): Float64Array {
  const stride = Math.max(1, Math.floor(width / SAMPLES)) * channels;
  const [line, used] = [width * channels, Math.min(3, channels)];
  const scale = 1 / (Math.ceil(line / stride) * used * fullScale(depth));
  return Float64Array.from({ length: height }, (_, y) => {
    const [from, to] = [y * line, y + 1 < height ? (y + 1) * line : 0];
    let sum = 0;
    for (let at = 0; at < line; at += stride) for (let c = 0; c < used; c++) sum += Math.abs(data[to + at + c] - data[from + at + c]);
    return sum * scale + ROUNDING;
  });
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
  if (depth === 32) return Array.from({ length: channels }, (_, c) => floatRange(data, c, channels));
  // Counting every value once says all the rest.
  const counted = data instanceof Uint8Array ? countBytes(data, channels) : countWords(data, channels);
  return counted.map((counts) => {
    let sum = 0;
    for (let v = 0; v < counts.length; v++) sum += counts[v] * v;
    const [lo, hi] = [counts.findIndex((k) => k > 0), counts.findLastIndex((k) => k > 0)];
    return { lo: lo / full, hi: hi / full, mean: sum / n / full, atLo: counts[0] / n, atHi: counts[full] / n };
  });
}

// Functions of the same words: an engine makes each fast for its kind of samples.
function countBytes(data: Uint8Array, channels: number): Uint32Array[] {
  const counts = Array.from({ length: channels }, () => new Uint32Array(256));
  counts.forEach((of, c) => countLine(data, c, channels, of));
  return counts;
}
/** Four values in a row go to tables of their own: equal neighbours are the rule, and a count that waits for the last is slow. */
function countLine(data: Uint8Array, first: number, step: number, counts: Uint32Array): void {
  const [b, c, d] = [1, 2, 3].map(() => new Uint32Array(256));
  let i = first;
  for (; i + 3 * step < data.length; i += 4 * step) {
    counts[data[i]]++;
    b[data[i + step]]++;
    c[data[i + 2 * step]]++;
    d[data[i + 3 * step]]++;
  }
  for (; i < data.length; i += step) counts[data[i]]++;
  for (let v = 0; v < 256; v++) counts[v] += b[v] + c[v] + d[v];
}
function countWords(data: Uint16Array | Float32Array, channels: number): Uint32Array[] {
  return Array.from({ length: channels }, (_, c) => {
    const counts = new Uint32Array(65536);
    for (let i = c; i < data.length; i += channels) counts[data[i]]++;
    return counts;
  });
}

function floatRange(data: ArrayLike<number>, first: number, step: number): ChannelRange {
  let [lo, hi, sum, low, high, n] = [Infinity, -Infinity, 0, 0, 0, 0];
  for (let i = first; i < data.length; i += step, n++) {
    const v = data[i];
    lo = Math.min(lo, v);
    hi = Math.max(hi, v);
    sum += v;
    if (v <= 0) low++;
    if (v >= 1) high++;
  }
  return { lo, hi, mean: sum / n, atLo: low / n, atHi: high / n };
}
