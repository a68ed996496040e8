import type { MeshInput } from '../geometry';
import { mapInputs, settle } from '../geometry';
import type { Mesh } from '../mesh/mesh';

/** Times a mesh is made finer at most. */
export const MAX_FINER = 3;
/** Bytes a vertex takes as the stage and glTF keep it: position, normal, tangent, coordinate, colour. */
export const VERTEX_BYTES = 12 + 12 + 16 + 8 + 4;

/**
 * The mesh with every triangle cut into four at the middles of its edges. It keeps its shape; coordinates and colours are
 * those half way, normals and tangents as well, at unit length. The vertices that were there come first, as they were.
 */
export function finerMesh(mesh: Mesh): Mesh {
  const count = mesh.position.length / 3;
  const middles = new Map<number, number>();
  const [from, to]: [number[], number[]] = [[], []];
  const middle = (a: number, b: number): number => {
    const key = Math.min(a, b) * count + Math.max(a, b);
    let made = middles.get(key);
    if (made === undefined) {
      middles.set(key, (made = count + from.length));
      from.push(a);
      to.push(b);
    }
    return made;
  };
  const index = new Uint32Array(mesh.index.length * 4);
  for (let t = 0, at = 0; t < mesh.index.length; t += 3, at += 12) {
    const [a, b, c] = [mesh.index[t], mesh.index[t + 1], mesh.index[t + 2]];
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
    index.set([a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca], at);
  }
  // Half way between parts there is none: edges lie within one.
  const half = (values: Float32Array, name: MeshInput, width: number): Float32Array => {
    const out = new Float32Array((count + from.length) * width);
    out.set(values);
    for (let i = 0; i < from.length; i++) {
      const at = (count + i) * width;
      for (let c = 0; c < width; c++) out[at + c] = (values[from[i] * width + c] + values[to[i] * width + c]) / 2;
    }
    settle(name, out.subarray(count * width));
    return out;
  };
  return { ...mapInputs(mesh, half), index };
}

/** The mesh made finer so many times. */
export const finerTimes = (mesh: Mesh, times: number): Mesh => {
  let made = mesh;
  for (let k = 0; k < times; k++) made = finerMesh(made);
  return made;
};

/** Edges of a mesh; each gains a vertex when it is made finer. */
export function edgeCount({ position, index }: Pick<Mesh, 'position' | 'index'>): number {
  const count = position.length / 3;
  const edges = new Set<number>();
  for (let t = 0; t < index.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [index[t + k], index[t + ((k + 1) % 3)]];
      edges.add(Math.min(a, b) * count + Math.max(a, b));
    }
  return edges.size;
}

/** Vertices that the middle of a dab should reach at least for its edge to be seen. */
export const ENOUGH = 12;

/** Vertices that a dab of a radius reaches where they lie `spacingM` apart. */
export const reachedBy = (radiusM: number, spacingM: number): number => (Math.PI * radiusM * radiusM) / (spacingM * spacingM);

/** How often a mesh would have to be made finer for a brush; each time halves the spacing. 0 where it is fine enough. */
export function finerFor(radiusM: number, spacingM: number): number {
  const lacking = ENOUGH / Math.max(1e-9, reachedBy(radiusM, spacingM));
  return lacking <= 1 ? 0 : Math.ceil(Math.log(lacking) / Math.log(4) - 1e-9);
}
