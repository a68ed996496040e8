import type { Bvh } from '../mesh/bvh';
import type { Orbit } from '../mesh/camera';
import { eyeOf, rayThrough } from '../mesh/camera';
import type { Mesh, Vector } from '../mesh/mesh';
import { boundsOf } from '../mesh/mesh';
import type { MeshHit } from '../mesh/pick';
import { placeAt } from '../mesh/pick';
import type { Heightfield } from '../terrain';
import { seenOnField } from '../terrain';
import type { Brush } from './brush';

/** Where the pointer was: shares of the picture from its top-left, and the pressure of a pen (1 without one). */
export interface BrushPoint {
  x: number;
  y: number;
  pressure: number;
}
/** From where the picture is seen. */
export interface EyeView {
  eye: Orbit;
  /** Width over height. */
  aspect: number;
}

/** What a stroke over a mesh paints on: a dab at a place of it, weakened by the pressure of a pen, 0–1. Gives how many places it reached. */
export interface Dabbed {
  dab(place: MeshHit, pressure: number): number;
}

/** Shares of a radius between two dabs. */
const SPACING = 0.25;
/** Metres that are over every terrain. */
const ABOVE_M = 2e5;
/** Dabs between two reports of the pointer at most: a leap over a gap is no stroke. */
const MAX_BETWEEN = 256;

/** Into how many steps a way in metres is cut, a dab at the end of each. */
export const dabsBetween = (way: number, { radiusM }: Pick<Brush, 'radiusM'>): number => Math.min(MAX_BETWEEN, Math.ceil(way / (radiusM * SPACING)));

const between = (a: number, b: number, t: number): number => a + (b - a) * t;

/** What is seen at a place of the picture, as a place of the mesh; null beside it. */
export type PlaceSeen = (sight: EyeView, x: number, y: number) => MeshHit | null;
const meshSeen =
  (tree: Bvh): PlaceSeen =>
  (sight, x, y) =>
    placeSeen(tree, sight, x, y);
/**
 * What is seen of a terrain that is drawn finer than its mesh: the ground itself says where, and the mesh has that place over or
 * under it. @param footM altitude of the mesh's origin
 */
export const groundSeen =
  (field: Heightfield, footM: number, tree: Bvh): PlaceSeen =>
  ({ eye, aspect }, x, y) => {
    const [ox, oy, oz] = eyeOf(eye);
    const way = rayThrough(eye, aspect, x, y);
    const at = seenOnField(field, footM, [ox, oy, oz], way);
    const place = at && tree.first([at[0], ABOVE_M, at[2]], [0, -1, 0]);
    return place && { ...place, away: Math.hypot(at[0] - ox, at[1] - oy, at[2] - oz) / Math.hypot(...way) };
  };

/** A stroke over a mesh, along the pointer's way over its picture or along places in metres. */
export class Brushing {
  private last: { at: Vector; pressure: number; point: BrushPoint | null } | null = null;
  private readonly middle: Vector;

  constructor(
    private readonly painter: Dabbed,
    private readonly mesh: Pick<Mesh, 'position' | 'index'>,
    private readonly tree: Bvh,
    private readonly brush: Pick<Brush, 'radiusM' | 'mirror'>,
    private readonly seen: PlaceSeen = meshSeen(tree),
  ) {
    const { lo, hi } = boundsOf(mesh);
    this.middle = [(lo[0] + hi[0]) / 2, (lo[1] + hi[1]) / 2, (lo[2] + hi[2]) / 2];
  }

  /** Goes on to a point of the picture. Gives how many places its dab reached; null beside the mesh. */
  to(point: BrushPoint, sight: EyeView): number | null {
    return this.goOn(this.seen(sight, point.x, point.y), point.pressure, point, ({ point: last }, t) =>
      last ? this.seen(sight, between(last.x, point.x, t), between(last.y, point.y, t)) : null,
    );
  }

  /** Goes on to the place of the mesh that is nearest to one in space; null where none is within the radius. */
  toPlace(at: Vector, pressure: number): number | null {
    const near = (p: Vector) => this.tree.nearest(p, this.brush.radiusM);
    return this.goOn(near(at), pressure, null, (last, t) =>
      near([between(last.at[0], at[0], t), between(last.at[1], at[1], t), between(last.at[2], at[2], t)]),
    );
  }

  private goOn(
    found: MeshHit | null,
    pressure: number,
    point: BrushPoint | null,
    along: (last: { at: Vector; point: BrushPoint | null }, t: number) => MeshHit | null,
  ): number | null {
    if (!found) {
      this.last = null;
      return null;
    }
    const { last } = this;
    const at = placeAt(this.mesh, found);
    if (last) {
      const way = Math.hypot(at[0] - last.at[0], at[1] - last.at[1], at[2] - last.at[2]);
      const steps = dabsBetween(way, this.brush);
      for (let k = 1; k < steps; k++) {
        const place = along(last, k / steps);
        if (place) this.dab(place, between(last.pressure, pressure, k / steps));
      }
    }
    this.last = { at, pressure, point };
    return this.dab(found, pressure);
  }

  /** A dab, and its image where the brush has one and the mesh is there too. */
  private dab(place: MeshHit, pressure: number): number {
    const reached = this.painter.dab(place, pressure);
    const { mirror, radiusM } = this.brush;
    if (mirror === null) return reached;
    const at = [...placeAt(this.mesh, place)] as [number, number, number];
    const axis = mirror === 'x' ? 0 : 2;
    at[axis] = 2 * this.middle[axis] - at[axis];
    const across = this.tree.nearest(at, radiusM);
    return across ? reached + this.painter.dab(across, pressure) : reached;
  }
}

/** What is seen at a place of the picture; null beside the mesh. */
export function placeSeen(tree: Bvh, { eye, aspect }: EyeView, x: number, y: number): MeshHit | null {
  const [ox, oy, oz] = eyeOf(eye);
  return tree.first([ox, oy, oz], rayThrough(eye, aspect, x, y));
}
