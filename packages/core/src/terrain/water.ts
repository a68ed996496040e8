// Where water stands and runs on a heightfield.
import type { Heightfield } from './heightfield';

/** A heap of cells by what they hold, the lowest first; of equal ones the first that came. */
class LowestFirst {
  private readonly cells: number[] = [];
  private readonly keys: number[] = [];
  private readonly came: number[] = [];
  private count = 0;

  get size(): number {
    return this.cells.length;
  }
  private before(a: number, b: number): boolean {
    return this.keys[a] < this.keys[b] || (this.keys[a] === this.keys[b] && this.came[a] < this.came[b]);
  }
  private swap(a: number, b: number): void {
    for (const list of [this.cells, this.keys, this.came]) [list[a], list[b]] = [list[b], list[a]];
  }
  push(cell: number, key: number): void {
    this.cells.push(cell);
    this.keys.push(key);
    this.came.push(this.count++);
    for (let i = this.size - 1; i > 0;) {
      const up = (i - 1) >> 1;
      if (!this.before(i, up)) break;
      this.swap(i, up);
      i = up;
    }
  }
  pop(): number {
    const [first] = this.cells;
    this.swap(0, this.size - 1);
    for (const list of [this.cells, this.keys, this.came]) list.pop();
    for (let i = 0; ;) {
      let least = i;
      for (const child of [2 * i + 1, 2 * i + 2]) if (child < this.size && this.before(child, least)) least = child;
      if (least === i) break;
      this.swap(i, least);
      i = least;
    }
    return first;
  }
}

export interface Drainage {
  /** Metres of water that would stand on each sample before it ran off over a rim. */
  depthM: Float32Array;
  /** Square metres whose rain runs over each sample. */
  areaM2: Float32Array;
}

/**
 * How water stands in hollows and runs off a ground whose rims let it go: hollows are filled from the rims inwards, and every sample
 * drains to the neighbour from which it was reached. Source: Barnes, Lehman & Mulla, "Priority-flood", Computers & Geosciences 62, 2014.
 */
export function drainage({ width, height, spacingM, altitude }: Heightfield): Drainage {
  const n = width * height;
  const level = new Float32Array(n);
  const to = new Int32Array(n).fill(-1);
  const seen = new Uint8Array(n);
  const order = new Int32Array(n);
  const heap = new LowestFirst();
  const reach = (cell: number, from: number, at: number) => {
    seen[cell] = 1;
    to[cell] = from;
    level[cell] = Math.max(altitude[cell], at);
    heap.push(cell, level[cell]);
  };
  for (let x = 0; x < width; x++) for (const y of [0, height - 1]) if (!seen[y * width + x]) reach(y * width + x, -1, -Infinity);
  for (let y = 0; y < height; y++) for (const x of [0, width - 1]) if (!seen[y * width + x]) reach(y * width + x, -1, -Infinity);
  for (let i = 0; heap.size; i++) {
    const cell = heap.pop();
    order[i] = cell;
    const [x, y] = [cell % width, Math.floor(cell / width)];
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const [nx, ny] = [x + dx, y + dy];
        if (nx < 0 || ny < 0 || nx >= width || ny >= height) continue;
        const next = ny * width + nx;
        if (!seen[next]) reach(next, cell, level[cell]);
      }
  }
  const areaM2 = new Float32Array(n).fill(spacingM * spacingM);
  for (let i = n - 1; i >= 0; i--) if (to[order[i]] >= 0) areaM2[to[order[i]]] += areaM2[order[i]];
  const depthM = new Float32Array(n);
  for (let i = 0; i < n; i++) depthM[i] = level[i] - altitude[i];
  return { depthM, areaM2 };
}

/** Where water is looked for: hollows deeper than so much, and runs that drain more than so many square metres. */
export interface WetPlaces {
  standsM: number;
  runsM2: number;
}
export const DEFAULT_WET: WetPlaces = { standsM: 0.1, runsM2: 6000 };
/** Half the width of a run in metres, by the root of what it drains in metres. */
const HALF_WIDTH = (areaM2: number): number => 0.4 + 0.006 * Math.sqrt(areaM2);
const smooth = (t: number): number => t * t * (3 - 2 * t);

/** How wet each sample is, 0–1: full in hollows and along runs, soft at their rims. */
export function wetness(field: Heightfield, { depthM, areaM2 }: Drainage, { standsM, runsM2 }: WetPlaces = DEFAULT_WET): Float32Array {
  const { width, height, spacingM } = field;
  const out = new Float32Array(width * height);
  for (let i = 0; i < out.length; i++) out[i] = smooth(Math.min(1, Math.max(0, depthM[i] / standsM)));
  for (let i = 0; i < out.length; i++) {
    if (areaM2[i] < runsM2) continue;
    const reach = HALF_WIDTH(areaM2[i]) / spacingM;
    const [x, y] = [i % width, Math.floor(i / width)];
    for (let v = Math.max(0, Math.ceil(y - 2 * reach)); v <= Math.min(height - 1, y + 2 * reach); v++)
      for (let u = Math.max(0, Math.ceil(x - 2 * reach)); u <= Math.min(width - 1, x + 2 * reach); u++) {
        // Full within half the way, gone at twice as far.
        const wet = smooth(Math.min(1, Math.max(0, 2 - Math.hypot(u - x, v - y) / reach)));
        const at = v * width + u;
        if (wet > out[at]) out[at] = wet;
      }
  }
  return out;
}

/** Values at samples as a picture over the square that a terrain is painted on, mixed between samples: bytes, row by row. */
export function samplePicture(values: Float32Array, { width, height }: Pick<Heightfield, 'width' | 'height'>, side: number): Uint8Array<ArrayBuffer> {
  const most = Math.max(width, height) - 1;
  const out = new Uint8Array(side * side);
  for (let j = 0, o = 0; j < side; j++)
    for (let k = 0; k < side; k++, o++) {
      const [x, y] = [((k + 0.5) / side) * most, ((j + 0.5) / side) * most];
      if (x > width - 1 || y > height - 1) continue;
      const [i, l] = [Math.min(width - 2, Math.floor(x)), Math.min(height - 2, Math.floor(y))];
      const at = l * width + i;
      const row = (from: number) => values[from] + (values[from + 1] - values[from]) * (x - i);
      out[o] = 255 * (row(at) + (row(at + width) - row(at)) * (y - l)) + 0.5;
    }
  return out;
}
