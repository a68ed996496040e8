import { MESH_INPUTS, flatPlane, inputWidth, settle } from '../geometry';
import type { Span } from './asset';
import type { MeshBuffer } from './gbuffer';
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** Places of a mesh that are seen, sorted into groups of much the same footprint. */
export interface Seen {
  /** Pixel of each place, counted by rows from the top. */
  pixels: Uint32Array;
  /** What the mesh carries there. */
  geometry: MeshBuffer['geometry'];
  /** Places `[first, end)` and, as a mean, how far the texture coordinate moves from one pixel to the next. */
  groups: { first: number; end: number; footprint: number }[];
  /** What another attribute of the mesh, of so many numbers a vertex, is at each place. */
  along(attribute: Float32Array, wide: number): Float32Array;
}

export interface SeenOptions {
  /** Triangles that are looked at, all of them by default; in indices. */
  spans?: readonly Span[];
  /** Whether triangles that turn their back are left out. */
  culled: boolean;
}

/** Corners are rounded to parts of a pixel before they are filled. */
const ROUNDING = 1 / 128;
/** Indices of a piece. */
const PIECE = 3 * 4096;
/** Groups a doubling of the footprint. */
const GROUPS = 2;

/**
 * What a camera sees of a mesh: the nearest place at every pixel's centre, interpolated in perspective as a graphics card
 * does. Triangles that reach behind the eye are left out.
 * @param place where vertices are drawn, three numbers each
 * @param clip column-major 4 × 4 from there to clip space
 */
export function seenThrough(...of: Parameters<typeof looking>): Seen {
  const steps = looking(...of);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same in pieces of a few thousand triangles, for those who must let others in between. */
export function* looking(
  mesh: Mesh,
  place: Float32Array,
  clip: ArrayLike<number>,
  { width, height }: { width: number; height: number },
  { spans = [[0, mesh.index.length]], culled }: SeenOptions,
): Generator<undefined, Seen> {
  const { index } = mesh;
  const screen = onScreen(place, clip, width, height);
  const nearest = new Float32Array(width * height).fill(Infinity);
  const triangle = new Int32Array(width * height).fill(-1);
  const shares = new Float32Array(width * height * 3);
  const window = { x0: 0, y0: 0, x1: width, y1: height };
  for (const [start, count] of spans)
    for (let k = start; k + 2 < start + count; k += 3) {
      if ((k - start) % PIECE === 0) yield;
      const [i, j, l] = [index[k] * 4, index[k + 1] * 4, index[k + 2] * 4];
      const [x0, y0, x1, y1, x2, y2] = [screen[i], screen[i + 1], screen[j], screen[j + 1], screen[l], screen[l + 1]];
      // Seen from outside, corners go round against the clock: the area is negative where y points down.
      if (culled && (x1 - x0) * (y2 - y0) - (y1 - y0) * (x2 - x0) >= 0) continue;
      // Most triangles are small, and lie between the centres of pixels.
      if (between(x0, x1, x2) || between(y0, y1, y2)) continue;
      fillTriangle([x0, y0, x1, y1, x2, y2], window, (x, y, a, b, c) => {
        const at = y * width + x;
        const depth = a * screen[i + 2] + b * screen[j + 2] + c * screen[l + 2];
        if (depth >= nearest[at] || depth < -1 || depth > 1) return;
        nearest[at] = depth;
        triangle[at] = k;
        const [qa, qb, qc] = [a * screen[i + 3], b * screen[j + 3], c * screen[l + 3]];
        const whole = qa + qb + qc;
        shares[at * 3] = qa / whole;
        shares[at * 3 + 1] = qb / whole;
        shares[at * 3 + 2] = qc / whole;
      });
    }
  return gathered(mesh, screen, triangle, shares, width);
}

/** Whether no centre of a pixel lies between the least and the largest of three coordinates, with room for rounding. */
const between = (a: number, b: number, c: number): boolean =>
  Math.floor(Math.max(a, b, c) - 0.5 + ROUNDING) < Math.ceil(Math.min(a, b, c) - 0.5 - ROUNDING);

/** x and y in pixels, depth, and one over w, of every vertex; NaN where it lies behind the eye. */
function onScreen(place: Float32Array, m: ArrayLike<number>, width: number, height: number): Float32Array {
  const count = place.length / 3;
  const screen = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [place[i * 3], place[i * 3 + 1], place[i * 3 + 2]];
    const w = m[3] * x + m[7] * y + m[11] * z + m[15];
    screen[i * 4] = w > 0 ? (((m[0] * x + m[4] * y + m[8] * z + m[12]) / w) * 0.5 + 0.5) * width : Number.NaN;
    screen[i * 4 + 1] = (0.5 - ((m[1] * x + m[5] * y + m[9] * z + m[13]) / w) * 0.5) * height;
    screen[i * 4 + 2] = (m[2] * x + m[6] * y + m[10] * z + m[14]) / w;
    screen[i * 4 + 3] = 1 / w;
  }
  return screen;
}

function gathered(mesh: Mesh, screen: Float32Array, triangle: Int32Array, shares: Float32Array, width: number): Seen {
  const found: number[] = [];
  const keys: number[] = [];
  for (let at = 0; at < triangle.length; at++)
    if (triangle[at] >= 0) {
      found.push(at);
      keys.push(Math.round(GROUPS * Math.log2(Math.max(1e-9, footprintAt(mesh, screen, triangle[at], at % width, Math.floor(at / width))))));
    }
  const order = found.map((_, i) => i).sort((a, b) => keys[a] - keys[b]);
  const pixels = Uint32Array.from(order, (i) => found[i]);
  const groups: Seen['groups'] = [];
  order.forEach((i, n) => {
    if (n === 0 || keys[i] !== keys[order[n - 1]]) groups.push({ first: n, end: n, footprint: 2 ** (keys[i] / GROUPS) });
    groups[groups.length - 1].end = n + 1;
  });
  const along = (attribute: Float32Array, wide: number): Float32Array => {
    const out = new Float32Array(pixels.length * wide);
    for (let n = 0; n < pixels.length; n++) {
      const at = pixels[n];
      for (let k = 0; k < wide; k++) {
        let sum = 0;
        for (let c = 0; c < 3; c++) sum += shares[at * 3 + c] * attribute[mesh.index[triangle[at] + c] * wide + k];
        out[n * wide + k] = sum;
      }
    }
    return out;
  };
  const geometry = {} as Seen['geometry'];
  geometry.texcoord = along(mesh.texcoord, 2);
  for (const name of MESH_INPUTS) {
    const from = mesh[name];
    geometry[name] = from ? settle(name, along(from, inputWidth(name))) : flatPlane(name, geometry.texcoord);
  }
  return { pixels, geometry, groups, along };
}

/** How far the texture coordinate moves from a pixel to the next one right or down, whichever is more. */
function footprintAt({ index, texcoord }: Mesh, screen: Float32Array, first: number, x: number, y: number): number {
  const [i, j, l] = [index[first], index[first + 1], index[first + 2]];
  const [x0, y0] = [screen[i * 4], screen[i * 4 + 1]];
  const [x1, y1, x2, y2] = [screen[j * 4] - x0, screen[j * 4 + 1] - y0, screen[l * 4] - x0, screen[l * 4 + 1] - y0];
  const area = x1 * y2 - x2 * y1;
  // Over w everything is linear on the screen: its value at the pixel, and what a pixel right and down adds.
  const plane = (of: (vertex: number) => number): [number, number, number] => {
    const [a, b, c] = [of(i), of(j) - of(i), of(l) - of(i)];
    const [right, down] = [(b * y2 - c * y1) / area, (c * x1 - b * x2) / area];
    return [a + right * (x + 0.5 - x0) + down * (y + 0.5 - y0), right, down];
  };
  const [q, qRight, qDown] = plane((v) => screen[v * 4 + 3]);
  const moved = [0, 1].map((c) => {
    const [value, right, down] = plane((v) => screen[v * 4 + 3] * texcoord[v * 2 + c]);
    return [(right - (value / q) * qRight) / q, (down - (value / q) * qDown) / q];
  });
  return Math.max(Math.hypot(moved[0][0], moved[1][0]), Math.hypot(moved[0][1], moved[1][1]));
}
