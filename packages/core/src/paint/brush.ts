import { smooth } from '../mesh/mesh';
import { hash3, pcg, unit } from '../noise';

export interface Brush {
  /** Metres on the surface. */
  radiusM: number;
  /** How far a stroke goes toward its aim, 0–1. */
  strength: number;
  /** Share of the radius over which it fades: 0 a hard edge, 1 from the middle on. */
  falloff: number;
  /** How much of it noise holds back, 0–1, in patches of a size in metres. */
  broken: { by: number; atM: number; seed: number };
  /** What a stroke that sets goes to, 0–1. */
  value: number;
  /** Whether every dab falls a second time, across the middle of the mesh, or of the extent, along x or z. */
  mirror: 'x' | 'z' | null;
}
export const DEFAULT_BRUSH: Brush = { radiusM: 0.12, strength: 1, falloff: 0.6, broken: { by: 0, atM: 0.05, seed: 1 }, value: 0.5, mirror: null };

/** What a stroke aims at: 1, 0, a value, or the mean of what lies around. */
export type StrokeAim = 'add' | 'erase' | 'set' | 'smooth';

/** Share of a dab at a distance from its middle, 0–1; 0 from the radius on. */
export const falloffAt = ({ radiusM, falloff }: Brush, away: number): number =>
  away >= radiusM ? 0 : falloff <= 0 ? 1 : 1 - smooth(1 - falloff, 1, away / radiusM);

const fade = (t: number) => t * t * (3 - 2 * t);

/** Value noise in [0, 1] over space, in cells of 1. */
export function spaceNoise(x: number, y: number, z: number, seed: number): number {
  const [xi, yi, zi] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [u, v, w] = [fade(x - xi), fade(y - yi), fade(z - zi)];
  const plane = (zz: number) => {
    const layer = pcg((zz ^ Math.imul(seed, 0x9e3779b9)) >>> 0);
    const at = (dx: number, dy: number) => unit(hash3(xi + dx, yi + dy, layer));
    const top = at(0, 0) + (at(1, 0) - at(0, 0)) * u;
    return top + (at(0, 1) + (at(1, 1) - at(0, 1)) * u - top) * v;
  };
  const near = plane(zi);
  return near + (plane(zi + 1) - near) * w;
}

/** Two octaves of it in [0, 1], in patches of a size in metres. */
export function patchNoise({ atM, seed }: Brush['broken'], x: number, y: number, z: number): number {
  const [k, half] = [1 / atM, 2 / atM];
  return (2 * spaceNoise(x * k, y * k, z * k, seed) + spaceNoise(x * half, y * half, z * half, seed + 1)) / 3;
}

/** Share of a dab that noise in [0, 1] lets through. */
export const letThrough = ({ by }: Brush['broken'], noise: number): number => 1 - by * (1 - smooth(0.38, 0.62, noise));
