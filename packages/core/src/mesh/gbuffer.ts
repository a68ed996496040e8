import type { Coordinate, InputPlanes, MeshInput } from '../geometry';
import { COORDINATES, MESH_INPUTS, flatPlane, inputWidth, settle } from '../geometry';
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** Geometry of a mesh spread over a texture: what evaluation reads, and which texels lie on the mesh. */
export interface MeshBuffer {
  geometry: InputPlanes<MeshInput>;
  covered: Uint8Array;
  /** How far each coordinate moves from one texel to the next, as a mean; that of the extent by itself too. */
  footprints: Record<Coordinate, number>;
  footprint: number;
}

/**
 * Spreads what a mesh carries over `size` × `size` texels. `page` says where its vertices lie on the texture, 0–1 with v
 * down; where triangles overlap the last one stays. Texels off the mesh hold what nobody said anything of. `rows`
 * takes a band of the texture, `[first, end)`.
 */
export function spreadOver(mesh: Mesh, page: Float32Array, size: number, rows: readonly [number, number] = [0, size]): MeshBuffer {
  const [top, bottom] = rows;
  const n = size * (bottom - top);
  const nowhere = new Float32Array(n * 2);
  const geometry = Object.fromEntries(MESH_INPUTS.map((name) => [name, flatPlane(name, nowhere)])) as InputPlanes<MeshInput>;
  const carried = MESH_INPUTS.flatMap((name) => (mesh[name] ? [{ name, from: mesh[name], to: geometry[name], width: inputWidth(name) }] : []));
  const covered = new Uint8Array(n);
  const window = { x0: 0, y0: top, x1: size, y1: bottom };
  const coordinates = COORDINATES.map((name) => ({ name, of: mesh[name] ?? mesh.texcoord, ratio: 0 }));
  let weight = 0;
  for (let t = 0; t < mesh.index.length; t += 3) {
    const [a, b, c] = [mesh.index[t], mesh.index[t + 1], mesh.index[t + 2]];
    const corners = [a, b, c].flatMap((v) => [page[v * 2] * size, page[v * 2 + 1] * size]);
    const twice = (uv: ArrayLike<number>, [p, q, r]: number[]) =>
      Math.abs((uv[q * 2] - uv[p * 2]) * (uv[r * 2 + 1] - uv[p * 2 + 1]) - (uv[q * 2 + 1] - uv[p * 2 + 1]) * (uv[r * 2] - uv[p * 2]));
    const texels = twice(corners, [0, 1, 2]);
    if (texels > 0) {
      for (const each of coordinates) each.ratio += twice(each.of, [a, b, c]);
      weight += texels;
    }
    fillTriangle(corners, window, (x, y, wa, wb, wc) => {
      const at = (y - top) * size + x;
      covered[at] = 1;
      for (const { from, to, width } of carried)
        for (let k = 0; k < width; k++) to[at * width + k] = from[a * width + k] * wa + from[b * width + k] * wb + from[c * width + k] * wc;
    });
  }
  for (const { name, to } of carried) settle(name, to);
  // Sets that the mesh does not have are the one that it has.
  for (const name of MESH_INPUTS) if (!mesh[name]) geometry[name] = flatPlane(name, geometry.texcoord);
  const footprints = Object.fromEntries(coordinates.map(({ name, ratio }) => [name, weight ? Math.sqrt(ratio / weight) : 1 / size]));
  return { geometry, covered, footprints: footprints as MeshBuffer['footprints'], footprint: footprints['texcoord'] };
}
