// What a mesh knows of its places: how it bends, and how much of the sky is open.
import { hash3, unit } from '../noise';
import type { Bvh } from './bvh';
import type { Mesh } from './mesh';
import { boundsOf, merged } from './mesh';
import { dividedMesh } from './normals';
import { weld } from './weld';

/** Rays a vertex, and vertices up to which the sky is looked at on demand. */
export const SKY_RAYS = 128;
export const MAX_SKY_VERTICES = 60_000;

/** Meshes of parts as one that knows which vertex is whose. */
export function numbered(meshes: readonly Mesh[]): Mesh {
  const mesh = merged(meshes);
  const part = new Float32Array(mesh.position.length / 3);
  let first = 0;
  meshes.forEach((m, number) => part.fill(number, first, (first += m.position.length / 3)));
  return { ...mesh, part };
}

/** A mesh that was made of numbered parts, taken apart again: each with the vertices that it uses. Parts without triangles are empty. */
export function unmerged(mesh: Mesh, count: number): Mesh[] {
  const { index } = mesh;
  const corners: number[][] = Array.from({ length: count }, () => []);
  for (let t = 0; t < index.length; t += 3) {
    const part = Math.min(count - 1, partOf(mesh, index[t]));
    corners[part].push(index[t], index[t + 1], index[t + 2]);
  }
  return corners.map((used) => {
    const number = new Map<number, number>();
    for (const v of used) if (!number.has(v)) number.set(v, number.size);
    return dividedMesh(mesh, { index: Uint32Array.from(used, (v) => number.get(v) as number), from: Uint32Array.from(number.keys()) });
  });
}

/** Number of the part that a vertex belongs to. */
export const partOf = ({ part }: Pick<Mesh, 'part'>, vertex: number): number => Math.max(0, Math.round(part?.[vertex] ?? 0));

/** The same mesh knowing more of its places; what is null stays. */
export const withMeshFacts = (mesh: Mesh, curvature: Float32Array | null, occlusion: Float32Array | null): Mesh => ({
  ...mesh,
  ...(curvature ? { curvature } : {}),
  ...(occlusion ? { occlusion } : {}),
});

/**
 * Mean curvature (κ₁ + κ₂)/2 at every vertex in 1/m, positive where the mesh bends outwards, by the cotangents of the
 * angles opposite its edges; vertices at one place count as one. 0 on open rims. Source: Meyer, Desbrun, Schröder & Barr,
 * "Discrete Differential-Geometry Operators for Triangulated 2-Manifolds", 2002, with a third of each triangle as area.
 */
export function meshCurvature({ position, normal, index }: Mesh): Float32Array {
  const count = position.length / 3;
  // Where charts meet, vertices of one place may differ by the last bits.
  const { lo, hi } = boundsOf({ position });
  const grain = Math.max(1e-9, 1e-5 * Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]));
  const same = weld([position.map((v) => Math.round(v / grain))], [3]);
  const sum = new Float64Array(count * 3);
  const facing = new Float64Array(count * 3);
  const area = new Float64Array(count);
  const edges = new Map<number, number>();
  for (let i = 0; i < count; i++) for (let c = 0; c < 3; c++) facing[same[i] * 3 + c] += normal[i * 3 + c];
  const at = (v: number, c: number) => position[v * 3 + c];
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, d] = [same[index[t]], same[index[t + 1]], same[index[t + 2]]];
    if (a === b || b === d || d === a) continue;
    const corners = [a, b, d];
    const e = [0, 1, 2].map((c) => at(b, c) - at(a, c));
    const f = [0, 1, 2].map((c) => at(d, c) - at(a, c));
    const twice = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
    if (twice < 1e-14) continue;
    for (let k = 0; k < 3; k++) {
      const [o, p, q] = [corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]];
      area[o] += twice / 6;
      let along = 0;
      for (let c = 0; c < 3; c++) along += (at(p, c) - at(o, c)) * (at(q, c) - at(o, c));
      const cotangent = along / twice;
      for (let c = 0; c < 3; c++) {
        const step = cotangent * (at(p, c) - at(q, c));
        sum[p * 3 + c] += step;
        sum[q * 3 + c] -= step;
      }
      const key = Math.min(p, q) * count + Math.max(p, q);
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  }
  const open = new Uint8Array(count);
  for (const [key, uses] of edges) if (uses === 1) open[Math.floor(key / count)] = open[key % count] = 1;
  return Float32Array.from({ length: count }, (_, i) => {
    const v = same[i];
    if (!area[v] || open[v]) return 0;
    const long = Math.hypot(facing[v * 3], facing[v * 3 + 1], facing[v * 3 + 2]) || 1;
    let outwards = 0;
    for (let c = 0; c < 3; c++) outwards += (sum[v * 3 + c] * facing[v * 3 + c]) / long;
    // Σ (cot α + cot β)(xᵢ − xⱼ) / 2A is 2·H·n.
    return outwards / (4 * area[v]);
  });
}

/** Van der Corput's sequence in base 2. */
function mirrored(bits: number): number {
  let v = 0;
  for (let k = 0; k < 16; k++) v = (v << 1) | ((bits >> k) & 1);
  return v / 65536;
}

/**
 * Share of the sky that is open over vertices `[first, end)`, cosine-weighted: rays after Hammersley, turned at random from
 * vertex to vertex. Writes into `out`, so that a caller can go on with others in between.
 */
export function openSky(mesh: Mesh, bvh: Bvh, [first, end]: readonly [number, number], out: Float32Array, rays = SKY_RAYS): void {
  const { position, normal } = mesh;
  const { lo, hi } = boundsOf(mesh);
  // Rays leave from just above, or they would meet what they come from.
  const away = 1e-4 * Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]);
  const pairs = Array.from({ length: rays }, (_, k) => [(k + 0.5) / rays, mirrored(k)]);
  for (let i = first; i < end; i++) {
    const [nx, ny, nz] = [normal[i * 3], normal[i * 3 + 1], normal[i * 3 + 2]];
    // A frame without a special direction. Source: Duff et al., "Building an Orthonormal Basis, Revisited", 2017.
    const sign = nz >= 0 ? 1 : -1;
    const a = -1 / (sign + nz);
    const b = nx * ny * a;
    const [tx, ty, tz] = [1 + sign * nx * nx * a, sign * b, -sign * nx];
    const [sx, sy, sz] = [b, sign + ny * ny * a, -ny];
    const turn = unit(hash3(i, 0, 7));
    const [ox, oy, oz] = [position[i * 3] + nx * away, position[i * 3 + 1] + ny * away, position[i * 3 + 2] + nz * away];
    let open = 0;
    for (const [u, v] of pairs) {
      const r = Math.sqrt(u);
      const angle = 2 * Math.PI * (v + turn);
      const [x, y, z] = [r * Math.cos(angle), r * Math.sin(angle), Math.sqrt(1 - u)];
      if (!bvh.blocked(ox, oy, oz, tx * x + sx * y + nx * z, ty * x + sy * y + ny * z, tz * x + sz * y + nz * z)) open++;
    }
    out[i] = open / rays;
  }
}
