/** A range of rows, `[first, end)`. */
export type Rows = readonly [number, number];

/** What a tile's height says of its surroundings, for a band of rows. */
export interface Surroundings {
  /** Unit normals, Y+, as xyz. */
  normals: Float32Array;
  /** As the pixel input `relief` has it: height 0–1, slope, convexity, occlusion. */
  relief: Float32Array;
}

/** Radii at which surroundings close a place, in metres. */
const RADII_M = [0.006, 0.02, 0.06];
/** Of them, the one that convexity is measured by. */
const CONVEX = 1;

/**
 * Tangent-space normals of a tileable height field in metres, as xyz triples of unit length and Y+ direction:
 * `n ∝ (−∂h/∂col, +∂h/∂row, 1)` with central differences and wrap. `texelM` is the side of a texel in metres.
 */
export function normalsFromHeight(heightM: Float32Array, width: number, height: number, texelM: number, rows: Rows = [0, height]): Float32Array {
  const out = new Float32Array(width * (rows[1] - rows[0]) * 3);
  const k = 0.5 / texelM;
  let at = 0;
  for (let y = rows[0]; y < rows[1]; y++) {
    const up = ((y + height - 1) % height) * width;
    const down = ((y + 1) % height) * width;
    for (let x = 0; x < width; x++, at += 3) {
      const left = y * width + ((x + width - 1) % width);
      const right = y * width + ((x + 1) % width);
      const p = -(heightM[right] - heightM[left]) * k;
      const q = (heightM[down + x] - heightM[up + x]) * k;
      const inv = 1 / Math.sqrt(p * p + q * q + 1);
      out[at] = p * inv;
      out[at + 1] = q * inv;
      out[at + 2] = inv;
    }
  }
  return out;
}

/** Mean over a (2r+1)² box with wrap, by running sums, for a band of rows; r in texels. */
export function boxBlur(values: Float32Array, width: number, height: number, r: number, rows: Rows = [0, height]): Float32Array {
  const count = rows[1] - rows[0];
  const scale = 1 / (2 * r + 1);
  const across = new Float32Array((count + 2 * r) * width);
  for (let k = 0; k < count + 2 * r; k++) {
    const from = ((((rows[0] - r + k) % height) + height) % height) * width;
    let sum = 0;
    for (let x = -r; x <= r; x++) sum += values[from + (((x % width) + width) % width)];
    for (let x = 0, add = r + 1, drop = width - r; x < width; x++, add++, drop++) {
      across[k * width + x] = sum * scale;
      if (add >= width) add -= width;
      if (drop >= width) drop -= width;
      sum += values[from + add] - values[from + drop];
    }
  }
  const out = new Float32Array(count * width);
  const sums = new Float64Array(width);
  for (let k = 0; k < 2 * r + 1; k++) for (let x = 0; x < width; x++) sums[x] += across[k * width + x];
  for (let y = 0; y < count; y++) {
    const add = (y + 2 * r + 1) * width;
    for (let x = 0; x < width; x++) {
      out[y * width + x] = sums[x] * scale;
      if (y + 1 < count) sums[x] += across[add + x] - across[y * width + x];
    }
  }
  return out;
}

/** A radius in texels, as large as the tile allows. */
const texels = (radiusM: number, texelM: number, size: number): number => Math.min(Math.round(radiusM / texelM), Math.floor((size - 1) / 2));

/**
 * Occlusion (1 open, 0 closed) that belongs to a tileable height field in metres: at three radii the mean of the
 * surroundings stands for the horizon; what rises above the point by the radius itself closes it. Own method.
 */
export function occlusionFromHeight(heightM: Float32Array, width: number, height: number, texelM: number, rows: Rows = [0, height]): Float32Array {
  const { relief } = surroundings(heightM, width, height, texelM, rows, () => 0);
  return Float32Array.from({ length: relief.length / 4 }, (_, i) => relief[i * 4 + 3]);
}

/** Normals and surroundings of a band of rows of a tileable height field in metres. `stored` gives 0–1 of metres. */
export function surroundings(
  heightM: Float32Array,
  width: number,
  height: number,
  texelM: number,
  rows: Rows,
  stored: (metres: number) => number,
): Surroundings {
  const normals = normalsFromHeight(heightM, width, height, texelM, rows);
  const n = (rows[1] - rows[0]) * width;
  const relief = new Float32Array(n * 4);
  const from = rows[0] * width;
  for (let i = 0; i < n; i++) {
    const z = normals[i * 3 + 2];
    relief[i * 4] = stored(heightM[from + i]);
    relief[i * 4 + 1] = Math.sqrt(Math.max(0, 1 - z * z)) / z;
    relief[i * 4 + 3] = 1;
  }
  RADII_M.forEach((radiusM, k) => {
    const r = texels(radiusM, texelM, Math.min(width, height));
    if (r < 1) return;
    const mean = boxBlur(heightM, width, height, r, rows);
    const real = r * texelM;
    for (let i = 0; i < n; i++) {
      const rise = (mean[i] - heightM[from + i]) / real;
      if (k === CONVEX) relief[i * 4 + 2] = -rise;
      if (rise > 0) relief[i * 4 + 3] /= 1 + 1.6 * rise;
    }
  });
  return { normals, relief };
}

/** Rounds edges and fills hollows: radius in metres, share 0–1. */
export interface Wear {
  radiusM: number;
  amount: number;
}

/** Rows of a worn height field: what stands above its surroundings within a radius is lowered, hollows fill half as much. */
export function wear(heightM: Float32Array, size: number, texelM: number, { radiusM, amount }: Wear, rows: Rows): Float32Array {
  const out = heightM.slice(rows[0] * size, rows[1] * size);
  const r = texels(radiusM, texelM, size);
  if (r < 1) return out;
  const mean = boxBlur(heightM, size, size, r, rows);
  for (let i = 0; i < out.length; i++) {
    const above = out[i] - mean[i];
    out[i] -= above * amount * (above > 0 ? 1 : 0.5);
  }
  return out;
}
