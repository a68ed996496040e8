import { fourier2d } from '../image';
import { boxBlur, normalsFromHeight } from '../surface';

/** Heights that were found from directions. */
export interface Solved {
  /** Metres, mean 0. */
  heightM: Float32Array;
  /**
   * Root mean square of the slopes that these heights do not have, over that of the slopes asked for: 0 when the
   * directions belong to one relief.
   */
  residual: number;
}

/** Slopes ∂h/∂column and ∂h/∂row of Y+ directions given as xyz triples. */
function slopesOf(normals: Float32Array): [Float64Array, Float64Array] {
  const n = normals.length / 3;
  const [p, q] = [new Float64Array(n), new Float64Array(n)];
  for (let i = 0; i < n; i++) {
    const z = Math.max(0.05, normals[i * 3 + 2]);
    p[i] = -normals[i * 3] / z;
    q[i] = normals[i * 3 + 1] / z;
  }
  return [p, q];
}

/** A field mirrored to twice its sides; a slope turns its sign in the mirror that crosses it. */
function mirrored(from: Float64Array, width: number, height: number, oddX: boolean, oddY: boolean): Float64Array {
  const out = new Float64Array(from.length * 4);
  for (let y = 0, i = 0; y < 2 * height; y++)
    for (let x = 0; x < 2 * width; x++, i++) {
      const [mx, my] = [x >= width, y >= height];
      const sign = (mx && oddX ? -1 : 1) * (my && oddY ? -1 : 1);
      out[i] = sign * from[(my ? 2 * height - 1 - y : y) * width + (mx ? 2 * width - 1 - x : x)];
    }
  return out;
}

/**
 * Heights in metres whose central differences come nearest to the directions, by a Poisson solve with the matched
 * operator: `Ĥ = (s̄x·P̂ + s̄y·Q̂)/(|sx|² + |sy|²)`, `s = i·sin(2πk/N)/texel`, null modes 0. Directions that do not tile
 * are mirrored first. Source: Frankot & Chellappa 1988, with the symbol of the central difference.
 * @param normals unit vectors Y+, xyz triples
 * @param texelM side of a texel in metres
 */
export function heightFromNormals(normals: Float32Array, width: number, height: number, texelM: number, tiles: boolean): Solved {
  let [p, q] = slopesOf(normals);
  const [w, h] = tiles ? [width, height] : [2 * width, 2 * height];
  if (!tiles) [p, q] = [mirrored(p, width, height, true, false), mirrored(q, width, height, false, true)];
  // Both slopes are real: one transform of p + iq holds them, in its even and its odd half.
  fourier2d(p, q, w, h);
  const [re, im] = [new Float64Array(w * h), new Float64Array(w * h)];
  for (let ky = 0; ky < h; ky++)
    for (let kx = 0; kx < w; kx++) {
      const i = ky * w + kx;
      const j = ((h - ky) % h) * w + ((w - kx) % w);
      const sx = Math.sin((2 * Math.PI * kx) / w) / texelM;
      const sy = Math.sin((2 * Math.PI * ky) / h) / texelM;
      const size = sx * sx + sy * sy;
      // The sine of half a turn is not quite 0 in a computer; nothing can be said of such modes.
      if (size * texelM * texelM < 1e-18) continue;
      const [pRe, pIm] = [(p[i] + p[j]) / 2, (q[i] - q[j]) / 2];
      const [qRe, qIm] = [(q[i] + q[j]) / 2, (p[j] - p[i]) / 2];
      // Conjugate of i·s times what it is to undo.
      re[i] = (sx * pIm + sy * qIm) / size;
      im[i] = -(sx * pRe + sy * qRe) / size;
    }
  fourier2d(re, im, w, h, true);
  const heightM = tiles
    ? Float32Array.from(re)
    : Float32Array.from({ length: width * height }, (_, i) => re[Math.floor(i / width) * w + (i % width)]);
  return { heightM, residual: residualOf(heightM, normals, width, height, texelM, tiles) };
}

function residualOf(heightM: Float32Array, normals: Float32Array, width: number, height: number, texelM: number, tiles: boolean): number {
  const [p, q] = slopesOf(normals);
  const [a, b] = slopesOf(normalsFromHeight(heightM, width, height, texelM));
  // At a border that does not tile the central difference goes over it.
  const rim = tiles ? 0 : 1;
  let [off, all] = [0, 0];
  for (let y = rim; y < height - rim; y++)
    for (let x = rim; x < width - rim; x++) {
      const i = y * width + x;
      off += (p[i] - a[i]) ** 2 + (q[i] - b[i]) ** 2;
      all += p[i] ** 2 + q[i] ** 2;
    }
  return all > 0 ? Math.sqrt(off / all) : 0;
}

/** Steps along a direction: every texel near by, farther ones in growing steps. */
function marks(radius: number): number[] {
  const out: number[] = [];
  for (let d = 1; d <= radius; d = Math.max(d + 1, d * 1.25)) out.push(d);
  return out;
}

/**
 * Occlusion of a height field by its horizons: in each of `directions` the steepest rise `t` within a radius closes the
 * cosine-weighted share `t²/(1 + t²)` of that slice, as seen from flat ground. 1 is open. Wraps round.
 * Source: Max 1988, horizon mapping; the share is the closed form of ∫ 2 sin e cos e de up to the horizon.
 */
export function horizonOcclusion(
  heightM: Float32Array,
  width: number,
  height: number,
  texelM: number,
  radiusM: number,
  directions: number,
): Float32Array {
  const radius = Math.max(1, Math.min(radiusM / texelM, Math.min(width, height) / 2));
  const out = new Float32Array(width * height);
  const rise = new Float32Array(width);
  /** Slopes from a stretch of a row to places that lie side by side as well. */
  const climb = (here: number, there: number, x: number, count: number, inverse: number) => {
    for (let end = x + count; x < end; x++, here++, there++) {
      const t = (heightM[there] - heightM[here]) * inverse;
      if (t > rise[x]) rise[x] = t;
    }
  };
  for (let k = 0; k < directions; k++) {
    const angle = (2 * Math.PI * (k + 0.5)) / directions;
    const offsets = marks(radius).map((d) => {
      const [dx, dy] = [Math.round(d * Math.cos(angle)), Math.round(d * Math.sin(angle))];
      return { dx: ((dx % width) + width) % width, dy, inverse: 1 / (Math.hypot(dx, dy) * texelM) };
    });
    for (let y = 0; y < height; y++) {
      rise.fill(0);
      for (const { dx, dy, inverse } of offsets) {
        const row = ((((y + dy) % height) + height) % height) * width;
        climb(y * width, row + dx, 0, width - dx, inverse);
        climb(y * width + width - dx, row, width - dx, dx, inverse);
      }
      for (let x = 0; x < width; x++) out[y * width + x] += 1 / (1 + rise[x] * rise[x]);
    }
  }
  return out.map((v) => v / directions);
}

/**
 * Mean curvature (κ₁ + κ₂)/2 in 1/m of a tileable height field, positive where it bulges, after a mean over `radiusM`
 * (0 takes every texel as it is). Source: do Carmo, Differential Geometry of Curves and Surfaces, 3-3.
 */
export function reliefCurvature(heightM: Float32Array, width: number, height: number, texelM: number, radiusM: number): Float32Array {
  const r = Math.min(Math.round(radiusM / texelM), Math.floor((Math.min(width, height) - 1) / 2));
  const z = r > 0 ? boxBlur(heightM, width, height, r) : heightM;
  const out = new Float32Array(z.length);
  const [one, two] = [1 / (2 * texelM), 1 / (texelM * texelM)];
  for (let y = 0; y < height; y++) {
    const [up, here, down] = [(y + height - 1) % height, y, (y + 1) % height].map((row) => row * width);
    for (let x = 0; x < width; x++) {
      const [left, right] = [(x + width - 1) % width, (x + 1) % width];
      const c = z[here + x];
      const p = (z[here + right] - z[here + left]) * one;
      const q = (z[down + x] - z[up + x]) * one;
      const xx = (z[here + right] - 2 * c + z[here + left]) * two;
      const yy = (z[down + x] - 2 * c + z[up + x]) * two;
      const xy = (z[down + right] - z[down + left] - z[up + right] + z[up + left]) * two * 0.25;
      out[here + x] = -((1 + q * q) * xx - 2 * p * q * xy + (1 + p * p) * yy) / (2 * (1 + p * p + q * q) ** 1.5);
    }
  }
  return out;
}
