import type { Stroke } from './stroke';

/** Pixels a side of a mask that is begun here, and the sizes that there are to choose from. */
export const MASK_SIDE = 1024;
export const MASK_SIDES = [512, 1024, 2048, 4096] as const;
export const MAX_MASK_SIDE = 4096;
/** Side of the texture that shows a mask: its own, where levels can follow the brush on it, within bounds; the least otherwise. */
export function followedSide({ width, height }: { width: number; height: number }, least: number, most: number): number {
  const own = width === height && (MASK_SIDES as readonly number[]).includes(width) ? width : 0;
  return Math.max(least, Math.min(own, most));
}
export type MaskDepth = 8 | 16;

/** A rectangle of pixels: `[x0, x1) × [y0, y1)`. */
export interface PixelRect {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}
const areaOf = ({ x0, y0, x1, y1 }: PixelRect): number => (x1 - x0) * (y1 - y0);
export const unionOf = (a: PixelRect, b: PixelRect): PixelRect => ({
  x0: Math.min(a.x0, b.x0),
  y0: Math.min(a.y0, b.y0),
  x1: Math.max(a.x1, b.x1),
  y1: Math.max(a.y1, b.y1),
});

/** Pixels of rectangles at most that are passed on for every one that was touched. */
const WASTE = 1.6;
/** Pixels in a square of those in which changes are noted. */
const CELL = 32;
/** Squares with fewer pixels touched lie at the rim of what is. */
const FEW = 1;

/**
 * A mask while it is painted: what it was, what it is, and where it changed. Values are kept as they are stored, rounded to
 * nearest, and a stroke always goes on from what was there before it, so that ending one changes nothing any more.
 */
export class MaskSheet {
  readonly now: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;
  readonly before: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;
  readonly full: number;
  stroke: Stroke | null = null;
  /** Touched pixels of each square since they were passed on; and squares changed since they were kept. */
  private shown = new Map<number, PixelRect & { touched: number }>();
  private readonly unkept = new Set<number>();
  /** Squares that the stroke under way has changed. */
  private readonly struck = new Set<number>();
  private readonly columns: number;

  /** @param data values as they are stored, row by row @throws RangeError when there are not as many as pixels */
  constructor(
    readonly width: number,
    readonly height: number,
    readonly depth: MaskDepth,
    data: ArrayLike<number>,
  ) {
    if (data.length !== width * height) throw new RangeError(`A mask of ${width} × ${height} pixels holds ${data.length} values`);
    const make = () => (depth === 8 ? new Uint8Array(data.length) : new Uint16Array(data.length));
    [this.now, this.before] = [make(), make()];
    this.now.set(data);
    this.before.set(data);
    this.full = depth === 8 ? 255 : 65535;
    this.columns = Math.ceil(width / CELL);
  }

  /** A dab at a distance in metres reaches a pixel. @param around mean of what lies around it as it was, 0–1 */
  reach(at: number, away: number, pressure: number, around: () => number): boolean {
    const { stroke, full } = this;
    if (!stroke?.reach(at, away, pressure)) return false;
    this.put(at, stroke.take(at, this.before[at] / full, around) * full + 0.5);
    return true;
  }
  /** Puts a value, as it is stored. */
  put(at: number, value: number): void {
    this.now[at] = value;
    const y = Math.floor(at / this.width);
    this.touch(at - y * this.width, y);
  }
  private touch(x: number, y: number): void {
    const cell = Math.floor(y / CELL) * this.columns + Math.floor(x / CELL);
    this.unkept.add(cell);
    this.struck.add(cell);
    const known = this.shown.get(cell);
    if (!known) return void this.shown.set(cell, { x0: x, y0: y, x1: x + 1, y1: y + 1, touched: 1 });
    known.touched++;
    if (x < known.x0) known.x0 = x;
    else if (x >= known.x1) known.x1 = x + 1;
    if (y < known.y0) known.y0 = y;
    else if (y >= known.y1) known.y1 = y + 1;
  }

  /** Ends the stroke: what it did, and what followed from that, stays. */
  end(): void {
    const { now, before } = this;
    this.stroke = null;
    for (const cell of this.struck) this.eachIn(cell, (at) => (before[at] = now[at]));
    this.struck.clear();
  }
  private eachIn(cell: number, take: (at: number) => void): void {
    const { x0, y0, x1, y1 } = this.cellRect(cell);
    for (let y = y0; y < y1; y++) for (let at = y * this.width + x0, end = at + x1 - x0; at < end; at++) take(at);
  }
  private cellRect(cell: number): PixelRect {
    const [x0, y0] = [(cell % this.columns) * CELL, Math.floor(cell / this.columns) * CELL];
    return { x0, y0, x1: Math.min(this.width, x0 + CELL), y1: Math.min(this.height, y0 + CELL) };
  }

  /** Ends the stroke upon other values, which somebody else put in the place of those it began with: what it changed is changed in them. */
  endOnto(others: ArrayLike<number>): void {
    const { now, before } = this;
    if (others.length !== now.length) throw new RangeError(`A mask of ${this.width} × ${this.height} pixels holds ${others.length} values`);
    this.stroke = null;
    for (let i = 0; i < now.length; i++) {
      const own = now[i] !== before[i];
      if (!own && now[i] !== others[i]) this.put(i, others[i]);
      before[i] = now[i];
    }
    this.struck.clear();
  }
  /** Gives the stroke up: everything is as before it. */
  cancel(): void {
    if (!this.stroke) return;
    this.stroke = null;
    for (const cell of [...this.struck]) this.eachIn(cell, (at) => this.now[at] !== this.before[at] && this.put(at, this.before[at]));
    this.struck.clear();
    this.unkept.clear();
  }

  /** Takes other values, as they are stored, as if it had begun with them. @throws RangeError when there are not as many */
  replace(data: ArrayLike<number>): void {
    if (data.length !== this.now.length) throw new RangeError(`A mask of ${this.width} × ${this.height} pixels holds ${data.length} values`);
    this.stroke = null;
    this.now.set(data);
    this.before.set(data);
    for (const noted of [this.shown, this.unkept, this.struck]) noted.clear();
  }

  /** Does something to all of it, values 0–1. */
  all(change: (value: number, at: number) => number): void {
    this.cancel();
    const { now, before, full } = this;
    for (let i = 0; i < now.length; i++) before[i] = now[i] = change(now[i] / full, i) * full + 0.5;
    this.shown.clear();
    for (let y = 0; y < this.height; y += CELL)
      for (let x = 0; x < this.width; x += CELL) {
        const cell = Math.floor(y / CELL) * this.columns + Math.floor(x / CELL);
        this.unkept.add(cell);
        const rect = this.cellRect(cell);
        this.shown.set(cell, { ...rect, touched: areaOf(rect) });
      }
  }
  fill = (value: number): void => this.all(() => value);
  invert = (): void => this.all((v) => 1 - v);

  /**
   * Where it changed since it was last asked for: rectangles that hold all of it, few of them, and with little beside. Squares of
   * a row that lie side by side are one.
   */
  takeShown(): PixelRect[] {
    const cells = [...this.shown].sort(([a], [b]) => a - b);
    this.shown = new Map();
    const rects: (PixelRect & { touched: number })[] = [];
    for (const [, rect] of cells) {
      const near = rects.find((r) => {
        const both = unionOf(r, rect);
        return areaOf(both) <= WASTE * (r.touched + rect.touched) || (rect.touched <= FEW && areaOf(both) <= WASTE * r.touched);
      });
      if (near) Object.assign(near, unionOf(near, rect), { touched: near.touched + rect.touched });
      else rects.push({ ...rect });
    }
    return rects.map(({ x0, y0, x1, y1 }) => ({ x0, y0, x1, y1 }));
  }

  /** Pieces that changed since they were last asked for: values of squares by their number, those at the far rims are smaller. */
  takeUnkept(): { piece: number; bytes: Uint8Array<ArrayBuffer> }[] {
    const pieces = [...this.unkept].sort((a, b) => a - b).map((piece) => ({ piece, bytes: this.piece(piece) }));
    this.unkept.clear();
    return pieces;
  }
  /** Values of a square as bytes, the lower first. */
  private piece(cell: number): Uint8Array<ArrayBuffer> {
    const { x0, y0, x1, y1 } = this.cellRect(cell);
    const [bytes, wide] = [this.depth / 8, x1 - x0];
    const out = new Uint8Array(wide * (y1 - y0) * bytes);
    let o = 0;
    this.eachIn(cell, (at) => {
      out[o++] = this.now[at] & 255;
      if (bytes > 1) out[o++] = this.now[at] >> 8;
    });
    return out;
  }
  /** Takes a piece back that was kept; what one at a far rim was filled up with is left. @throws RangeError for one that is too small */
  takePiece(piece: number, bytes: Uint8Array): void {
    const { x0, y0, x1, y1 } = this.cellRect(piece);
    const each = this.depth / 8;
    if (bytes.length < (x1 - x0) * (y1 - y0) * each) throw new RangeError(`Piece ${piece} of a painted mask holds ${bytes.length} bytes`);
    let o = 0;
    this.eachIn(piece, (at) => {
      const value = bytes[o] | (each > 1 ? bytes[o + 1] << 8 : 0);
      o += each;
      if (this.now[at] === value) return;
      this.put(at, value);
      this.before[at] = value;
    });
    this.struck.delete(piece);
  }
}
/** Bytes of a piece of a mask at most. */
export const pieceBytes = (depth: MaskDepth): number => CELL * CELL * (depth / 8);
