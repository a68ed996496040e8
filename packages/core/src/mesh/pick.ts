import type { MeshInput, MeshPlanes } from '../geometry';
import { mapInputs } from '../geometry';
import type { Mesh, Vector } from './mesh';
import { cross, subtract } from './mesh';

/** A place on a mesh: its triangle, and the shares of the corners. */
export interface MeshHit {
  triangle: number;
  shares: [number, number, number];
  /** Along the ray, in lengths of its direction. */
  away: number;
}

/** Shares by which a ray may miss a triangle, so that none slips through between two. */
const EDGE_SLACK = 1e-7;

/** The first place that a ray meets from the front; null when it meets none. Source: Möller & Trumbore 1997. */
export function pickMesh({ position, index }: Pick<Mesh, 'position' | 'index'>, origin: Vector, direction: Vector): MeshHit | null {
  let found: MeshHit | null = null;
  const at = (v: number): [number, number, number] => [position[v * 3], position[v * 3 + 1], position[v * 3 + 2]];
  const [dx, dy, dz] = direction;
  for (let t = 0; t < index.length; t += 3) {
    const a = at(index[t]);
    const e = subtract(at(index[t + 1]), a);
    const f = subtract(at(index[t + 2]), a);
    const p = cross(direction, f);
    const det = e[0] * p[0] + e[1] * p[1] + e[2] * p[2];
    if (det < 1e-20) continue;
    const o = subtract(origin, a);
    const u = (o[0] * p[0] + o[1] * p[1] + o[2] * p[2]) / det;
    if (u < -EDGE_SLACK || u > 1 + EDGE_SLACK) continue;
    const q = cross(o, e);
    const v = (dx * q[0] + dy * q[1] + dz * q[2]) / det;
    if (v < -EDGE_SLACK || u + v > 1 + EDGE_SLACK) continue;
    const away = (f[0] * q[0] + f[1] * q[1] + f[2] * q[2]) / det;
    if (away > 0 && (!found || away < found.away)) found = { triangle: t / 3, shares: [1 - u - v, u, v], away };
  }
  return found;
}

/** Where a place of a mesh lies, in metres. */
export function placeAt({ position, index }: Pick<Mesh, 'position' | 'index'>, { triangle, shares }: Pick<MeshHit, 'triangle' | 'shares'>): Vector {
  const along = (c: number) => shares.reduce((sum, share, k) => sum + share * position[index[triangle * 3 + k] * 3 + c], 0);
  return [along(0), along(1), along(2)];
}

/** One of the things that a mesh carries, at a place. */
export function carriedAt(mesh: Mesh, place: MeshHit, name: MeshInput): Float32Array | undefined {
  const values = mesh[name];
  return values && mixedAt(mesh, place, values);
}
/** All that a mesh carries, at a place. */
export const allCarriedAt = (mesh: Mesh, place: MeshHit): MeshPlanes => mapInputs<MeshPlanes>(mesh, (values) => mixedAt(mesh, place, values));

function mixedAt({ position, index }: Mesh, { triangle, shares }: MeshHit, values: Float32Array): Float32Array {
  const width = values.length / (position.length / 3);
  return Float32Array.from({ length: width }, (_, c) =>
    shares.reduce((sum, share, k) => sum + share * values[index[triangle * 3 + k] * width + c], 0),
  );
}
