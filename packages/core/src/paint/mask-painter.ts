import { fractalNoise } from '../noise';
import type { Brush, StrokeAim } from './brush';
import { dabsBetween } from './brushing';
import { Stroke } from './stroke';
import { toBytes } from './tiles';

/** Pixels a side of a mask that is begun here, and of the largest that is painted on. */
export const MASK_SIDE = 1024;
export const MAX_MASK_SIDE = 2048;
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
 * other. Values are kept to bytes when a stroke ends.
 */
export class MaskPainter {
  /** 0–1, row by row from the top, as they are shown now. */
  private readonly values: Float32Array;
  private before: Float32Array;
  private stroke: (Stroke & { around?: Float32Array }) | null = null;
  private extentM = 1;
  private last: MaskPoint | null = null;

  /** @param bytes 0–255 a pixel @throws RangeError when there are not as many as pixels */
  constructor(
    readonly width: number,
    readonly height: number,
    bytes: ArrayLike<number>,
  ) {
    if (bytes.length !== width * height) throw new RangeError(`A mask of ${width} × ${height} pixels holds ${bytes.length} bytes`);
    this.values = new Float32Array(bytes.length);
    this.before = this.values;
    this.take(bytes);
  }

  /** @param extentM what the mask lies over, in metres */
  begin(brush: Brush, aim: StrokeAim, extentM: number): void {
    this.cancel();
    const { width, height } = this;
    const cells = Math.max(1, Math.round(extentM / brush.broken.atM));
    const noise = (i: number) =>
      fractalNoise((((i % width) + 0.5) / width) * cells, ((Math.floor(i / width) + 0.5) / height) * cells, cells, brush.broken.seed, NOISE_OCTAVES);
    this.extentM = extentM;
    this.last = null;
    this.stroke = new Stroke(brush, aim, this.values.length, noise);
    if (aim === 'smooth') {
      const reach = (side: number) => Math.max(1, Math.round((brush.radiusM * AROUND * side) / extentM));
      this.stroke.around = boxed(this.before, width, height, reach(width), reach(height));
    }
  }

  /** Goes on to a point, with dabs between it and the last one. Gives how many pixels were reached. */
  to(point: MaskPoint): number {
    const { last, stroke, extentM } = this;
    if (!stroke) return 0;
    let reached = 0;
    if (last) {
      const way = Math.hypot(point.u - last.u, point.v - last.v) * extentM;
      const steps = dabsBetween(way, stroke.brush);
      const along = (from: number, to: number, k: number) => from + ((to - from) * k) / steps;
      for (let k = 1; k < steps; k++)
        reached += this.dab(along(last.u, point.u, k), along(last.v, point.v, k), along(last.pressure, point.pressure, k));
    }
    this.last = point;
    return reached + this.dab(point.u, point.v, point.pressure);
  }

  private dab(u: number, v: number, pressure: number): number {
    const { stroke, width, height, extentM, values, before } = this;
    if (!stroke) return 0;
    const { radiusM } = stroke.brush;
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
        if (stroke.reach(at, away, pressure)) values[at] = stroke.take(at, before[at], () => stroke.around?.[at] ?? before[at]);
      }
    }
    return reached;
  }

  /** Ends the stroke: what it did stays. */
  end(): void {
    this.stroke = null;
    this.settle();
  }

  /** Gives the stroke up: everything is as before it. */
  cancel(): void {
    for (const at of this.stroke?.touched ?? []) this.values[at] = this.before[at];
    this.stroke = null;
  }

  fill(value: number): void {
    this.cancel();
    this.values.fill(value);
    this.settle();
  }
  invert(): void {
    this.cancel();
    for (let i = 0; i < this.values.length; i++) this.values[i] = 1 - this.values[i];
    this.settle();
  }

  private settle = (): void => this.take(this.bytes());
  private take(bytes: ArrayLike<number>): void {
    for (let i = 0; i < bytes.length; i++) this.values[i] = bytes[i] / 255;
    this.before = this.values.slice();
  }

  /** As it is shown now, a byte a pixel. */
  bytes = (): Uint8Array<ArrayBuffer> => toBytes(this.values);
}

/** Means over boxes of 2·reach + 1 pixels a side, over the edges to the other side. */
function boxed(values: Float32Array, width: number, height: number, reachX: number, reachY: number): Float32Array {
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
