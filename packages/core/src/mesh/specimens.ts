import type { SpecimenName } from '../document';
import { fractalNoise } from '../noise';

/** Flat arrays, one entry a vertex; triangles wind counter-clockwise seen from outside (glTF 2.0). */
export interface Mesh {
  position: Float32Array;
  normal: Float32Array;
  /** xyz along +u, w the sign of the bitangent (glTF 2.0). */
  tangent: Float32Array;
  /** One unit a repetition of the blend's extent. */
  texcoord: Float32Array;
  geomcolor: Float32Array;
  index: Uint32Array;
}

const smooth = (lo: number, hi: number, x: number) => {
  const t = Math.min(1, Math.max(0, (x - lo) / (hi - lo)));
  return t * t * (3 - 2 * t);
};

/**
 * Vertex colours that the specimens carry, as a function of the texture coordinate (periodic): red in broad patches,
 * green along a winding band, blue in small islands, alpha 1. Writes rgba at `out[at…]`.
 */
export function specimenColour(u: number, v: number, out: Float32Array, at: number): void {
  const uu = u - Math.floor(u);
  const vv = v - Math.floor(v);
  out[at] = smooth(0.42, 0.62, fractalNoise(uu * 3, vv * 3, 3, 71, 3));
  const bend = 0.5 + 0.16 * Math.sin(uu * 2 * Math.PI) + 0.1 * (fractalNoise(uu * 4, vv * 4, 4, 83, 2) - 0.5);
  const away = Math.abs(vv - bend);
  out[at + 1] = 1 - smooth(0.1, 0.26, Math.min(away, 1 - away));
  out[at + 2] = smooth(0.5, 0.66, fractalNoise(uu * 6, vv * 6, 6, 97, 3));
  out[at + 3] = 1;
}

/** Builds a grid of (columns + 1) × (rows + 1) vertices from a function that gives position and texture coordinate. */
function grid(
  columns: number,
  rows: number,
  place: (s: number, t: number) => { p: readonly [number, number, number]; uv: readonly [number, number] },
): Mesh {
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
      mesh.position.set(p, i * 3);
      mesh.texcoord.set(uv, i * 2);
      mesh.normal.set(n, i * 3);
      // v runs down and n × t points up (Y+ normals): the sign is −1 × −1.
      mesh.tangent.set([...unit(ds), 1], i * 4);
      specimenColour(uv[0], uv[1], mesh.geomcolor, i * 4);
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

const subtract = (a: readonly number[], b: readonly number[]) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: readonly number[], b: readonly number[]) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (a: readonly number[]) => {
  const l = Math.hypot(a[0], a[1], a[2]) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** One extent of gently rolling ground, u along +X and v along +Z, at most 12 % of the extent high. */
export function makePatch(extentM: number, segments = 96): Mesh {
  const rise = (s: number, t: number) =>
    extentM * (0.045 * Math.sin(2 * Math.PI * s + 0.6) * Math.cos(2 * Math.PI * t) + 0.025 * Math.sin(4 * Math.PI * t + 1));
  return grid(segments, segments, (s, t) => ({ p: [(s - 0.5) * extentM, rise(s, t), (t - 0.5) * extentM], uv: [s, t] }));
}

/** A sphere as wide as 0.6 of the extent; texels keep about their true size, and u closes after whole repetitions. */
export function makeSphere(extentM: number, segments = 96): Mesh {
  const r = 0.3 * extentM;
  const across = Math.max(1, Math.round((2 * Math.PI * r) / extentM));
  const down = (Math.PI * r) / extentM;
  // Stopping short of the poles keeps tangents defined; the gap is a fraction of a millimetre.
  const pole = 2e-3;
  return grid(segments, segments / 2, (s, t) => {
    const theta = pole + (Math.PI - 2 * pole) * t;
    const phi = 2 * Math.PI * s;
    return { p: [-r * Math.sin(theta) * Math.cos(phi), r * Math.cos(theta), r * Math.sin(theta) * Math.sin(phi)], uv: [s * across, t * down] };
  });
}

/** A flat slab of one extent, 6 % of it thick, with rounded rims; texture coordinates run on over the edges. */
export function makeSlab(extentM: number, segments = 64): Mesh {
  const half = 0.5 * extentM;
  const rim = 0.03 * extentM;
  const reach = half + rim * 2;
  // Away from the middle, along the larger axis: flat, then a quarter circle, then straight down.
  const fold = (d: number) => {
    const flat = half - rim;
    if (d <= flat) return { scale: 1, drop: 0 };
    const turn = Math.min(Math.PI / 2, (d - flat) / rim);
    const rest = Math.max(0, d - flat - (Math.PI / 2) * rim);
    return { scale: (flat + rim * Math.sin(turn)) / d, drop: rim * (1 - Math.cos(turn)) + rest };
  };
  return grid(segments, segments, (s, t) => {
    const x = (s * 2 - 1) * reach;
    const z = (t * 2 - 1) * reach;
    const { scale, drop } = fold(Math.max(Math.abs(x), Math.abs(z)));
    return { p: [x * scale, -drop, z * scale], uv: [x / extentM + 0.5, z / extentM + 0.5] };
  });
}

export const makeSpecimen = (name: SpecimenName, extentM: number): Mesh =>
  name === 'sphere' ? makeSphere(extentM) : name === 'slab' ? makeSlab(extentM) : makePatch(extentM);

/** Ground for the flat view: `reach` extents to every side of the first, positions (u, 0, v), vertex colours as on the patch. */
export function makeFlat(reach = 1, perExtent = 48): Mesh {
  const n = (2 * reach + 1) * perExtent;
  const along = (s: number) => -reach + s * (2 * reach + 1);
  return grid(n, n, (s, t) => ({ p: [along(s), 0, along(t)], uv: [along(s), along(t)] }));
}
