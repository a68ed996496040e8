import type { MeshPlanes } from '../geometry';
import { MESH_INPUTS } from '../geometry';

/** Flat arrays, one entry a vertex; triangles wind counter-clockwise seen from outside (glTF 2.0). Metres, +Y up. */
export type Mesh = MeshPlanes & { index: Uint32Array };

export type Vector = readonly [number, number, number];
export const subtract = (a: readonly number[], b: readonly number[]): [number, number, number] => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const cross = (a: readonly number[], b: readonly number[]): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const unit = (a: readonly number[]): [number, number, number] => {
  const l = Math.hypot(a[0], a[1], a[2]) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Area of the triangle whose corners stand from `k` on in the index. */
export function triangleArea({ position, index }: Pick<Mesh, 'position' | 'index'>, k: number): number {
  const [a, b, c] = [index[k] * 3, index[k + 1] * 3, index[k + 2] * 3];
  const [ex, ey, ez] = [position[b] - position[a], position[b + 1] - position[a + 1], position[b + 2] - position[a + 2]];
  const [fx, fy, fz] = [position[c] - position[a], position[c + 1] - position[a + 1], position[c + 2] - position[a + 2]];
  return Math.hypot(ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx) / 2;
}

/** 0 at `lo`, 1 at `hi`, 3t² − 2t³ between; falls when `lo` is above `hi`. */
export const smooth = (lo: number, hi: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - lo) / (hi - lo)));
  return t * t * (3 - 2 * t);
};

/** Writes rgba of a vertex at `out[at…]`. */
export type Colouring = (position: Vector, normal: Vector, texcoord: readonly [number, number], out: Float32Array, at: number) => void;

export interface Placed {
  p: Vector;
  uv: readonly [number, number];
}

/**
 * A grid of (columns + 1) × (rows + 1) vertices from a function that gives position and texture coordinate; s runs along
 * +u, t along +v. Normals and tangents are those of the function, by central differences of 1e-4.
 */
export function grid(columns: number, rows: number, place: (s: number, t: number) => Placed, colour: Colouring): Mesh {
  const count = (columns + 1) * (rows + 1);
  const mesh: Mesh = {
    position: new Float32Array(count * 3),
    normal: new Float32Array(count * 3),
    tangent: new Float32Array(count * 4),
    texcoord: new Float32Array(count * 2),
    geomcolor: new Float32Array(count * 4),
    index: new Uint32Array(columns * rows * 6),
  };
  const e = 1e-4;
  for (let r = 0, i = 0; r <= rows; r++)
    for (let c = 0; c <= columns; c++, i++) {
      const s = c / columns;
      const t = r / rows;
      const { p, uv } = place(s, t);
      const ds = subtract(place(s + e, t).p, place(s - e, t).p);
      const dt = subtract(place(s, t + e).p, place(s, t - e).p);
      const n = unit(cross(dt, ds));
      const along = unit(ds);
      mesh.position.set(p, i * 3);
      mesh.texcoord.set(uv, i * 2);
      mesh.normal.set(n, i * 3);
      // v runs down and n × t points up (Y+ normals): the sign is −1 × −1.
      mesh.tangent.set([...along, 1], i * 4);
      colour(p, n, uv, mesh.geomcolor, i * 4);
    }
  let k = 0;
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const a = r * (columns + 1) + c;
      mesh.index.set([a, a + columns + 1, a + 1, a + 1, a + columns + 1, a + columns + 2], k);
      k += 6;
    }
  return mesh;
}

/** Several meshes as one. */
export function merged(meshes: readonly Mesh[]): Mesh {
  const join = (pick: (m: Mesh) => Float32Array) => {
    const out = new Float32Array(meshes.reduce((n, m) => n + pick(m).length, 0));
    meshes.reduce((at, m) => (out.set(pick(m), at), at + pick(m).length), 0);
    return out;
  };
  const index = new Uint32Array(meshes.reduce((n, m) => n + m.index.length, 0));
  let at = 0;
  let first = 0;
  for (const m of meshes) {
    for (const i of m.index) index[at++] = first + i;
    first += m.position.length / 3;
  }
  const carried = MESH_INPUTS.filter((name) => meshes.length && meshes.every((m) => m[name]));
  return { ...emptyMesh(), ...Object.fromEntries(carried.map((name) => [name, join((m) => m[name] as Float32Array)])), index };
}

const emptyMesh = (): Mesh => {
  const none = () => new Float32Array(0);
  return { position: none(), normal: none(), tangent: none(), texcoord: none(), geomcolor: none(), index: new Uint32Array(0) };
};

/** The smallest upright box around a mesh. */
export function boundsOf({ position }: Pick<Mesh, 'position'>): { lo: [number, number, number]; hi: [number, number, number] } {
  const lo: [number, number, number] = [Infinity, Infinity, Infinity];
  const hi: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < position.length; i++) {
    lo[i % 3] = Math.min(lo[i % 3], position[i]);
    hi[i % 3] = Math.max(hi[i % 3], position[i]);
  }
  return { lo, hi };
}

/** The same mesh with texture coordinates divided: metres become repetitions of an extent. */
export const withExtent = (mesh: Mesh, extentM: number): Mesh => ({ ...mesh, texcoord: mesh.texcoord.map((v) => v / extentM) });
