import { MIN_ROUGHNESS, directionalAlbedo, fresnelSchlick, sampleGgx, visibilitySmith } from './brdf';
import type { Sky, Vec3 } from './sky';
import { dot, normalise } from './shade';

/** A ball of one material, seen from straight ahead. */
export interface ReferenceBall {
  roughness: number;
  metallic: number;
  albedo: number;
}
/** Balls of the stored set: roughness × metallic. */
export const REFERENCE_BALLS: readonly ReferenceBall[] = [0.1, 0.25, 0.4, 0.6, 0.8, 1].flatMap((roughness) =>
  [0, 1].map((metallic) => ({ roughness, metallic, albedo: 0.5 })),
);
/** The ball is looked at along −z; these are the places of its disc, −1 to 1, the rim left out. */
export const REFERENCE_PLACES: readonly (readonly [number, number])[] = Array.from(
  { length: 49 },
  (_, i) => [((i % 7) - 3) * 0.26, (Math.floor(i / 7) - 3) * 0.26] as const,
).filter(([x, y]) => x * x + y * y < 0.7);
export const REFERENCE_VIEW: Vec3 = [0, 0, 1];
export const normalAt = ([x, y]: readonly [number, number]): Vec3 => [x, y, Math.sqrt(1 - x * x - y * y)];

/** A frame about a direction. */
function around(n: Vec3): [Vec3, Vec3] {
  const up: Vec3 = Math.abs(n[1]) < 0.99 ? [0, 1, 0] : [1, 0, 0];
  const t = normalise([up[1] * n[2] - up[2] * n[1], up[2] * n[0] - up[0] * n[2], up[0] * n[1] - up[1] * n[0]]);
  return [t, [n[1] * t[2] - n[2] * t[1], n[2] * t[0] - n[0] * t[2], n[0] * t[1] - n[1] * t[0]]];
}

/**
 * Light of a sky that leaves a ball at a place, by integration over the hemisphere with no table, no harmonics and no
 * pre-filtered map: the glTF 2.0 lobe by importance samples, what it loses returned as multiple scattering, the rest
 * diffuse. What the stage's approximations are measured against.
 */
export function integrateBall(sky: Sky, { roughness, metallic, albedo }: ReferenceBall, place: readonly [number, number], samples = 4096): Vec3 {
  const n = normalAt(place);
  const [t, b] = around(n);
  const v = REFERENCE_VIEW;
  const nDotV = Math.max(1e-3, dot(n, v));
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  const f0 = 0.04 + (albedo - 0.04) * metallic;
  const [single, even, rgb]: [Vec3, Vec3, Vec3] = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  const local: Vec3 = [dot(v, t), dot(v, b), nDotV];
  for (let i = 0; i < samples; i++) {
    const h = sampleGgx(i, samples, alpha);
    const vDotH = Math.max(0, dot(local, h));
    const l = [0, 1, 2].map((c) => 2 * vDotH * h[c] - local[c]);
    if (l[2] > 0 && vDotH > 0) {
      const weight = (fresnelSchlick(f0, vDotH) * visibilitySmith(l[2], nDotV, alpha) * 4 * l[2] * vDotH) / h[2];
      sky(
        [0, 1, 2].map((c) => l[0] * t[c] + l[1] * b[c] + l[2] * n[c]),
        rgb,
      );
      for (let c = 0; c < 3; c++) single[c] += (weight * rgb[c]) / samples;
    }
    // Cosine-weighted: the square root of an even number, on the same turn as the lobe's sample.
    const r = Math.sqrt((i + 0.5) / samples);
    const a = i * 2.399963229728653;
    const d = [r * Math.cos(a), r * Math.sin(a), Math.sqrt(1 - r * r)];
    sky(
      [0, 1, 2].map((c) => d[0] * t[c] + d[1] * b[c] + d[2] * n[c]),
      rgb,
    );
    for (let c = 0; c < 3; c++) even[c] += rgb[c] / samples;
  }
  const [x, y] = directionalAlbedo(nDotV, roughness, samples);
  const reflected = f0 * x + y;
  const missing = 1 - x - y;
  const average = f0 + (1 - f0) / 21;
  const multiple = (reflected * average * missing) / (1 - average * missing);
  const diffuse = albedo * (1 - metallic) * (1 - reflected - multiple);
  return [0, 1, 2].map((c) => single[c] + (multiple + diffuse) * even[c]) as Vec3;
}
