import type { Mesh, UvSet } from '@pebble/core';
import type { MaskGround } from '../../../workers/mask-protocol';

/** Coordinates of a set of a mesh; those by which it is laid where it has none. */
const coordinatesOf = (mesh: Mesh, set: UvSet | undefined): Float32Array => (set === 2 ? mesh.uv2 : mesh.uv1) ?? mesh.texcoord;

/** What a mask lies on: a set of coordinates of a mesh, or the extent where there is none. */
export const maskGround = (
  mesh: Mesh | null,
  set: UvSet | undefined,
  extentM: number,
  terrain: Extract<MaskGround, { mesh: object }>['terrain'],
): MaskGround => (mesh ? { mesh: { position: mesh.position, index: mesh.index, uv: coordinatesOf(mesh, set) }, terrain } : { extentM });

/** Colours of vertices may be others: where these lie is what counts. */
export const sameForm = (a: Mesh | null, b: Mesh | null): boolean =>
  a?.position === b?.position && a?.index === b?.index && a?.texcoord === b?.texcoord;

/** Square metres that one repetition of a set of coordinates lies over. */
export function pageArea(mesh: Mesh, set: UvSet | undefined): number {
  const { position, index } = mesh;
  const uv = coordinatesOf(mesh, set);
  let [area, page] = [0, 0];
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, c] = [index[t], index[t + 1], index[t + 2]];
    const side = (v: number, k: number) => position[v * 3 + k] - position[a * 3 + k];
    const [ex, ey, ez, fx, fy, fz] = [side(b, 0), side(b, 1), side(b, 2), side(c, 0), side(c, 1), side(c, 2)];
    area += Math.hypot(ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx) / 2;
    const way = (v: number, k: number) => uv[v * 2 + k] - uv[a * 2 + k];
    page += Math.abs(way(b, 0) * way(c, 1) - way(b, 1) * way(c, 0)) / 2;
  }
  return page > 0 ? area / page : area;
}
