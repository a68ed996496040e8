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

/**
 * rgba of every vertex of a mesh made finer so many times, as it was painted on one made finer more or less often: vertices
 * in between wear what is half way, of a finer one those that were there before keep theirs. Null when it was another mesh.
 */
export function coloursAt(mesh: Mesh, painted: LoadedPaint, times: number): Float32Array | null {
  const shown = finerTimes(mesh, times).position.length;
  if (misfit(painted, finerTimes(mesh, painted.finer).position.length / 3)) return null;
  const { geomcolor } = finerTimes(paintedMesh(mesh, painted), Math.max(0, times - painted.finer));
  return geomcolor.slice(0, (shown / 3) * 4);
}
