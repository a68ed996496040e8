import type { Image } from '../image';
import { decodeTable, srgbByte } from '../image';

/** Side of the grid on which the light and dark of a tile are averaged. */
const GRID = 64;

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

/**
 * Evens out, in place, what is lighter or darker over spans of `spanM` and more, so that a wall of tiles does not show
 * them; smaller contrasts and hues stay. `amount` 0 leaves the map, 1 takes all of it. 8-bit sRGB, three channels.
 */
export function evenOut(map: Image, sizeM: number, spanM: number, amount: number): void {
  const { width, height } = map;
  const data = map.data as Uint8Array;
  const table = decodeTable(8, true);
  const sums = new Float64Array(GRID * GRID);
  const counts = new Float64Array(GRID * GRID);
  const cellOf = (i: number, n: number) => Math.floor((i * GRID) / n);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 3) {
      const cell = cellOf(y, height) * GRID + cellOf(x, width);
      sums[cell] += 0.2126 * table[data[i]] + 0.7152 * table[data[i + 1]] + 0.0722 * table[data[i + 2]];
      counts[cell]++;
    }
  const mean = sums.reduce((a, b) => a + b) / (width * height);
  // A map smaller than the grid leaves cells empty; those count as the mean.
  const cells = sums.map((s, i) => (counts[i] ? s / counts[i] : mean));
  const sigma = (spanM / sizeM) * GRID;
  const gain = smooth(smooth(cells, sigma, 1), sigma, GRID).map((v) => Math.min(2, Math.max(0.5, mean / Math.max(v, 1e-4))) ** amount);
  const place = (i: number, n: number) => {
    const at = ((i + 0.5) * GRID) / n - 0.5 + GRID;
    return { lo: Math.floor(at) % GRID, hi: (Math.floor(at) + 1) % GRID, f: at - Math.floor(at) };
  };
  const columns = Array.from({ length: width }, (_, x) => place(x, width));
  for (let y = 0, i = 0; y < height; y++) {
    const row = place(y, height);
    for (let x = 0; x < width; x++, i += 3) {
      const { lo, hi, f } = columns[x];
      const top = gain[row.lo * GRID + lo] * (1 - f) + gain[row.lo * GRID + hi] * f;
      const low = gain[row.hi * GRID + lo] * (1 - f) + gain[row.hi * GRID + hi] * f;
      const k = top + (low - top) * row.f;
      for (let c = 0; c < 3; c++) data[i + c] = srgbByte(table[data[i + c]] * k);
    }
  }
}
