import type { Image } from '../image';
import { LUMINANCE, decodeTable, srgbByte } from '../image';
import type { Rows } from '../surface';

/** Side of the grid on which the light and dark of a tile are averaged. */
const GRID = 64;
/** Cells side by side in which the light of a row is summed. */
export const LIGHT_CELLS = GRID;

/** Mean over a Gaussian on a wrapping grid, in one direction: `across` 1 for rows, GRID for columns. */
function smooth(cells: Float64Array, sigma: number, across: number): Float64Array {
  const reach = Math.min(GRID / 2, Math.ceil(3 * sigma));
  const weights = Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-0.5 * ((i - reach) / sigma) ** 2));
  const total = weights.reduce((a, b) => a + b);
  return cells.map((_, at) => {
    const along = across === 1 ? at % GRID : Math.floor(at / GRID);
    const start = at - along * across;
    return weights.reduce((sum, w, i) => sum + w * cells[start + ((along + i - reach + GRID) % GRID) * across], 0) / total;
  });
}

/** Gains over a tile, a grid of them. */
export type Gains = Float64Array;

/** Sums the luminance of rows of an 8-bit sRGB map in cells side by side, `LIGHT_CELLS` for each row of the map. */
export function sumLight(map: Image, light: Float32Array, [first, end]: Rows): void {
  const { width } = map;
  const data = map.data as Uint8Array;
  const table = decodeTable(8, true);
  const columns = Uint16Array.from({ length: width }, (_, x) => Math.floor((x * GRID) / width));
  const [red, green, blue] = LUMINANCE;
  light.fill(0, first * GRID, end * GRID);
  for (let y = first, i = first * width * 3; y < end; y++)
    for (let x = 0; x < width; x++, i += 3)
      light[y * GRID + columns[x]] += red * table[data[i]] + green * table[data[i + 1]] + blue * table[data[i + 2]];
}

/**
 * What evens out whatever is lighter or darker over spans of `span` (1 is the tile) and more, so that a wall of tiles does
 * not show it. `amount` 0 leaves the map, 1 takes all of it. `light` is what `sumLight` found in a map of size × size.
 */
export function evenGains(light: Float32Array, size: number, span: number, amount: number): Gains {
  const sums = new Float64Array(GRID * GRID);
  const counts = new Float64Array(GRID * GRID);
  for (let y = 0; y < size; y++) for (let c = 0; c < GRID; c++) sums[Math.floor((y * GRID) / size) * GRID + c] += light[y * GRID + c];
  const along = new Float64Array(GRID);
  for (let x = 0; x < size; x++) along[Math.floor((x * GRID) / size)]++;
  counts.forEach((_, i) => (counts[i] = along[i % GRID] * along[Math.floor(i / GRID)]));
  const mean = sums.reduce((a, b) => a + b) / (size * size);
  // A map smaller than the grid leaves cells empty; those count as the mean.
  const cells = sums.map((s, i) => (counts[i] ? s / counts[i] : mean));
  const sigma = span * GRID;
  return smooth(smooth(cells, sigma, 1), sigma, GRID).map((v) => Math.min(2, Math.max(0.5, mean / Math.max(v, 1e-4))) ** amount);
}

/** Applies gains to rows of a map in place; small contrasts and hues stay. */
export function applyGains(map: Image, gains: Gains, [first, end]: Rows): void {
  const { width, height } = map;
  const data = map.data as Uint8Array;
  const table = decodeTable(8, true);
  const place = (i: number, n: number) => {
    const at = ((i + 0.5) * GRID) / n - 0.5 + GRID;
    return { lo: Math.floor(at) % GRID, hi: (Math.floor(at) + 1) % GRID, f: at - Math.floor(at) };
  };
  const columns = Array.from({ length: width }, (_, x) => place(x, width));
  const line = new Float64Array(GRID);
  for (let y = first, i = first * width * 3; y < end; y++) {
    const { lo, hi, f } = place(y, height);
    for (let c = 0; c < GRID; c++) line[c] = gains[lo * GRID + c] * (1 - f) + gains[hi * GRID + c] * f;
    for (let x = 0; x < width; x++, i += 3) {
      const at = columns[x];
      const k = line[at.lo] + (line[at.hi] - line[at.lo]) * at.f;
      data[i] = srgbByte(table[data[i]] * k);
      data[i + 1] = srgbByte(table[data[i + 1]] * k);
      data[i + 2] = srgbByte(table[data[i + 2]] * k);
    }
  }
}
