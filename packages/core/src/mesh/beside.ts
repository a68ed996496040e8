// What stands beside a specimen, or floats over it, to try things out: a figure for scale, cards of particles.
import { makeRandom } from '../noise';
import { eyeOf } from './camera';
import type { Orbit } from './camera';
import type { Colouring, Mesh, Vector } from './mesh';
import { cross, merged, subtract, unit } from './mesh';
import { lathe, tube } from './shapes';

interface Box {
  lo: readonly number[];
  hi: readonly number[];
}

/** Height of the figure in metres. */
export const FIGURE_M = 1.75;
const plain: Colouring = (_, __, ___, out, at) => out.fill(1, at, at + 4);
/** The figure's outlines, from the top down: head, and body from the neck to the hips. Radius and height in metres. */
const HEAD: readonly (readonly [number, number])[] = [
  [0.001, 1.75],
  [0.062, 1.735],
  [0.088, 1.66],
  [0.08, 1.585],
  [0.05, 1.53],
  [0.048, 1.5],
];
const BODY: readonly (readonly [number, number])[] = [
  [0.05, 1.52],
  [0.11, 1.46],
  [0.17, 1.4],
  [0.165, 1.25],
  [0.135, 1.08],
  [0.165, 0.92],
  [0.12, 0.82],
  [0.001, 0.8],
];

/** Somebody of 1.75 m who stands at the origin: for scale, not for looks. */
export function figure(): Mesh {
  const limb = (points: Vector[], from: number, to: number) => tube(points, (t) => from + (to - from) * t, 12, 16, plain);
  const both = (make: (side: 1 | -1) => Mesh) => [make(1), make(-1)];
  return merged([
    lathe({ outline: HEAD, around: 20, down: 16 }, plain),
    lathe({ outline: BODY, around: 24, down: 24, bend: ([x, y, z]) => [x, y, z * 0.66] }, plain),
    ...both((side) =>
      limb(
        [
          [side * 0.17, 1.41, 0],
          [side * 0.23, 1.16, 0],
          [side * 0.25, 0.93, 0.05],
          [side * 0.25, 0.78, 0.08],
        ],
        0.048,
        0.03,
      ),
    ),
    ...both((side) =>
      limb(
        [
          [side * 0.09, 0.9, 0],
          [side * 0.1, 0.5, 0.01],
          [side * 0.1, 0.08, -0.01],
          [side * 0.11, 0.03, 0.16],
        ],
        0.085,
        0.04,
      ),
    ),
  ]);
}

/** Where the figure stands: to the right of a box, clear of it, on its ground. */
export const besideBox = ({ lo, hi }: Box): Vector => [hi[0] + 0.45, lo[1], (lo[2] + hi[2]) / 2];

/** The same box with the figure beside it. */
export function withFigure(box: Box): Box {
  const [x, y, z] = besideBox(box);
  return {
    lo: [box.lo[0], box.lo[1], Math.min(box.lo[2], z - 0.3)],
    hi: [x + 0.35, Math.max(box.hi[1], y + FIGURE_M), Math.max(box.hi[2], z + 0.3)],
  };
}

/** A mesh moved by metres. */
export const movedBy = (mesh: Mesh, by: Vector): Mesh => ({ ...mesh, position: mesh.position.map((v, i) => v + by[i % 3]) });

/** Cards of a plume of particles, and the share of the box's longer side that each is wide, small ones first. */
const PLUME = { cards: 24, least: 0.12, most: 0.34, rise: 0.45 };

/** The same box with the plume over it. */
export function withPlume({ lo, hi }: Box): Box {
  const side = Math.max(...hi.map((v, c) => v - lo[c]));
  return { lo, hi: [hi[0], hi[1] + side * (PLUME.rise + PLUME.most * 1.01), hi[2]] };
}

/**
 * A plume of cards that rises from the top of a box, each turned towards the eye: the farthest first, so that what shows what is
 * behind it is drawn in order. The same box and eye give the same cards.
 */
export function plume({ lo, hi }: Box, orbit: Orbit): Mesh {
  const eye = [...eyeOf(orbit)];
  const side = Math.max(...hi.map((v, c) => v - lo[c]));
  const random = makeRandom(7);
  const cards = Array.from({ length: PLUME.cards }, (_, i) => {
    const t = i / (PLUME.cards - 1);
    const half = (side * (PLUME.least + (PLUME.most - PLUME.least) * t)) / 2;
    const spread = side * 0.18 * (0.3 + t);
    const centre = [
      (lo[0] + hi[0]) / 2 + (random() - 0.5) * spread,
      hi[1] + half * 0.6 + t * side * PLUME.rise,
      (lo[2] + hi[2]) / 2 + (random() - 0.5) * spread,
    ];
    const turn = random() * 2 * Math.PI;
    const toEye = subtract(eye, centre);
    return { centre, half, turn, n: unit(toEye), away: Math.hypot(...toEye) };
  }).sort((a, b) => b.away - a.away);
  const count = cards.length;
  const mesh: Mesh = {
    position: new Float32Array(count * 12),
    normal: new Float32Array(count * 12),
    tangent: new Float32Array(count * 16),
    texcoord: new Float32Array(count * 8),
    geomcolor: new Float32Array(count * 16).fill(1),
    index: new Uint32Array(count * 6),
  };
  cards.forEach(({ centre, half, turn, n }, i) => {
    const across = unit(cross([0, 1, 0], n));
    const up = cross(n, across);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const along = [0, 1, 2].map((k) => across[k] * c + up[k] * s);
    const rise = [0, 1, 2].map((k) => up[k] * c - across[k] * s);
    for (let k = 0; k < 4; k++) {
      const [u, v] = [k % 2, k >> 1];
      const at = i * 4 + k;
      mesh.position.set(
        centre.map((p, j) => p + half * ((2 * u - 1) * along[j] + (2 * v - 1) * rise[j])),
        at * 3,
      );
      mesh.normal.set(n, at * 3);
      mesh.tangent.set([...along, 1], at * 4);
      mesh.texcoord.set([u, 1 - v], at * 2);
    }
    const first = i * 4;
    mesh.index.set([first, first + 1, first + 2, first + 2, first + 1, first + 3], i * 6);
  });
  return mesh;
}
