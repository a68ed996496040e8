import { lookUpAlbedo, shadeEnvironment, shadeKey } from './brdf';
import type { LightData } from './prefilter';
import { irradiance, radiance } from './prefilter';
import type { KeyLight, Vec3 } from './sky';

/** What a surface is at a point. */
export interface SurfacePoint {
  /** Linear light. */
  albedo: readonly number[];
  roughness: number;
  metallic: number;
  /** Occlusion, 1 open. */
  open: number;
}
export const dot = (a: readonly number[], b: readonly number[]): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const normalise = (v: readonly number[]): Vec3 => {
  const l = Math.hypot(v[0], v[1], v[2]) || 1;
  return [v[0] / l, v[1] / l, v[2] / l];
};

/** Roughness at which lobes begin to lean, and at which their middle is the normal. */
export const LOBE_LEANS = [0.3, 0.95] as const;

/**
 * How far the middle of the specular lobe lies from the normal (0) to the mirrored view (1): rough lobes lean back toward
 * the normal. Own fit to the reference balls.
 */
export function lobeTurn(roughness: number): number {
  const [from, to] = LOBE_LEANS;
  const t = Math.min(1, Math.max(0, (roughness - from) / (to - from)));
  return 1 - t * t * (3 - 2 * t);
}

const sky: Vec3 = [0, 0, 0];
const mirror: Vec3 = [0, 0, 0];

/**
 * Light that leaves a point toward `view`: the environment's, closed by occlusion, and a key light's, dimmed by `lit`
 * (0–1). Directions are unit vectors in the frame of the light, +Y up.
 */
export function shadePoint(light: LightData, n: Vec3, view: readonly number[], point: SurfacePoint, key: KeyLight, lit: number, out: Vec3): Vec3 {
  const { albedo, roughness, metallic, open } = point;
  const nDotV = Math.max(1e-3, dot(n, view));
  const split = lookUpAlbedo(light.albedo, nDotV, roughness);
  irradiance(light.harmonics, n, sky);
  const bent = lobeTurn(roughness);
  const reflected = normalise([0, 1, 2].map((c) => n[c] + (2 * nDotV * n[c] - view[c] - n[c]) * bent));
  radiance(light, reflected, roughness, mirror);
  const half = normalise([view[0] + key.direction[0], view[1] + key.direction[1], view[2] + key.direction[2]]);
  const nDotL = dot(n, key.direction);
  const nDotH = Math.max(0, dot(n, half));
  const vDotH = Math.max(0, dot(view, half));
  for (let c = 0; c < 3; c++) {
    const ambient = shadeEnvironment(albedo[c], metallic, split, mirror[c], sky[c]) * open;
    out[c] = ambient + shadeKey(albedo[c], metallic, roughness, nDotL, nDotV, nDotH, vDotH) * key.radiance[c] * lit;
  }
  return out;
}
