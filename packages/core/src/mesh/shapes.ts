// Shapes that specimens are put together from. All in metres, texture coordinates in metres too (one unit a metre), so that
// every part has the same texel density.
import type { Colouring, Mesh, Placed, Vector } from './mesh';
import { cross, grid, merged, subtract, unit } from './mesh';

/** Moves a point of a surface outward or sideways: how stone gets rough. */
export type Bend = (p: Vector) => Vector;
const still: Bend = (p) => p;

export interface BoxOptions {
  size: Vector;
  centre: Vector;
  /** Radius of the edges. */
  edge: number;
  /** Vertices along each edge of a face; at least enough for the rounding. */
  segments: number;
  bend?: Bend;
}

/** The six sides: outward direction, direction of +u, direction of +v. */
const SIDES: readonly (readonly [Vector, Vector, Vector])[] = [
  [
    [0, 0, 1],
    [1, 0, 0],
    [0, -1, 0],
  ],
  [
    [0, 0, -1],
    [-1, 0, 0],
    [0, -1, 0],
  ],
  [
    [1, 0, 0],
    [0, 0, -1],
    [0, -1, 0],
  ],
  [
    [-1, 0, 0],
    [0, 0, 1],
    [0, -1, 0],
  ],
  [
    [0, 1, 0],
    [1, 0, 0],
    [0, 0, 1],
  ],
  [
    [0, -1, 0],
    [1, 0, 0],
    [0, 0, -1],
  ],
];

/** A box with rounded edges, one chart a side. */
export function box({ size, centre, edge, segments, bend = still }: BoxOptions, colour: Colouring): Mesh {
  const half = size.map((v) => v / 2);
  const r = Math.max(1e-5, Math.min(edge, ...half));
  // Half of the vertices go to the roundings, where the form is, unless there are too few for that.
  const spread = (s: number, length: number) => {
    const x = s * 2 - 1;
    const flat = length - r;
    const share = segments < 4 || flat <= 0 ? flat / length : 0.5;
    const a = Math.abs(x);
    return Math.sign(x) * (a < share ? (a / share) * flat : flat + ((a - share) / (1 - share)) * r);
  };
  const arc = (x: number, length: number) => {
    const flat = length - r;
    const over = Math.max(0, Math.abs(x) - flat);
    return Math.sign(x) * (Math.min(Math.abs(x), flat) + r * Math.atan(over / r));
  };
  return merged(
    SIDES.map(([out, right, down], side) => {
      const reach = (d: Vector) => Math.abs(d[0] * half[0] + d[1] * half[1] + d[2] * half[2]);
      const [w, h] = [reach(right), reach(down)];
      const place = (s: number, t: number): Placed => {
        const [x, y] = [spread(s, w), spread(t, h)];
        const raw = [0, 1, 2].map((c) => right[c] * x + down[c] * y + out[c] * half[c]);
        // Rounded by keeping every point r away from the box that is smaller by r on all sides.
        const inner = raw.map((v, c) => Math.min(half[c] - r, Math.max(r - half[c], v)));
        const away = unit(subtract(raw, inner));
        const p: Vector = [0, 1, 2].map((c) => centre[c] + inner[c] + away[c] * r) as never;
        // Charts lie beside each other, so that no side repeats another's piece of the surface.
        return { p: bend(p), uv: [arc(x, w) + side * 0.37, arc(y, h)] };
      };
      return grid(segments, segments, place, colour);
    }),
  );
}

export interface LatheOptions {
  /** Points of the outline from the top down, [radius, height], joined by a smooth curve. */
  outline: readonly (readonly [number, number])[];
  around: number;
  down: number;
  bend?: Bend;
  /** Part of the turn, 0–1; whole by default. */
  from?: number;
  to?: number;
}

/** A smooth curve through points, which lie at equal steps of 0–1. Source: Catmull & Rom 1974, end points doubled. */
export function curve(points: readonly (readonly number[])[]): (t: number) => number[] {
  const at = (t: number): number[] => {
    const x = Math.min(points.length - 1 - 1e-9, Math.max(0, t * (points.length - 1)));
    const i = Math.floor(x);
    const f = x - i;
    const q = [i - 1, i, i + 1, i + 2].map((k) => points[Math.min(points.length - 1, Math.max(0, k))]);
    return q[1].map(
      (_, c) =>
        0.5 *
        (2 * q[1][c] +
          (q[2][c] - q[0][c]) * f +
          (2 * q[0][c] - 5 * q[1][c] + 4 * q[2][c] - q[3][c]) * f * f +
          (3 * q[1][c] - q[0][c] - 3 * q[2][c] + q[3][c]) * f * f * f),
    );
  };
  return at;
}

/** Lengths along a curve at equal steps of its parameter. */
function lengths(of: (t: number) => readonly number[], steps = 256): number[] {
  const out = [0];
  for (let i = 1; i <= steps; i++) {
    const [a, b] = [of((i - 1) / steps), of(i / steps)];
    out.push(out[i - 1] + Math.hypot(...a.map((v, c) => v - b[c])));
  }
  return out;
}
const sample = (table: readonly number[], t: number): number => {
  const x = Math.min(1, Math.max(0, t)) * (table.length - 1);
  const i = Math.min(table.length - 2, Math.floor(x));
  return table[i] + (table[i + 1] - table[i]) * (x - i);
};

/** An outline turned about the vertical. u runs along its widest circle, v down the outline. */
export function lathe({ outline, around, down, bend = still, from = 0, to = 1 }: LatheOptions, colour: Colouring): Mesh {
  const path = curve(outline);
  const run = lengths(path);
  const widest = Math.max(...outline.map(([r]) => r));
  return grid(
    around,
    down,
    (s, t) => {
      const [r, y] = path(t);
      const turn = (from + (to - from) * s) * 2 * Math.PI;
      return { p: bend([r * Math.sin(turn), y, r * Math.cos(turn)]), uv: [turn * widest, sample(run, t)] };
    },
    colour,
  );
}

/** A tube along a smooth path; its radius may change along it. u goes round, v along. */
export function tube(points: readonly Vector[], radius: (t: number) => number, around: number, along: number, colour: Colouring): Mesh {
  const path = curve(points);
  const run = lengths(path);
  const widest = Math.max(radius(0), radius(0.5), radius(1));
  return grid(
    around,
    along,
    (s, t) => {
      const p = path(t);
      const ahead = unit(subtract(path(Math.min(1, t + 1e-3)), path(Math.max(0, t - 1e-3))));
      // A reference that no path of ours runs along keeps the ring from twisting.
      const side = unit(cross([0.13, 0.05, 0.99], ahead));
      const up = cross(side, ahead);
      const [c, n] = [Math.cos(s * 2 * Math.PI), Math.sin(s * 2 * Math.PI)];
      const r = radius(t);
      return { p: [0, 1, 2].map((k) => p[k] + r * (c * side[k] + n * up[k])) as never, uv: [s * 2 * Math.PI * widest, sample(run, t)] };
    },
    colour,
  );
}
