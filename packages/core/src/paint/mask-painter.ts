import { fractalNoise } from '../noise';
import type { Brush, StrokeAim } from './brush';
import { dabsBetween } from './brushing';
import type { MaskDepth } from './mask-sheet';
import { MaskSheet } from './mask-sheet';
import { Stroke } from './stroke';

/** Share of the radius over which smoothing looks around. */
const AROUND = 0.25;
const NOISE_OCTAVES = 2;

/** Where the pointer was on the flat, in extents, and the pressure of a pen (1 without one). */
export interface MaskPoint {
  u: number;
  v: number;
  pressure: number;
}

const wrap = (i: number, period: number): number => ((i % period) + period) % period;

/**
 * Paints a mask over the extent of a blend. The extent repeats, and so do dabs: what leaves it on one side comes in on the
 * other.
 */
export class MaskPainter {
  readonly sheet: MaskSheet;
  /** While smoothing, what lies around every pixel. */
  private around: Float32Array | null = null;
  private extentM = 1;
  private last: MaskPoint | null = null;

  /** @param data values a pixel as they are stored @throws RangeError when there are not as many as pixels */
  constructor(
    readonly width: number,
    readonly height: number,
    data: ArrayLike<number>,
    depth: MaskDepth = 8,
  ) {
    this.sheet = new MaskSheet(width, height, depth, data);
  }

  /** @param extentM what the mask lies over, in metres @param limit share of every pixel that may be painted, row by row */
  begin(brush: Brush, aim: StrokeAim, extentM: number, limit: Float32Array | null = null): void {
    this.cancel();
    const { width, height, sheet } = this;
    const cells = Math.max(1, Math.round(extentM / brush.broken.atM));
    const noise = (i: number) =>
      fractalNoise((((i % width) + 0.5) / width) * cells, ((Math.floor(i / width) + 0.5) / height) * cells, cells, brush.broken.seed, NOISE_OCTAVES);
    this.extentM = extentM;
    this.last = null;
    sheet.stroke = new Stroke(brush, aim, { noise, ...(limit ? { limit: (i) => limit[i] } : {}) });
    const reach = (side: number) => Math.max(1, Math.round((brush.radiusM * AROUND * side) / extentM));
    this.around = aim === 'smooth' ? boxed(sheet.before, sheet.full, width, height, reach(width), reach(height)) : null;
  }

  /** Goes on to a point, with dabs between it and the last one. Gives how many pixels were reached. */
  to(point: MaskPoint): number {
    const {
      last,
      extentM,
      sheet: { stroke },
    } = this;
    if (!stroke) return 0;
    let reached = 0;
    if (last) {
      const way = Math.hypot(point.u - last.u, point.v - last.v) * extentM;
      const steps = dabsBetween(way, stroke.brush);
      const along = (from: number, to: number, k: number) => from + ((to - from) * k) / steps;
      for (let k = 1; k < steps; k++)
        reached += this.dabs(along(last.u, point.u, k), along(last.v, point.v, k), along(last.pressure, point.pressure, k), stroke.brush);
    }
    this.last = point;
    return reached + this.dabs(point.u, point.v, point.pressure, stroke.brush);
  }

  /** A dab, and its image where the brush has one. */
  private dabs(u: number, v: number, pressure: number, { mirror, radiusM }: Brush): number {
    const reached = this.dab(u, v, pressure, radiusM);
    if (mirror === null) return reached;
    return reached + this.dab(mirror === 'x' ? 1 - u : u, mirror === 'z' ? 1 - v : v, pressure, radiusM);
  }
  private dab(u: number, v: number, pressure: number, radiusM: number): number {
    const { sheet, width, height, extentM } = this;
    const [alongX, alongY] = [extentM / width, extentM / height];
    const [x, y] = [u * width - 0.5, v * height - 0.5];
    // Of all repetitions of a pixel the nearest one counts.
    const span = (at: number, metres: number, side: number): [number, number] => {
      const half = Math.min(radiusM / metres, side / 2);
      return [Math.ceil(at - half), Math.min(Math.floor(at + half), Math.ceil(at - half) + side - 1)];
    };
    const [top, bottom] = span(y, alongY, height);
    const [left, right] = span(x, alongX, width);
    let reached = 0;
    for (let j = top; j <= bottom; j++) {
      const dy = (j - y) * alongY;
      const row = wrap(j, height) * width;
      for (let i = left; i <= right; i++) {
        const dx = (i - x) * alongX;
        const away = Math.sqrt(dx * dx + dy * dy);
        if (away >= radiusM) continue;
        reached++;
        const at = row + wrap(i, width);
        sheet.reach(at, away, pressure, () => this.around?.[at] ?? 0);
      }
    }
    return reached;
  }

  /** Ends the stroke: what it did stays. */
  end = (): void => this.sheet.end();
  /** Gives the stroke up: everything is as before it. */
  cancel = (): void => this.sheet.cancel();
  /** As it is shown now, as it is stored. */
  bytes = (): MaskSheet['now'] => this.sheet.now.slice();
}

/** Means over boxes of 2·reach + 1 pixels a side, over the edges to the other side, 0–1. */
function boxed(stored: ArrayLike<number>, full: number, width: number, height: number, reachX: number, reachY: number): Float32Array {
  const values = Float32Array.from(stored, (v) => v / full);
  const across = new Float32Array(values.length);
  const out = new Float32Array(values.length);
  const pass = (from: Float32Array, into: Float32Array, lines: number, length: number, step: number, between: number, reach: number) => {
    const most = Math.min(reach, (length - 1) >> 1);
    for (let line = 0; line < lines; line++) {
      const at = (k: number) => line * between + wrap(k, length) * step;
      let sum = 0;
      for (let k = -most; k <= most; k++) sum += from[at(k)];
      for (let k = 0; k < length; k++) {
        into[at(k)] = sum / (2 * most + 1);
        sum += from[at(k + most + 1)] - from[at(k - most)];
      }
    }
  };
  pass(values, across, height, width, 1, width, reachX);
  pass(across, out, width, height, width, 1, reachY);
  return out;
}
