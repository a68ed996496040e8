// Places and straight lines of texture space, found again on the mesh that wears it.
import type { Bvh } from './bvh';
import type { Mesh, Vector } from './mesh';
import { subtract } from './mesh';

type Worn = Pick<Mesh, 'position' | 'texcoord' | 'index'>;

/** A line of texture space as it lies on a mesh, in pieces of one triangle each. */
export interface Trace {
  /** Ends of every piece, six numbers, metres. */
  ends: Float32Array;
  /** Where on the line the two ends are, 0–1, in the order of the line. */
  along: Float32Array;
  triangles: Uint32Array;
}

interface Piece {
  from: number;
  to: number;
  t: number;
  ends: number[];
}

/** Pieces are no longer than this share of the line: whether one is seen is told by its middle. */
const LONGEST = 1 / 96;
/** Share of the distance to the eye by which what lies before a place must be nearer. */
const NEARER = 2e-3;

/** Where a place of texture space lies in a triangle: shares of its corners; null where it has no area there. */
function sharesAt({ texcoord, index }: Worn, t: number, u: number, v: number): [number, number, number] | null {
  const [a, b, c] = [index[t] * 2, index[t + 1] * 2, index[t + 2] * 2];
  const [bu, bv] = [texcoord[b] - texcoord[a], texcoord[b + 1] - texcoord[a + 1]];
  const [cu, cv] = [texcoord[c] - texcoord[a], texcoord[c + 1] - texcoord[a + 1]];
  const twice = bu * cv - cu * bv;
  if (!twice) return null;
  const [x, y] = [u - texcoord[a], v - texcoord[a + 1]];
  const [p, q] = [(x * cv - y * cu) / twice, (y * bu - x * bv) / twice];
  return [1 - p - q, p, q];
}

function placed({ position, index }: Worn, t: number, shares: readonly number[]): [number, number, number] {
  return [0, 1, 2].map((c) => shares.reduce((sum, s, k) => sum + s * position[index[t + k] * 3 + c], 0)) as [number, number, number];
}

/** Whether a triangle's box in texture space lies wholly beside another box. */
function beside({ texcoord, index }: Worn, t: number, lo: readonly number[], hi: readonly number[]): boolean {
  for (let c = 0; c < 2; c++) {
    const [x, y, z] = [texcoord[index[t] * 2 + c], texcoord[index[t + 1] * 2 + c], texcoord[index[t + 2] * 2 + c]];
    if ((x < lo[c] && y < lo[c] && z < lo[c]) || (x > hi[c] && y > hi[c] && z > hi[c])) return true;
  }
  return false;
}

/** Whole repetitions by which a place is looked for where the mesh does not lie on it: where it is first, then around it. */
const REPETITIONS: readonly (readonly [number, number])[] = [-1, 0, 1]
  .flatMap((v) => [-1, 0, 1].map((u) => [u, v] as const))
  .sort(([a, b], [c, d]) => Math.abs(a) + Math.abs(b) - Math.abs(c) - Math.abs(d));

/** Pieces of a line where it lies on a mesh without being moved. Where triangles lie on each other, all are given. */
function piecesOf(mesh: Worn, a: readonly [number, number], b: readonly [number, number]): Piece[] {
  const [lo, hi] = [
    [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
    [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
  ];
  const found: Piece[] = [];
  for (let t = 0; t < mesh.index.length; t += 3) {
    if (beside(mesh, t, lo, hi)) continue;
    const [begin, end] = [sharesAt(mesh, t, a[0], a[1]), sharesAt(mesh, t, b[0], b[1])];
    if (!begin || !end) continue;
    // Shares go linearly along the line: it is inside where none of them is negative.
    let [from, to] = [0, 1];
    for (let k = 0; k < 3; k++) {
      const by = end[k] - begin[k];
      if (by > 0) from = Math.max(from, -begin[k] / by);
      else if (by < 0) to = Math.min(to, -begin[k] / by);
      else if (begin[k] < 0) to = -1;
    }
    if (to - from <= 1e-9) continue;
    const steps = Math.ceil((to - from) / LONGEST);
    const at = (i: number) => {
      const s = from + ((to - from) * i) / steps;
      return {
        s,
        place: placed(
          mesh,
          t,
          begin.map((v, k) => v + (end[k] - v) * s),
        ),
      };
    };
    for (let i = 0; i < steps; i++) {
      const [p, q] = [at(i), at(i + 1)];
      found.push({ from: p.s, to: q.s, t: t / 3, ends: [...p.place, ...q.place] });
    }
  }
  return found;
}

/**
 * Where a straight line of texture space lies on a mesh: where the mesh has its coordinates, else after the fewest whole
 * repetitions, at most one each way. Parts of it that are nowhere are left out.
 * @param a and `b` its ends in texture coordinates
 */
export function traceLine(mesh: Worn, a: readonly [number, number], b: readonly [number, number]): Trace {
  const found: Piece[] = [];
  const covered = new Uint8Array(2 / LONGEST);
  const slot = ({ from, to }: Piece) => Math.min(covered.length - 1, Math.floor(((from + to) / 2) * covered.length));
  for (const [du, dv] of REPETITIONS) {
    if (covered.every((c) => c)) break;
    const more = piecesOf(mesh, [a[0] + du, a[1] + dv], [b[0] + du, b[1] + dv]).filter((p) => !covered[slot(p)]);
    for (const { from, to } of more) covered.fill(1, Math.floor(from * covered.length), Math.ceil(to * covered.length));
    found.push(...more);
  }
  found.sort((p, q) => p.from - q.from);
  return {
    ends: Float32Array.from(found.flatMap((p) => p.ends)),
    along: Float32Array.from(found.flatMap((p) => [p.from, p.to])),
    triangles: Uint32Array.from(found, (p) => p.t),
  };
}

/** The first triangle on which a place of texture space lies, repeated as lines are, and the place in metres; null where none does. */
export function wornAt(mesh: Worn, u: number, v: number): { triangle: number; place: [number, number, number] } | null {
  for (const [du, dv] of REPETITIONS) {
    const at = [u + du, v + dv] as const;
    for (let t = 0; t < mesh.index.length; t += 3) {
      if (beside(mesh, t, at, at)) continue;
      const shares = sharesAt(mesh, t, ...at);
      if (shares?.every((s) => s >= -1e-7)) return { triangle: t / 3, place: placed(mesh, t, shares) };
    }
  }
  return null;
}

/**
 * Whether a place on a triangle is seen from an eye: the triangle faces it, and nothing lies between.
 * @param tree of all that may lie between; without it only the side that it shows is looked at
 */
export function seenFrom(
  { position, index }: Pick<Mesh, 'position' | 'index'>,
  triangle: number,
  place: Vector,
  eye: Vector,
  tree: Bvh | null,
): boolean {
  const corner = (k: number) => Array.from(position.subarray(index[triangle * 3 + k] * 3, index[triangle * 3 + k] * 3 + 3));
  const [p, q, r] = [corner(0), corner(1), corner(2)];
  const [e, f, to] = [subtract(q, p), subtract(r, p), subtract(eye, place)];
  const facing = (e[1] * f[2] - e[2] * f[1]) * to[0] + (e[2] * f[0] - e[0] * f[2]) * to[1] + (e[0] * f[1] - e[1] * f[0]) * to[2];
  if (facing <= 0) return false;
  const met = tree?.first(eye, subtract(place, eye));
  return !met || met.away > 1 - NEARER;
}
