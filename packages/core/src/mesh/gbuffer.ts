import type { GBuffer } from '../compile';
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** What a mesh carries at its vertices that evaluation reads, with how many numbers each is. */
export const CARRIED = [
  ['texcoord', 2],
  ['position', 3],
  ['normal', 3],
  ['geomcolor', 4],
  ['geomprop', 3],
  ['geomuv', 4],
] as const;

/** Geometry of a mesh spread over a texture: what evaluation reads, and which texels lie on the mesh. */
export interface MeshBuffer {
  geometry: Required<Pick<GBuffer, 'texcoord' | 'position' | 'normal' | 'geomcolor' | 'geomprop' | 'geomuv'>>;
  covered: Uint8Array;
  /** Extents a texel: how far the texture coordinate moves from one texel to the next, as a mean. */
  footprint: number;
}

/**
 * Spreads what a mesh carries over `size` × `size` texels. `page` says where its vertices lie on the texture, 0–1 with v
 * down; where triangles overlap the last one stays. Texels off the mesh hold zeros, and a normal that looks up. `rows`
 * takes a band of the texture, `[first, end)`.
 */
export function spreadOver(mesh: Mesh, page: Float32Array, size: number, rows: readonly [number, number] = [0, size]): MeshBuffer {
  const [top, bottom] = rows;
  const n = size * (bottom - top);
  const geometry = {
    texcoord: new Float32Array(n * 2),
    position: new Float32Array(n * 3),
    normal: new Float32Array(n * 3),
    geomcolor: new Float32Array(n * 4).fill(1),
    geomprop: new Float32Array(n * 3),
    geomuv: new Float32Array(n * 4),
  };
  for (let i = 0; i < n; i++) {
    geometry.normal[i * 3 + 1] = 1;
    geometry.geomprop[i * 3 + 1] = 1;
  }
  const carried = CARRIED.flatMap(([name, width]) => (mesh[name] ? [{ from: mesh[name], to: geometry[name], width }] : []));
  const covered = new Uint8Array(n);
  const window = { x0: 0, y0: top, x1: size, y1: bottom };
  let [ratio, weight] = [0, 0];
  for (let t = 0; t < mesh.index.length; t += 3) {
    const [a, b, c] = [mesh.index[t], mesh.index[t + 1], mesh.index[t + 2]];
    const corners = [a, b, c].flatMap((v) => [page[v * 2] * size, page[v * 2 + 1] * size]);
    const twice = (uv: ArrayLike<number>, [p, q, r]: number[]) =>
      Math.abs((uv[q * 2] - uv[p * 2]) * (uv[r * 2 + 1] - uv[p * 2 + 1]) - (uv[q * 2 + 1] - uv[p * 2 + 1]) * (uv[r * 2] - uv[p * 2]));
    const texels = twice(corners, [0, 1, 2]);
    if (texels > 0) {
      ratio += twice(mesh.texcoord, [a, b, c]);
      weight += texels;
    }
    fillTriangle(corners, window, (x, y, wa, wb, wc) => {
      const at = (y - top) * size + x;
      covered[at] = 1;
      for (const { from, to, width } of carried)
        for (let k = 0; k < width; k++) to[at * width + k] = from[a * width + k] * wa + from[b * width + k] * wb + from[c * width + k] * wc;
    });
  }
  makeUnit(geometry.normal);
  return { geometry, covered, footprint: weight ? Math.sqrt(ratio / weight) : 1 / size };
}

/** Brings vectors of three numbers each to length 1; none stays none. */
export function makeUnit(vectors: Float32Array): void {
  for (let i = 0; i < vectors.length; i += 3) {
    const [x, y, z] = vectors.subarray(i, i + 3);
    const long = Math.hypot(x, y, z) || 1;
    vectors.set([x / long, y / long, z / long], i);
  }
}
