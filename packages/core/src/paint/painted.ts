import type { PaintedVertices } from '../document';
import type { Mesh } from '../mesh/mesh';
import { finerTimes } from './finer';
import { putTile } from './tiles';

/** What was painted, with the bytes of its tiles. */
export interface LoadedPaint extends Pick<PaintedVertices, 'vertices' | 'finer'> {
  tiles: ReadonlyMap<number, Uint8Array>;
}

/** Why colours cannot lie on a mesh; null when they can. */
export const misfit = (painted: Pick<PaintedVertices, 'vertices'>, vertices: number): string | null =>
  painted.vertices === vertices
    ? null
    : `The vertex colours were painted on ${painted.vertices.toLocaleString('en')} vertices and the specimen has ${vertices.toLocaleString('en')} now: they are left out. Bring the former mesh back, or clear what was painted`;

/** The mesh as it was painted: made finer, with its colours. @throws RangeError when it is not the mesh that was painted */
export function paintedMesh(mesh: Mesh, { vertices, finer, tiles }: LoadedPaint): Mesh {
  const made = finerTimes(mesh, finer);
  const wrong = misfit({ vertices }, made.position.length / 3);
  if (wrong) throw new RangeError(wrong);
  const geomcolor = made.geomcolor.slice();
  for (const [tile, bytes] of tiles) putTile(geomcolor, tile, bytes);
  return { ...made, geomcolor };
}
