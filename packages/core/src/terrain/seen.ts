// What a ray meets of a terrain as it is, however coarsely it is drawn.
import type { Vector } from '../mesh/mesh';
import type { Heightfield } from './heightfield';

/** How far past a cell's rim a meeting still counts as in it, in lengths of the ray. */
const RIM = 1e-9;

/** The first root of `a t² + b t + c` within bounds; null where there is none. */
function rootWithin(a: number, b: number, c: number, from: number, to: number): number | null {
  const within = (t: number): boolean => Number.isFinite(t) && t >= from - RIM * (1 + Math.abs(from)) && t <= to + RIM * (1 + Math.abs(to));
  const root = Math.sqrt(b * b - 4 * a * c);
  if (Number.isNaN(root)) return null;
  // Without the difference of nearly equal numbers; where a is none, one of the two is infinite or no number.
  const q = -(b + (b < 0 ? -root : root)) / 2;
  const found = [q / a, c / q].filter(within).sort((p, r) => p - r);
  return found.length ? found[0] : null;
}

/**
 * Where a ray meets the ground first, in metres around the middle with altitude `footM` at 0; null where it passes. Between four
 * samples the ground is bilinear: in each cell that the ray goes over, a quadratic equation has the place.
 * @param way direction of the ray; need not be of length 1
 */
export function seenOnField({ width, height, spacingM, altitude }: Heightfield, footM: number, from: Vector, way: Vector): Vector | null {
  // In cells from the first sample.
  const [ox, oz] = [from[0] / spacingM + (width - 1) / 2, from[2] / spacingM + (height - 1) / 2];
  const [dx, dz] = [way[0] / spacingM, way[2] / spacingM];
  let [t, last] = [0, Infinity];
  for (const [o, d, most] of [
    [ox, dx, width - 1],
    [oz, dz, height - 1],
  ]) {
    if (d === 0) {
      if (o < 0 || o > most) return null;
      continue;
    }
    const [a, b] = [-o / d, (most - o) / d];
    t = Math.max(t, Math.min(a, b));
    last = Math.min(last, Math.max(a, b));
  }
  if (!(t <= last)) return null;
  const cellOf = (at: number, cells: number): number => Math.min(cells - 1, Math.max(0, Math.floor(at)));
  let [i, j] = [cellOf(ox + dx * t, width - 1), cellOf(oz + dz * t, height - 1)];
  while (i >= 0 && j >= 0 && i < width - 1 && j < height - 1) {
    const rim = (o: number, d: number, cell: number): number => (d === 0 ? Infinity : (cell + Number(d > 0) - o) / d);
    const [overX, overZ] = [rim(ox, dx, i), rim(oz, dz, j)];
    const end = Math.min(overX, overZ, last);
    const at = j * width + i;
    const [a, b, c, d] = [altitude[at] - footM, altitude[at + 1] - footM, altitude[at + width] - footM, altitude[at + width + 1] - footM];
    // H(u, v) = a + p u + q v + r u v, with u and v along the ray.
    const [p, q, r] = [b - a, c - a, a - b - c + d];
    const [u, v] = [ox - i, oz - j];
    const met = rootWithin(-r * dx * dz, way[1] - p * dx - q * dz - r * (u * dz + v * dx), from[1] - a - p * u - q * v - r * u * v, t, end);
    if (met !== null) return [from[0] + way[0] * met, from[1] + way[1] * met, from[2] + way[2] * met];
    if (end >= last) return null;
    if (overX <= overZ) i += Math.sign(dx);
    if (overZ <= overX) j += Math.sign(dz);
    t = end;
  }
  return null;
}
