import { BAD, PLAIN } from './colouring';
import { partOf } from './ground';
import type { Mesh } from './mesh';
import { boundsOf } from './mesh';
import { fillTriangle } from './raster';

/** Where places of a mesh lie on each other on a texture. */
export interface Overlap {
  /** Of the texels that it covers, 0–1. */
  share: number;
  /** Numbers of the parts that lie on each other there, the pair that does so most; the same twice for one part on itself. */
  parts: [number, number] | null;
  /** 1 where one place lies, 2 where several do; 0 beside the mesh. */
  texels: Uint8Array;
}

/** Places farther apart than this share of the mesh are not the same one. */
const APART = 0.02;

/**
 * Looks for places of a mesh that share texels of a `size` × `size` texture.
 * @param page where vertices lie on it, 0–1 with v down; what lies outside is not looked at
 * @param wanted pairs of parts, by number and the smaller first, that may do so
 */
export function overlapOn(mesh: Mesh, page: Float32Array, wanted: (a: number, b: number) => boolean = () => false, size = 256): Overlap {
  const { lo, hi } = boundsOf(mesh);
  const apart = APART * Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]);
  const texels = new Uint8Array(size * size);
  const owner = new Int32Array(size * size).fill(-1);
  const place = new Float32Array(size * size * 3);
  const pairs = new Map<string, number>();
  const window = { x0: 0, y0: 0, x1: size, y1: size };
  for (let t = 0; t < mesh.index.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.index[t + k]);
    const part = partOf(mesh, corners[0]);
    fillTriangle(
      corners.flatMap((v) => [page[v * 2] * size, page[v * 2 + 1] * size]),
      window,
      (x, y, ...shares) => {
        const at = y * size + x;
        const here = [0, 1, 2].map((c) => corners.reduce((sum, v, k) => sum + shares[k] * mesh.position[v * 3 + c], 0));
        const pair: [number, number] = [Math.min(owner[at], part), Math.max(owner[at], part)];
        if (owner[at] >= 0 && !wanted(...pair) && Math.hypot(...here.map((v, c) => v - place[at * 3 + c])) > apart) {
          texels[at] = 2;
          const key = pair.join();
          pairs.set(key, (pairs.get(key) ?? 0) + 1);
        }
        texels[at] ||= 1;
        owner[at] = part;
        place.set(here, at * 3);
      },
    );
  }
  const covered = texels.reduce((n, v) => n + Number(v > 0), 0);
  const twice = texels.reduce((n, v) => n + Number(v > 1), 0);
  const [most] = [...pairs].sort((a, b) => b[1] - a[1]);
  return { share: covered ? twice / covered : 0, parts: most ? (most[0].split(',').map(Number) as [number, number]) : null, texels };
}

/** A texture with what covers it, and in another colour where places lie on each other; clear beside the mesh. rgba, rows from the top. */
export function overlapPicture({ texels }: Pick<Overlap, 'texels'>): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(texels.length * 4);
  for (const [i, v] of texels.entries()) {
    const colour = v > 1 ? BAD : PLAIN;
    if (v) out.set([colour >> 16, (colour >> 8) & 255, colour & 255, 255], i * 4);
  }
  return out;
}
