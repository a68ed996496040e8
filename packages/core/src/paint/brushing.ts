import type { Component } from '../coverage';
import type { Bvh } from '../mesh/bvh';
import type { Orbit } from '../mesh/camera';
import { eyeOf, rayThrough } from '../mesh/camera';
import type { MeshHit } from '../mesh/pick';
import type { Brush, StrokeAim } from './brush';
import type { VertexPainter } from './painter';

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

/** Shares of a radius between two dabs. */
const SPACING = 0.25;
/** Dabs between two reports of the pointer at most: a leap over a gap is no stroke. */
const MAX_BETWEEN = 256;

/** Into how many steps a way in metres is cut, a dab at the end of each. */
export const dabsBetween = (way: number, { radiusM }: Brush): number => Math.min(MAX_BETWEEN, Math.ceil(way / (radiusM * SPACING)));

/** A stroke along the pointer's way over the picture of a mesh. */
export class Brushing {
  private last: { point: BrushPoint; at: readonly number[] } | null = null;

  constructor(
    private readonly painter: VertexPainter,
    private readonly tree: Bvh,
    private readonly brush: Brush,
    channel: Component,
    aim: StrokeAim,
  ) {
    painter.begin(brush, channel, aim);
  }

  /** Goes on to a point. Gives how many places its dab reached; null beside the mesh. */
  to(point: BrushPoint, sight: EyeView): number | null {
    const found = placeSeen(this.tree, sight, point.x, point.y);
    if (!found) {
      this.last = null;
      return null;
    }
    const at = this.painter.at(found);
    const { last } = this;
    if (last) {
      const way = Math.hypot(at[0] - last.at[0], at[1] - last.at[1], at[2] - last.at[2]);
      const steps = dabsBetween(way, this.brush);
      for (let k = 1; k < steps; k++) {
        const along = (from: number, to: number) => from + ((to - from) * k) / steps;
        const between = placeSeen(this.tree, sight, along(last.point.x, point.x), along(last.point.y, point.y));
        if (between) this.painter.dab(between, along(last.point.pressure, point.pressure));
      }
    }
    this.last = { point, at };
    return this.painter.dab(found, point.pressure);
  }
}

/** What is seen at a place of the picture; null beside the mesh. */
export function placeSeen(tree: Bvh, { eye, aspect }: EyeView, x: number, y: number): MeshHit | null {
  const [ox, oy, oz] = eyeOf(eye);
  return tree.first([ox, oy, oz], rayThrough(eye, aspect, x, y));
}
