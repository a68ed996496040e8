import { shadeEnvironment, shadeKey } from './brdf';
import { TABLE_NUMBERS, lookUpShading } from './lobe';
import type { LightData } from './prefilter';
import { BANDS, addRadiance, irradianceBands } from './prefilter';
import type { KeyLight, Vec3 } from './sky';

/** What a surface is at a point. */
export interface SurfacePoint {
  /** Linear light. */
  albedo: readonly number[];
  roughness: number;
  metallic: number;
  /** Occlusion, 1 open. */
  open: number;
  /** How much light enters it and comes out elsewhere; 0 where it does not say. */
  subsurface?: number;
}
export const dot = (a: ArrayLike<number>, b: ArrayLike<number>): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const normalise = (v: readonly number[]): Vec3 => {
  const l = Math.hypot(v[0], v[1], v[2]) || 1;
  return [v[0] / l, v[1] / l, v[2] / l];
};

/** Below this a surface counts as no metal: its lobe reflects so little that one look along it is enough. */
export const METAL_FROM = 1 / 512;

/** Roughness at which lobes begin to lean, and at which their middle is the normal. */
export const LOBE_LEANS = [0.45, 0.95] as const;

/**
 * How far the middle of a lobe that is seen by one look lies from the normal (0) to the mirrored view (1): rough lobes lean
 * back toward the normal. Own fit to the reference balls.
 */
export function lobeTurn(roughness: number): number {
  const [from, to] = LOBE_LEANS;
  const t = Math.min(1, Math.max(0, (roughness - from) / (to - from)));
  return 1 - t * t * (3 - 2 * t);
}

const table = new Float64Array(TABLE_NUMBERS);
const even = new Float64Array(BANDS);
const towards = new Float64Array(3);
const half = new Float64Array(3);
const sky: Vec3 = [0, 0, 0];
const mirror: Vec3 = [0, 0, 0];

/** One look at the middle of the lobe, into `mirror`. */
function lookOnce(light: LightData, n: Vec3, view: readonly number[], nDotV: number, roughness: number): void {
  const bent = lobeTurn(roughness);
  let long = 0;
  for (let c = 0; c < 3; c++) long += (towards[c] = n[c] + (2 * nDotV * n[c] - view[c] - n[c]) * bent) ** 2;
  long = Math.sqrt(long) || 1;
  for (let c = 0; c < 3; c++) {
    towards[c] /= long;
    mirror[c] = 0;
  }
  addRadiance(light, towards, roughness, 1, mirror);
}

/** Four looks in a row along the plane of incidence and a share of the even light, as `LobeShape` says, into `mirror`. */
function lookAlong(light: LightData, n: Vec3, view: readonly number[], nDotV: number): void {
  const [, , evenly, ratio, spread, inner, outer, nearest, near, furthest, first, second] = table;
  for (let c = 0; c < 3; c++) mirror[c] = evenly * even[c] + first * even[3 + c] + second * even[6 + c] + (evenly - second) * even[9 + c];
  const sin = Math.max(1e-4, Math.sqrt(1 - nDotV * nDotV));
  const angle = ratio * Math.acos(nDotV);
  const look = (steps: number, rough: number, weight: number) => {
    const at = angle + steps * spread;
    const [along, up] = [Math.sin(at) / sin, Math.cos(at)];
    for (let c = 0; c < 3; c++) towards[c] = n[c] * (up + nDotV * along) - view[c] * along;
    addRadiance(light, towards, rough, weight, mirror);
  };
  look(-1.5, outer, nearest);
  look(-0.5, inner, near);
  look(0.5, inner, 1 - evenly - nearest - near - furthest);
  look(1.5, outer, furthest);
}

/**
 * Light that leaves a point toward `view`: the environment's, closed by occlusion, and a key light's, dimmed by `lit`
 * (0–1). Directions are unit vectors in the frame of the light, +Y up.
 */
export function shadePoint(light: LightData, n: Vec3, view: readonly number[], point: SurfacePoint, key: KeyLight, lit: number, out: Vec3): Vec3 {
  const { albedo, roughness, metallic, open, subsurface } = point;
  const nDotV = Math.min(1, Math.max(1e-3, dot(n, view)));
  lookUpShading(light.table, nDotV, roughness, table);
  const [a, b] = table;
  irradianceBands(light.harmonics, n, even);
  for (let c = 0; c < 3; c++) sky[c] = Math.max(0, even[c] + even[3 + c] + even[6 + c]);
  if (metallic < METAL_FROM) lookOnce(light, n, view, nDotV, roughness);
  else lookAlong(light, n, view, nDotV);
  let long = 0;
  for (let c = 0; c < 3; c++) long += (half[c] = view[c] + key.direction[c]) ** 2;
  long = Math.sqrt(long) || 1;
  const nDotL = dot(n, key.direction);
  const nDotH = Math.max(0, dot(n, half) / long);
  const vDotH = Math.max(0, dot(view, half) / long);
  for (let c = 0; c < 3; c++) {
    const ambient = shadeEnvironment(albedo[c], metallic, a, b, Math.max(0, mirror[c]), sky[c]) * open;
    out[c] = ambient + shadeKey(albedo[c], metallic, roughness, nDotL, nDotV, nDotH, vDotH, subsurface) * key.radiance[c] * lit;
  }
  return out;
}
