/**
 * GGX normal distribution for `alpha = roughness²`. Source: glTF 2.0 specification, appendix B.3.2.
 */
export function distributionGgx(nDotH: number, alpha: number): number {
  const a2 = alpha * alpha;
  const f = (nDotH * a2 - nDotH) * nDotH + 1;
  return a2 / (Math.PI * f * f);
}

/** Height-correlated Smith visibility, `G / (4 · n·l · n·v)`. Source: glTF 2.0, appendix B.3.2. */
export function visibilitySmith(nDotL: number, nDotV: number, alpha: number): number {
  const a2 = alpha * alpha;
  const v = nDotL * Math.sqrt(nDotV * nDotV * (1 - a2) + a2);
  const l = nDotV * Math.sqrt(nDotL * nDotL * (1 - a2) + a2);
  return 0.5 / Math.max(v + l, 1e-7);
}

/** Schlick's Fresnel. Source: glTF 2.0, appendix B.3.4. */
export const fresnelSchlick = (f0: number, vDotH: number): number => f0 + (1 - f0) * (1 - vDotH) ** 5;

/** Below this roughness a highlight is narrower than a texel of the pre-filtered map. */
export const MIN_ROUGHNESS = 0.045;

/** Van der Corput radical inverse in base 2. */
function radicalInverse(i: number): number {
  let bits = i >>> 0;
  bits = ((bits << 16) | (bits >>> 16)) >>> 0;
  bits = (((bits & 0x55555555) << 1) | ((bits & 0xaaaaaaaa) >>> 1)) >>> 0;
  bits = (((bits & 0x33333333) << 2) | ((bits & 0xcccccccc) >>> 2)) >>> 0;
  bits = (((bits & 0x0f0f0f0f) << 4) | ((bits & 0xf0f0f0f0) >>> 4)) >>> 0;
  bits = (((bits & 0x00ff00ff) << 8) | ((bits & 0xff00ff00) >>> 8)) >>> 0;
  return bits / 4294967296;
}

/** Half vector about +Z drawn from GGX, sample i of n (Hammersley). */
export function sampleGgx(i: number, n: number, alpha: number): [number, number, number] {
  const phi = (2 * Math.PI * i) / n;
  const u = radicalInverse(i);
  const cos = Math.sqrt((1 - u) / (1 + (alpha * alpha - 1) * u));
  const sin = Math.sqrt(Math.max(0, 1 - cos * cos));
  return [sin * Math.cos(phi), sin * Math.sin(phi), cos];
}

/**
 * Directional albedo of the specular lobe split as `F0 · a + b` (Karis 2013), by `samples` importance samples.
 */
export function directionalAlbedo(nDotV: number, roughness: number, samples = 256): [number, number] {
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  const v = [Math.sqrt(Math.max(0, 1 - nDotV * nDotV)), 0, nDotV];
  let a = 0;
  let b = 0;
  for (let i = 0; i < samples; i++) {
    const h = sampleGgx(i, samples, alpha);
    const vDotH = Math.max(0, v[0] * h[0] + v[2] * h[2]);
    const nDotL = 2 * vDotH * h[2] - v[2];
    if (nDotL <= 0) continue;
    const weight = (visibilitySmith(nDotL, nDotV, alpha) * 4 * nDotL * vDotH) / h[2];
    const fresnel = (1 - vDotH) ** 5;
    a += weight * (1 - fresnel);
    b += weight * fresnel;
  }
  return [a / samples, b / samples];
}

/** Side of the table of directional albedos. */
export const ALBEDO_TABLE_SIZE = 32;

/** Table over n·v (columns) and roughness (rows), both from 0 to 1, as pairs. */
export function makeAlbedoTable(size = ALBEDO_TABLE_SIZE, samples = 512): Float32Array {
  const table = new Float32Array(size * size * 2);
  for (let r = 0; r < size; r++)
    for (let c = 0; c < size; c++) table.set(directionalAlbedo(Math.max(1e-3, c / (size - 1)), r / (size - 1), samples), (r * size + c) * 2);
  return table;
}

/**
 * Light of an environment leaving a surface, per channel: single scattering by the split sum, what it loses returned as
 * multiple scattering, the rest diffuse; `a` and `b` are the directional albedo. With radiance and irradiance 1 and white surfaces the answer is 1 (furnace).
 * Source: Fdez-Agüera, "A Multiple-Scattering Microfacet Model for Real-Time Image Based Lighting", JCGT 2019.
 */
export function shadeEnvironment(albedo: number, metallic: number, a: number, b: number, radiance: number, irradiance: number): number {
  const f0 = 0.04 + (albedo - 0.04) * metallic;
  const single = f0 * a + b;
  const missing = 1 - (a + b);
  const average = f0 + (1 - f0) / 21;
  const multiple = (single * average * missing) / (1 - average * missing);
  const diffuse = albedo * (1 - metallic) * (1 - single - multiple);
  return single * radiance + (multiple + diffuse) * irradiance;
}

/**
 * How much of a distant light what light enters sends out again, in place of n·l: `((n·l + w)/(1 + w)²)₊` with w half of
 * how much enters. It wraps around what faces away, and over all directions as much comes out as before. With 0 it is n·l.
 * Derived: ∫ over the sphere of both is π.
 */
export const wrapped = (nDotL: number, subsurface: number): number => {
  const w = subsurface / 2;
  return Math.max(0, (nDotL + w) / ((1 + w) * (1 + w)));
};

/** A distant light by the glTF 2.0 BRDF, per channel: reflected part of its radiance, n·l and π of the lobe included. */
export function shadeKey(
  albedo: number,
  metallic: number,
  roughness: number,
  nDotL: number,
  nDotV: number,
  nDotH: number,
  vDotH: number,
  subsurface = 0,
): number {
  const scattered = wrapped(nDotL, subsurface);
  if (scattered <= 0 && nDotL <= 0) return 0;
  const f = fresnelSchlick(0.04 + (albedo - 0.04) * metallic, vDotH);
  const diffuse = (1 - f) * albedo * (1 - metallic) * scattered;
  if (nDotL <= 0) return diffuse;
  const alpha = Math.max(roughness, MIN_ROUGHNESS) ** 2;
  return diffuse + f * distributionGgx(nDotH, alpha) * visibilitySmith(nDotL, Math.max(nDotV, 1e-3), alpha) * Math.PI * nDotL;
}
