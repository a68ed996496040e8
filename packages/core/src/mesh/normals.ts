import { mapInputs } from '../geometry';
import type { Mesh } from './mesh';
import { weld } from './weld';

/** Faces that turn by more than this are taken for an edge, not for a curve. */
const CREASE = Math.cos((40 * Math.PI) / 180);

/** A mesh whose vertices were divided, and for each of them the vertex that it comes from. */
export interface Divided {
  index: Uint32Array;
  from: Uint32Array;
}

/**
 * Normals for a mesh without them: the mean of the faces around a place, weighted by their angles there, over those that
 * turn less than 40° from the face itself. Vertices on edges are divided. Faces without area count nowhere.
 */
export function creasedNormals(position: Float32Array, index: Uint32Array): Divided & { normal: Float32Array } {
  const triangles = Math.floor(index.length / 3);
  const face = new Float64Array(triangles * 3);
  const angle = new Float64Array(triangles * 3);
  const at = (k: number, c: number) => position[index[k] * 3 + c];
  const edge = (from: number, to: number) => [0, 1, 2].map((c) => at(to, c) - at(from, c));
  for (let t = 0; t < triangles; t++) {
    const [e, f, g] = [edge(t * 3, t * 3 + 1), edge(t * 3, t * 3 + 2), edge(t * 3 + 1, t * 3 + 2)];
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
    const length = Math.hypot(n[0], n[1], n[2]);
    if (!(length > 0)) continue;
    for (let c = 0; c < 3; c++) face[t * 3 + c] = n[c] / length;
    const between = (p: number[], q: number[]) =>
      Math.acos(Math.max(-1, Math.min(1, (p[0] * q[0] + p[1] * q[1] + p[2] * q[2]) / (Math.hypot(...p) * Math.hypot(...q) || 1))));
    angle[t * 3] = between(e, f);
    angle[t * 3 + 1] = between(
      e.map((v) => -v),
      g,
    );
    angle[t * 3 + 2] = Math.max(0, Math.PI - angle[t * 3] - angle[t * 3 + 1]);
  }
  // Corners around every place, as one flat list.
  const place = weld([position], [3]);
  const first = new Uint32Array(position.length / 3 + 1);
  for (let k = 0; k < triangles * 3; k++) first[place[index[k]] + 1]++;
  for (let i = 1; i < first.length; i++) first[i] += first[i - 1];
  const around = new Uint32Array(triangles * 3);
  const next = first.slice();
  for (let k = 0; k < triangles * 3; k++) around[next[place[index[k]]]++] = k;

  const corner = new Float32Array(triangles * 9);
  for (let k = 0; k < triangles * 3; k++) {
    const own = Math.floor(k / 3) * 3;
    const sum = [0, 0, 0];
    for (let j = first[place[index[k]]]; j < first[place[index[k]] + 1]; j++) {
      const other = Math.floor(around[j] / 3) * 3;
      if (face[own] * face[other] + face[own + 1] * face[other + 1] + face[own + 2] * face[other + 2] < CREASE) continue;
      for (let c = 0; c < 3; c++) sum[c] += face[other + c] * angle[around[j]];
    }
    const length = Math.hypot(...sum);
    // A face without area shows nowhere; up is as good as any way.
    for (let c = 0; c < 3; c++) corner[k * 3 + c] = length > 0 ? sum[c] / length : c === 1 ? 1 : 0;
  }
  const divided = divide(index, [corner], [3]);
  return { ...divided, normal: gather(corner, 3, divided.corner) };
}

/**
 * Vertices such that corners which come from one vertex and carry the same values share one. `corners` holds `widths`
 * values for each entry of the index.
 */
export function divide(index: Uint32Array, corners: readonly Float32Array[], widths: readonly number[]): Divided & { corner: Uint32Array } {
  const same = weld([Float32Array.from(index, (i) => i & 0xffff), Float32Array.from(index, (i) => i >>> 16), ...corners], [1, 1, ...widths]);
  const number = new Int32Array(index.length).fill(-1);
  const out = new Uint32Array(index.length);
  const from: number[] = [];
  const corner: number[] = [];
  for (let k = 0; k < index.length; k++) {
    const lead = same[k];
    if (number[lead] < 0) {
      number[lead] = from.length;
      from.push(index[lead]);
      corner.push(lead);
    }
    out[k] = number[lead];
  }
  return { index: out, from: Uint32Array.from(from), corner: Uint32Array.from(corner) };
}

/** The values of some vertices, in their order. */
export function gather(values: Float32Array, width: number, from: Uint32Array): Float32Array {
  const out = new Float32Array(from.length * width);
  for (let i = 0; i < from.length; i++) for (let c = 0; c < width; c++) out[i * width + c] = values[from[i] * width + c];
  return out;
}

/** A mesh with its vertices divided; every attribute goes along. */
export const dividedMesh = (mesh: Mesh, { index, from }: Divided): Mesh => ({
  ...mapInputs(mesh, (values, _, width) => gather(values, width, from)),
  index,
});
