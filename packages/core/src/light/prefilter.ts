import { MIN_ROUGHNESS, makeAlbedoTable, sampleGgx } from './brdf';
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
  /** Pairs of the directional albedo table. */
  albedo: Float32Array;
  key: KeyLight;
}

/**
 * Real spherical harmonics of bands 0, 1, 2 and 4 as GLSL of a unit vector `n`; band 3 of a cosine lobe is nothing. Source:
 * Ramamoorthi & Hanrahan 2001 for the lobe, Sloan 2008 for the polynomials.
 */
export const HARMONIC_TERMS: readonly { scale: number; lobe: number; glsl: string; of: (x: number, y: number, z: number) => number }[] = [
  { scale: 0.282095, lobe: 1, glsl: '1.0', of: () => 1 },
  { scale: 0.488603, lobe: 2 / 3, glsl: 'n.y', of: (_, y) => y },
  { scale: 0.488603, lobe: 2 / 3, glsl: 'n.z', of: (_, __, z) => z },
  { scale: 0.488603, lobe: 2 / 3, glsl: 'n.x', of: (x) => x },
  { scale: 1.092548, lobe: 1 / 4, glsl: 'n.x * n.y', of: (x, y) => x * y },
  { scale: 1.092548, lobe: 1 / 4, glsl: 'n.y * n.z', of: (_, y, z) => y * z },
  { scale: 0.315392, lobe: 1 / 4, glsl: '(3.0 * q.z - 1.0)', of: (_, __, z) => 3 * z * z - 1 },
  { scale: 1.092548, lobe: 1 / 4, glsl: 'n.x * n.z', of: (x, _, z) => x * z },
  { scale: 0.546274, lobe: 1 / 4, glsl: '(q.x - q.y)', of: (x, y) => x * x - y * y },
  { scale: 2.503343, lobe: -1 / 24, glsl: 'n.x * n.y * (q.x - q.y)', of: (x, y) => x * y * (x * x - y * y) },
  { scale: 1.770131, lobe: -1 / 24, glsl: 'n.y * n.z * (3.0 * q.x - q.y)', of: (x, y, z) => y * z * (3 * x * x - y * y) },
  { scale: 0.946175, lobe: -1 / 24, glsl: 'n.x * n.y * (7.0 * q.z - 1.0)', of: (x, y, z) => x * y * (7 * z * z - 1) },
  { scale: 0.669047, lobe: -1 / 24, glsl: 'n.y * n.z * (7.0 * q.z - 3.0)', of: (_, y, z) => y * z * (7 * z * z - 3) },
  { scale: 0.105786, lobe: -1 / 24, glsl: '(35.0 * q.z * q.z - 30.0 * q.z + 3.0)', of: (_, __, z) => 35 * z ** 4 - 30 * z * z + 3 },
  { scale: 0.669047, lobe: -1 / 24, glsl: 'n.x * n.z * (7.0 * q.z - 3.0)', of: (x, _, z) => x * z * (7 * z * z - 3) },
  { scale: 0.473087, lobe: -1 / 24, glsl: '(q.x - q.y) * (7.0 * q.z - 1.0)', of: (x, y, z) => (x * x - y * y) * (7 * z * z - 1) },
  { scale: 1.770131, lobe: -1 / 24, glsl: 'n.x * n.z * (q.x - 3.0 * q.y)', of: (x, y, z) => x * z * (x * x - 3 * y * y) },
  {
    scale: 0.625836,
    lobe: -1 / 24,
    glsl: '(q.x * (q.x - 3.0 * q.y) - q.y * (3.0 * q.x - q.y))',
    of: (x, y) => x * x * (x * x - 3 * y * y) - y * y * (3 * x * x - y * y),
  },
];
const TERMS = HARMONIC_TERMS.length;
const basis = (d: readonly number[]): number[] => HARMONIC_TERMS.map(({ scale, of }) => scale * of(d[0], d[1], d[2]));

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
      basis(d).forEach((k, i) => {
        for (let c = 0; c < 3; c++) sh[i * 3 + c] += k * HARMONIC_TERMS[i].lobe * rgb[c] * solid;
      });
    }
  return Float32Array.from(sh);
}

/** Irradiance / π arriving at a normal, per channel. */
export function irradiance(harmonics: Float32Array, n: readonly number[], out: Vec3): Vec3 {
  out[0] = out[1] = out[2] = 0;
  basis(n).forEach((k, i) => {
    for (let c = 0; c < 3; c++) out[c] += k * harmonics[i * 3 + c];
  });
  for (let c = 0; c < 3; c++) out[c] = Math.max(0, out[c]);
  return out;
}

/** Mean radiance about a direction, weighted by GGX with n = v = r (Karis 2013). */
function prefiltered(sky: Sky, r: Vec3, roughness: number, samples: number, out: Vec3): Vec3 {
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  const up = Math.abs(r[1]) < 0.99 ? [0, 1, 0] : [1, 0, 0];
  const t = normalise([up[1] * r[2] - up[2] * r[1], up[2] * r[0] - up[0] * r[2], up[0] * r[1] - up[1] * r[0]]);
  const b = [r[1] * t[2] - r[2] * t[1], r[2] * t[0] - r[0] * t[2], r[0] * t[1] - r[1] * t[0]];
  const rgb: Vec3 = [0, 0, 0];
  const sum: Vec3 = [0, 0, 0];
  let total = 0;
  for (let i = 0; i < samples; i++) {
    const h = sampleGgx(i, samples, alpha);
    const nDotL = 2 * h[2] * h[2] - 1;
    if (nDotL <= 0) continue;
    const k = 2 * h[2];
    const l = [0, 1, 2].map((c) => k * (h[0] * t[c] + h[1] * b[c] + h[2] * r[c]) - r[c]);
    sky(l, rgb);
    for (let c = 0; c < 3; c++) sum[c] += rgb[c] * nDotL;
    total += nDotL;
  }
  for (let c = 0; c < 3; c++) out[c] = sum[c] / Math.max(total, 1e-6);
  return out;
}

const normalise = (v: number[]): number[] => {
  const l = Math.hypot(...v);
  return v.map((x) => x / l);
};

export const LIGHT_LEVELS = [0.0, 0.2, 0.4, 0.6, 0.8, 1.0];

/** Computes the light of a sky. Seconds of work: done once, when the product is built. */
export function computeLight({ sky, key }: { sky: Sky; key: KeyLight }, width = 64, height = 32, samples = 192): LightData {
  const map = new Float32Array(LIGHT_LEVELS.length * width * height * 3);
  const rgb: Vec3 = [0, 0, 0];
  LIGHT_LEVELS.forEach((roughness, l) => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const d = directionOf((x + 0.5) / width, (y + 0.5) / height);
        if (roughness === 0) sky(d, rgb);
        else prefiltered(sky, d, roughness, samples, rgb);
        map.set(rgb, ((l * height + y) * width + x) * 3);
      }
  });
  return { harmonics: projectHarmonics(sky), width, height, levels: LIGHT_LEVELS, map, albedo: makeAlbedoTable(), key };
}

const MAGIC = 0x4c425033;
/** Floats of a key light: direction, radiance, spread. */
const KEY = 7;

/** The light as bytes, little-endian float32 after a header of five words. */
export function packLight(light: LightData): Uint8Array {
  const head = Uint32Array.of(MAGIC, light.width, light.height, light.levels.length, light.albedo.length);
  const body = Float32Array.of(
    ...light.levels,
    ...light.harmonics,
    ...light.key.direction,
    ...light.key.radiance,
    light.key.spread,
    ...light.albedo,
    ...light.map,
  );
  const out = new Uint8Array(head.byteLength + body.byteLength);
  out.set(new Uint8Array(head.buffer));
  out.set(new Uint8Array(body.buffer), head.byteLength);
  return out;
}

/** @throws RangeError for bytes that are not a packed light. */
export function unpackLight(bytes: Uint8Array): LightData {
  const copy = bytes.slice().buffer;
  if (copy.byteLength < 20 || copy.byteLength % 4) throw new RangeError('These bytes are not light data');
  const [magic, width, height, levels, albedo] = new Uint32Array(copy, 0, 5);
  const floats = new Float32Array(copy, 20);
  if (magic !== MAGIC || floats.length !== levels + TERMS * 3 + KEY + albedo + levels * width * height * 3)
    throw new RangeError('These bytes are not light data');
  const at = levels + TERMS * 3;
  return {
    width,
    height,
    levels: [...floats.subarray(0, levels)],
    harmonics: floats.slice(levels, at),
    key: { direction: [...floats.subarray(at, at + 3)], radiance: [...floats.subarray(at + 3, at + 6)], spread: floats[at + 6] },
    albedo: floats.slice(at + KEY, at + KEY + albedo),
    map: floats.slice(at + KEY + albedo),
  };
}

/** Radiance from the pre-filtered map: bilinear in direction, linear between roughness levels. */
export function radiance(light: LightData, d: readonly number[], roughness: number, out: Vec3): Vec3 {
  const at = Math.min(1, Math.max(0, roughness)) * (light.levels.length - 1);
  const l0 = Math.floor(at);
  const l1 = Math.min(light.levels.length - 1, l0 + 1);
  const x = ((Math.atan2(d[2], d[0]) / (2 * Math.PI) + 0.5) * light.width - 0.5 + light.width) % light.width;
  const y = Math.min(light.height - 1, Math.max(0, (Math.acos(Math.min(1, Math.max(-1, d[1]))) / Math.PI) * light.height - 0.5));
  const x0 = Math.floor(x) % light.width;
  const x1 = (x0 + 1) % light.width;
  const y0 = Math.floor(y);
  const y1 = Math.min(light.height - 1, y0 + 1);
  const read = (l: number, xx: number, yy: number, c: number) => light.map[((l * light.height + yy) * light.width + xx) * 3 + c];
  const plane = (l: number, c: number) => {
    const fx = x - Math.floor(x);
    const top = read(l, x0, y0, c) * (1 - fx) + read(l, x1, y0, c) * fx;
    const low = read(l, x0, y1, c) * (1 - fx) + read(l, x1, y1, c) * fx;
    return top + (low - top) * (y - y0);
  };
  for (let c = 0; c < 3; c++) out[c] = plane(l0, c) * (1 - at + l0) + plane(l1, c) * (at - l0);
  return out;
}
