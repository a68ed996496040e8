import { fromHalf, toHalf } from '../image';
import { MIN_ROUGHNESS, makeAlbedoTable, sampleGgx } from './brdf';
import { makeShadingTable } from './lobe';
import type { KeyLight, Sky, Vec3 } from './sky';

/** Everything the stage needs of a sky, as numbers. */
export interface LightData {
  /** Irradiance / π as spherical-harmonic coefficients of rgb, one for each of `HARMONIC_TERMS`, cosine lobe applied. */
  harmonics: Float32Array;
  width: number;
  height: number;
  /** Roughness of each layer of the pre-filtered map. */
  levels: number[];
  /** rgb triples: `levels.length` maps of width × height; u = atan2(z, x)/2π + ½, v from +Y down. */
  map: Float32Array;
  /** What shading looks up, as `makeShadingTable` lays it out. */
  table: Float32Array;
  key: KeyLight;
}

/**
 * Real spherical harmonics of bands 0 to 4 as GLSL of a unit vector `n` and its squares `q`, with the share that a lobe has
 * of each band: the cosine's, whose band 3 is nothing, so that band 3 is that of an even hemisphere. Source: Ramamoorthi &
 * Hanrahan 2001 for the lobe, Sloan 2008 for the polynomials. `basisAt` says the same.
 */
export const HARMONIC_TERMS: readonly { band: number; scale: number; lobe: number; glsl: string }[] = [
  { band: 0, scale: 0.282095, lobe: 1, glsl: '1.0' },
  ...['n.y', 'n.z', 'n.x'].map((glsl) => ({ band: 1, scale: 0.488603, lobe: 2 / 3, glsl })),
  ...(
    [
      [1.092548, 'n.x * n.y'],
      [1.092548, 'n.y * n.z'],
      [0.315392, '(3.0 * q.z - 1.0)'],
      [1.092548, 'n.x * n.z'],
      [0.546274, '(q.x - q.y)'],
    ] as const
  ).map(([scale, glsl]) => ({ band: 2, scale, lobe: 1 / 4, glsl })),
  ...(
    [
      [0.590044, 'n.y * (3.0 * q.x - q.y)'],
      [2.890611, 'n.x * n.y * n.z'],
      [0.457046, 'n.y * (5.0 * q.z - 1.0)'],
      [0.373176, 'n.z * (5.0 * q.z - 3.0)'],
      [0.457046, 'n.x * (5.0 * q.z - 1.0)'],
      [1.445306, 'n.z * (q.x - q.y)'],
      [0.590044, 'n.x * (q.x - 3.0 * q.y)'],
    ] as const
  ).map(([scale, glsl]) => ({ band: 3, scale, lobe: -1 / 8, glsl })),
  ...(
    [
      [2.503343, 'n.x * n.y * (q.x - q.y)'],
      [1.770131, 'n.y * n.z * (3.0 * q.x - q.y)'],
      [0.946175, 'n.x * n.y * (7.0 * q.z - 1.0)'],
      [0.669047, 'n.y * n.z * (7.0 * q.z - 3.0)'],
      [0.105786, '(35.0 * q.z * q.z - 30.0 * q.z + 3.0)'],
      [0.669047, 'n.x * n.z * (7.0 * q.z - 3.0)'],
      [0.473087, '(q.x - q.y) * (7.0 * q.z - 1.0)'],
      [1.770131, 'n.x * n.z * (q.x - 3.0 * q.y)'],
      [0.625836, '(q.x * (q.x - 3.0 * q.y) - q.y * (3.0 * q.x - q.y))'],
    ] as const
  ).map(([scale, glsl]) => ({ band: 4, scale, lobe: -1 / 24, glsl })),
];
const TERMS = HARMONIC_TERMS.length;

/** Values of the harmonics at a unit vector, in the order of `HARMONIC_TERMS`; written out, for it runs once a pixel. */
export function basisAt(x: number, y: number, z: number, out: Float64Array): Float64Array {
  const [a, b, c] = [x * x, y * y, z * z];
  out[0] = 0.282095;
  out[1] = 0.488603 * y;
  out[2] = 0.488603 * z;
  out[3] = 0.488603 * x;
  out[4] = 1.092548 * x * y;
  out[5] = 1.092548 * y * z;
  out[6] = 0.315392 * (3 * c - 1);
  out[7] = 1.092548 * x * z;
  out[8] = 0.546274 * (a - b);
  out[9] = 0.590044 * y * (3 * a - b);
  out[10] = 2.890611 * x * y * z;
  out[11] = 0.457046 * y * (5 * c - 1);
  out[12] = 0.373176 * z * (5 * c - 3);
  out[13] = 0.457046 * x * (5 * c - 1);
  out[14] = 1.445306 * z * (a - b);
  out[15] = 0.590044 * x * (a - 3 * b);
  out[16] = 2.503343 * x * y * (a - b);
  out[17] = 1.770131 * y * z * (3 * a - b);
  out[18] = 0.946175 * x * y * (7 * c - 1);
  out[19] = 0.669047 * y * z * (7 * c - 3);
  out[20] = 0.105786 * (35 * c * c - 30 * c + 3);
  out[21] = 0.669047 * x * z * (7 * c - 3);
  out[22] = 0.473087 * (a - b) * (7 * c - 1);
  out[23] = 1.770131 * x * z * (a - 3 * b);
  out[24] = 0.625836 * (a * (a - 3 * b) - b * (3 * a - b));
  return out;
}
const basis = new Float64Array(TERMS);

export const directionOf = (u: number, v: number): Vec3 => {
  const theta = v * Math.PI;
  const phi = (u - 0.5) * 2 * Math.PI;
  return [Math.sin(theta) * Math.cos(phi), Math.cos(theta), Math.sin(theta) * Math.sin(phi)];
};

function projectHarmonics(sky: Sky): Float32Array {
  const sh = new Float64Array(TERMS * 3);
  const rgb: Vec3 = [0, 0, 0];
  const w = 128;
  const h = 64;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = (y + 0.5) / h;
      const d = directionOf((x + 0.5) / w, v);
      const solid = ((2 * Math.PI) / w) * (Math.cos((y * Math.PI) / h) - Math.cos(((y + 1) * Math.PI) / h));
      sky(d, rgb);
      basisAt(d[0], d[1], d[2], basis);
      for (let i = 0; i < TERMS; i++) for (let c = 0; c < 3; c++) sh[i * 3 + c] += basis[i] * HARMONIC_TERMS[i].lobe * rgb[c] * solid;
    }
  return Float32Array.from(sh);
}

/** Numbers of `irradianceBands`: rgb of bands 0, 1, 2 with 4, and 3. */
export const BANDS = 12;
const PLACE_OF_BAND = [0, 3, 6, 9, 6];
/**
 * Light arriving at a normal over π, band by band: the sum of the first three triples is the irradiance of a cosine lobe;
 * the fourth is what an even hemisphere has of band 3.
 */
export function irradianceBands(harmonics: Float32Array, n: readonly number[], out: Float64Array): Float64Array {
  basisAt(n[0], n[1], n[2], basis);
  out.fill(0);
  for (let i = 0; i < TERMS; i++) {
    const at = PLACE_OF_BAND[HARMONIC_TERMS[i].band];
    for (let c = 0; c < 3; c++) out[at + c] += basis[i] * harmonics[i * 3 + c];
  }
  return out;
}

/** Mean radiance about a direction, weighted by GGX with n = v = r (Karis 2013), by half vectors about +Z. `even` takes what
 * comes in over the hemisphere of α = 1 as it comes. */
function prefiltered(sky: Sky, r: Vec3, halves: readonly (readonly number[])[], even: boolean, out: Vec3): Vec3 {
  const up = Math.abs(r[1]) < 0.99 ? [0, 1, 0] : [1, 0, 0];
  const t = normalise([up[1] * r[2] - up[2] * r[1], up[2] * r[0] - up[0] * r[2], up[0] * r[1] - up[1] * r[0]]);
  const b = [r[1] * t[2] - r[2] * t[1], r[2] * t[0] - r[0] * t[2], r[0] * t[1] - r[1] * t[0]];
  const rgb: Vec3 = [0, 0, 0];
  const l: Vec3 = [0, 0, 0];
  const sum: Vec3 = [0, 0, 0];
  let total = 0;
  for (const h of halves) {
    const nDotL = 2 * h[2] * h[2] - 1;
    if (nDotL <= 0) continue;
    const weight = even ? 1 : nDotL;
    for (let c = 0; c < 3; c++) l[c] = 2 * h[2] * (h[0] * t[c] + h[1] * b[c] + h[2] * r[c]) - r[c];
    sky(l, rgb);
    for (let c = 0; c < 3; c++) sum[c] += rgb[c] * weight;
    total += weight;
  }
  for (let c = 0; c < 3; c++) out[c] = sum[c] / Math.max(total, 1e-6);
  return out;
}

const normalise = (v: number[]): number[] => {
  const l = Math.hypot(...v);
  return v.map((x) => x / l);
};

/** Layers of the map for each unit of roughness. */
export const LEVELS_PER_UNIT = 16;
/** Roughness of each layer of the map, in even steps; the last, past 1, is an even hemisphere: flatter than any lobe. */
export const LIGHT_LEVELS = Array.from({ length: LEVELS_PER_UNIT + 2 }, (_, i) => i / LEVELS_PER_UNIT);
/** How many places of the map share one that is worked out: skies become smooth as they become rough. */
const stepOf = (roughness: number): number => (roughness < 0.5 ? 1 : roughness < 0.75 ? 2 : 4);

/** Computes the light of a sky. Seconds of work: done once, when the product is built. Width and height are powers of two. */
export function computeLight({ sky, key }: { sky: Sky; key: KeyLight }, width = 128, height = 64, samples = 384): LightData {
  const map = new Float32Array(LIGHT_LEVELS.length * width * height * 3);
  const rgb: Vec3 = [0, 0, 0];
  LIGHT_LEVELS.forEach((roughness, l) => {
    const alpha = Math.min(1, Math.max(roughness, MIN_ROUGHNESS)) ** 2;
    const step = Math.min(stepOf(roughness), width / 2, height / 2);
    // Wide lobes spread their samples over more of the sky, narrow ones need few.
    const count = Math.ceil(samples * step ** 1.5 * Math.min(1, roughness / 0.35));
    const halves = Array.from({ length: count }, (_, i) => sampleGgx(i, count, alpha));
    const [w, h] = [width / step, height / step];
    const data = new Float32Array(w * h * 3);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const d = directionOf((x + 0.5) / w, (y + 0.5) / h);
        if (roughness === 0) sky(d, rgb);
        else prefiltered(sky, d, halves, roughness > 1, rgb);
        data.set(rgb, (y * w + x) * 3);
      }
    map.set(enlarged(data, w, h, step), l * width * height * 3);
  });
  return { harmonics: projectHarmonics(sky), width, height, levels: LIGHT_LEVELS, map, table: makeShadingTable(makeAlbedoTable()), key };
}

function enlarged(from: Float32Array, width: number, height: number, times: number): Float32Array {
  return times === 1 ? from : enlarged(doubled(from, width, height), width * 2, height * 2, times / 2);
}

/** A map of directions at twice its width and height, by Catmull-Rom splines: around the horizon it meets itself. */
function doubled(from: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height * 12);
  const weights = (fraction: number) => {
    const [t, t2, t3] = [fraction, fraction ** 2, fraction ** 3];
    return [-t3 + 2 * t2 - t, 3 * t3 - 5 * t2 + 2, -3 * t3 + 4 * t2 + t, t3 - t2].map((v) => v / 2);
  };
  // Past a pole a column goes on half a turn away.
  const row = (x: number, y: number) => (y < 0 ? [x + width / 2, -1 - y] : y >= height ? [x + width / 2, 2 * height - 1 - y] : [x, y]);
  for (let y = 0; y < height * 2; y++)
    for (let x = 0; x < width * 2; x++) {
      const [ax, ay] = [x / 2 - 0.25, y / 2 - 0.25];
      const [wx, wy] = [weights(ax - Math.floor(ax)), weights(ay - Math.floor(ay))];
      for (let j = 0; j < 4; j++)
        for (let i = 0; i < 4; i++) {
          const [sx, sy] = row(Math.floor(ax) - 1 + i, Math.floor(ay) - 1 + j);
          const at = (sy * width + ((sx + width) % width)) * 3;
          for (let c = 0; c < 3; c++) out[(y * width * 2 + x) * 3 + c] += wx[i] * wy[j] * from[at + c];
        }
    }
  return out;
}

const MAGIC = 0x4c425034;
/** Floats of a key light: direction, radiance, spread. */
const KEY = 7;

/** The light as bytes, little-endian: a header of five words, float32 numbers, and the map in half floats. */
export function packLight(light: LightData): Uint8Array {
  const head = Uint32Array.of(MAGIC, light.width, light.height, light.levels.length, light.table.length);
  const body = Float32Array.of(...light.levels, ...light.harmonics, ...light.key.direction, ...light.key.radiance, light.key.spread, ...light.table);
  const out = new Uint8Array(head.byteLength + body.byteLength + light.map.length * 2);
  out.set(new Uint8Array(head.buffer));
  out.set(new Uint8Array(body.buffer), head.byteLength);
  out.set(new Uint8Array(Uint16Array.from(light.map, toHalf).buffer), head.byteLength + body.byteLength);
  return out;
}

/** @throws RangeError for bytes that are not a packed light. */
export function unpackLight(bytes: Uint8Array): LightData {
  const copy = bytes.slice().buffer;
  if (copy.byteLength < 20 || copy.byteLength % 4) throw new RangeError('These bytes are not light data');
  const [magic, width, height, levels, table] = new Uint32Array(copy, 0, 5);
  const numbers = levels + TERMS * 3 + KEY + table;
  if (magic !== MAGIC || copy.byteLength !== 20 + numbers * 4 + levels * width * height * 6) throw new RangeError('These bytes are not light data');
  const floats = new Float32Array(copy, 20, numbers);
  const at = levels + TERMS * 3;
  return {
    width,
    height,
    levels: [...floats.subarray(0, levels)],
    harmonics: floats.slice(levels, at),
    key: { direction: [...floats.subarray(at, at + 3)], radiance: [...floats.subarray(at + 3, at + 6)], spread: floats[at + 6] },
    table: floats.slice(at + KEY),
    map: Float32Array.from(new Uint16Array(copy, 20 + numbers * 4), fromHalf),
  };
}

/** Radiance from the pre-filtered map times `weight`, added to `out`: bilinear in direction, linear between levels. */
export function addRadiance({ map, width, height, levels }: LightData, d: ArrayLike<number>, roughness: number, weight: number, out: Vec3): void {
  const at = Math.min(levels.length - 1, Math.max(0, roughness * LEVELS_PER_UNIT));
  const l0 = Math.floor(at);
  const x = ((Math.atan2(d[2], d[0]) / (2 * Math.PI) + 0.5) * width - 0.5 + width) % width;
  const y = Math.min(height - 1, Math.max(0, (Math.acos(Math.min(1, Math.max(-1, d[1]))) / Math.PI) * height - 0.5));
  const x0 = Math.floor(x) % width;
  const y0 = Math.floor(y);
  const right = (((x0 + 1) % width) - x0) * 3;
  const below = y0 < height - 1 ? width * 3 : 0;
  const [fx, fy] = [x - Math.floor(x), y - y0];
  for (let l = l0; l <= Math.min(levels.length - 1, l0 + 1); l++) {
    const share = weight * (l === l0 ? 1 - at + l0 : at - l0);
    for (let c = 0, i = ((l * height + y0) * width + x0) * 3; c < 3; c++, i++) {
      const top = map[i] + (map[i + right] - map[i]) * fx;
      const low = map[i + below] + (map[i + below + right] - map[i + below]) * fx;
      out[c] += share * (top + (low - top) * fy);
    }
  }
}
