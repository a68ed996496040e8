import { LOBE_FITS } from './lobe-fits';

/**
 * How four taps in a row and a share of even light stand for a specular lobe. Angles lie in the plane of incidence, from
 * the normal toward the mirrored view; taps are half a spread and one and a half spreads from the middle.
 */
export interface LobeShape {
  /** Angle of the middle of the row, in angles of the mirrored view. */
  ratio: number;
  /** Radians from one tap to the next. */
  spread: number;
  /** Roughness at which the two inner taps, and the two outer ones, look into the pre-filtered map. */
  inner: number;
  outer: number;
  /** Weights of the taps but the third, from the normal outward, and of the even light; the third tap has the rest. */
  nearest: number;
  near: number;
  furthest: number;
  even: number;
  /**
   * How much of bands 1, and 2 with 4, comes with the even light, where irradiance holds 1; of band 3 it is `even − second`.
   */
  first: number;
  second: number;
}

/** Fitted lobes as they are stored: numbers of a shape, columns over n·v and rows over roughness, both from 0 to 1. */
export const LOBE_NUMBERS = [
  'ratio',
  'spread',
  'inner',
  'outer',
  'nearest',
  'near',
  'furthest',
  'even',
  'first',
  'second',
] as const satisfies (keyof LobeShape)[];
export const LOBE_GRID = { columns: 32, rows: 16 };
/** Stored numbers are thousandths. */
export const LOBE_SCALE = 1000;

/** Side of the shading table, and numbers of a cell: three layers of four. */
export const TABLE_SIZE = 32;
export const TABLE_NUMBERS = 12;

/**
 * Everything that shading looks up by n·v (columns) and roughness (rows), both from 0 to 1, as three layers of RGBA:
 * directional albedo a and b, `even`, `ratio`; `spread`, `inner`, `outer`, `nearest`; `near`, `furthest`, `first`, `second`.
 */
export function makeShadingTable(albedo: Float32Array): Float32Array {
  const n = TABLE_SIZE;
  const out = new Float32Array(n * n * TABLE_NUMBERS);
  for (let y = 0; y < n; y++) {
    const at = (y / (n - 1)) * (LOBE_GRID.rows - 1);
    const [low, high] = [Math.floor(at), Math.min(LOBE_GRID.rows - 1, Math.floor(at) + 1)];
    for (let x = 0; x < n; x++) {
      const shape = Object.fromEntries(
        LOBE_NUMBERS.map((name, k) => {
          const read = (row: number) => LOBE_FITS[(row * LOBE_GRID.columns + x) * LOBE_NUMBERS.length + k] / LOBE_SCALE;
          return [name, read(low) + (read(high) - read(low)) * (at - low)];
        }),
      ) as unknown as LobeShape;
      const i = y * n + x;
      const layers = [
        [albedo[i * 2], albedo[i * 2 + 1], shape.even, shape.ratio],
        [shape.spread, shape.inner, shape.outer, shape.nearest],
        [shape.near, shape.furthest, shape.first, shape.second],
      ];
      layers.forEach((four, l) => out.set(four, (l * n * n + i) * 4));
    }
  }
  return out;
}

/** All numbers of the table at an angle and a roughness, in its order, bilinear, held at the border. */
export function lookUpShading(table: Float32Array, nDotV: number, roughness: number, out: Float64Array): Float64Array {
  const n = TABLE_SIZE;
  const x = Math.min(n - 1, Math.max(0, nDotV * (n - 1)));
  const y = Math.min(n - 1, Math.max(0, roughness * (n - 1)));
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const right = x0 < n - 1 ? 4 : 0;
  const below = y0 < n - 1 ? 4 * n : 0;
  const [fx, fy] = [x - x0, y - y0];
  for (let l = 0, o = 0; l < TABLE_NUMBERS / 4; l++)
    for (let k = 0, i = (l * n * n + y0 * n + x0) * 4; k < 4; k++, i++, o++) {
      const top = table[i] + (table[i + right] - table[i]) * fx;
      const low = table[i + below] + (table[i + below + right] - table[i + below]) * fx;
      out[o] = top + (low - top) * fy;
    }
  return out;
}
