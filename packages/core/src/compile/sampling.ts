import { clampLanes } from './lanes';
import { channelOf, slotOf } from './pictures';
import type { ChannelLevel, ChannelSource } from './sources';
import type { Grid } from './texels';
import { TexelReader } from './texels';
import type { KernelCall, TexelGrids } from './tile';
import type { Loop, WasmMemory } from './wasm';
import { LoopEmitter } from './wasm';

/** Grids kept a tile: bounded, so a tile's memory does not grow with the layers of a blend. */
const KEEP = 8;
const PLANES = 6;

/**
 * Texel addresses and weights of bilinear filtering with wrap, for every pixel of a tile. Channels of one surface share
 * them: six maps, one computation. Rounded to float32 step by step, as exact mode on the GPU does it.
 */
export class GridCache implements TexelGrids {
  /** Floats that it takes behind `at` (a multiple of four): width, height, a note and a spare, then the planes and what reads texels. */
  static floats = (stride: number): number => 4 + KEEP * PLANES * stride + TexelReader.floats(stride);
  private readonly floats: Float32Array;
  private readonly whole: Int32Array;
  private readonly addresses: Loop;
  private readonly texels: TexelReader;
  private readonly free: Grid[];
  private readonly used = new Map<string, Grid>();

  constructor(
    memory: WasmMemory,
    private readonly at: number,
    stride: number,
  ) {
    this.floats = new Float32Array(memory.buffer);
    this.whole = new Int32Array(memory.buffer);
    this.addresses = addressLoop(at * 4, stride * 4).build(memory);
    this.texels = new TexelReader(memory, at + 4 + KEEP * PLANES * stride, stride);
    this.free = Array.from({ length: KEEP }, (_, i) => {
      const first = at + 4 + i * PLANES * stride;
      const planes = <T extends Int32Array | Float32Array>(of: T, k: number) => of.subarray(first + k * stride, first + (k + 1) * stride) as T;
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => planes(this.whole, k));
      return { at: first, a, b, c, d, exact: false, inRow: false, first: 0, last: 0 };
    });
  }

  private of(call: KernelCall, level: ChannelLevel): Grid {
    const { n, args, node } = call;
    const key = `${node.args[0].id}:${level.width}x${level.height}`;
    const found = this.used.get(key);
    if (found) return found;
    const grid = this.free.pop() ?? this.takeOldest();
    this.floats[this.at] = level.width;
    this.floats[this.at + 1] = level.height;
    this.whole[this.at + 2] = 0;
    const [u, v] = args[0];
    this.addresses((n + 3) >> 2, u * 4, v * 4, grid.at * 4);
    grid.exact = this.whole[this.at + 2] === 0;
    bound(grid, n);
    this.used.set(key, grid);
    return grid;
  }

  /** Bilinear samples of one level, every component into a plane of `out`. */
  sample(call: KernelCall, { levels, table }: ChannelSource, level: number, out: readonly number[]): void {
    this.texels.read(call.n, levels[level], table, this.of(call, levels[level]), out);
  }

  /** Forgets the tile. */
  clear(): void {
    this.free.push(...this.used.values());
    this.used.clear();
  }

  private takeOldest(): Grid {
    const [key, grid] = this.used.entries().next().value as [string, Grid];
    this.used.delete(key);
    return grid;
  }
}

/** Finds out where the cells lie that are read, as far as it matters: past a certain width no more is asked. */
function bound(grid: Grid, n: number): void {
  const { a, b, c, d, exact } = grid;
  let k = 1;
  if (exact) while (k < n && a[k] === a[0] + k) k++;
  grid.inRow = exact && k >= n;
  grid.first = a[0];
  grid.last = a[n - 1];
  if (grid.inRow) return;
  for (const cells of exact ? [a] : [a, b, c, d])
    // Loops go on to a whole group of four.
    for (let i = 0; i < ((n + 3) >> 2) << 2; i++) {
      const cell = cells[i];
      if (cell < grid.first) grid.first = cell;
      else if (cell > grid.last) grid.last = cell;
      else continue;
      if (TexelReader.isWide(grid, n)) return;
    }
}

function addressLoop(cells: number, stride: number): LoopEmitter {
  const l = new LoopEmitter(3);
  const [zero, one, half] = [l.number(0), l.number(1), l.number(0.5)];
  const sizes = [l.loadSteady(cells), l.loadSteady(cells + 4)];
  const axes = sizes.map((size, i) => {
    const t = l.load(0, i + 1);
    const x = l.subtract(l.multiply(l.subtract(t, l.floor(t)), size), half);
    const cell = l.floor(x);
    // A coordinate that is no number has to give an address all the same.
    const last = l.subtract(size, one);
    const low = clampLanes(l, l.select(l.less(cell, zero), last, l.select(l.less(cell, size), cell, l.subtract(cell, size))), zero, last);
    const high = l.select(l.equal(low, last), zero, l.add(low, one));
    return { fraction: l.subtract(x, cell), low: l.toWhole(low), high: l.toWhole(high) };
  });
  const [x, y] = axes;
  const width = l.toWhole(sizes[0]);
  const rows = [y.low, y.high].map((row) => l.multiplyWhole(row, width));
  rows.forEach((row, j) => [x.low, x.high].forEach((column, i) => l.store((j * 2 + i) * stride, l.addWhole(row, column), 3)));
  axes.forEach(({ fraction }, i) => {
    l.store((4 + i) * stride, fraction, 3);
    l.note(cells + 8, l.less(zero, fraction));
  });
  return l;
}

/** The texel under each coordinate, unmixed. Rounded to float32 as on the GPU. */
function lookUp({ memory: m, n, out, args: [[us, vs]] }: KernelCall, { levels: [level], table }: ChannelSource): void {
  const cell = (x: number, size: number) => Math.max(0, Math.min(size - 1, Math.trunc(Math.fround(Math.fround(x - Math.floor(x)) * size)) || 0));
  for (let i = 0; i < n; i++) {
    const at = (cell(m[vs + i], level.height) * level.width + cell(m[us + i], level.width)) * level.stride + level.offset;
    out.forEach((o, c) => (m[o + i] = table ? table[level.data[at + c]] : level.data[at + c]));
  }
}

/** Kernel of the image operation: bilinear inside a level, linear between two levels. */
export function sampleChannel(call: KernelCall): void {
  const { memory: m, n, out, args, node, context } = call;
  const source = context.sources(slotOf(node), channelOf(node));
  if (channelOf(node) === 'id') return lookUp(call, source);
  const last = source.levels.length - 1;
  const level = args[1][0];
  let lowest = last;
  let highest = 0;
  // One level for the whole tile is looked at once.
  for (let i = call.steady[1] ? n - 1 : 0; i < n; i++) {
    const l = Math.min(last, m[level + i]);
    if (Math.floor(l) < lowest) lowest = Math.floor(l);
    if (Math.ceil(l) > highest) highest = Math.ceil(l);
  }
  context.grids.sample(call, source, lowest, out);
  for (let l = lowest + 1; l <= highest; l++) {
    const next = context.spare.slice(0, out.length);
    context.grids.sample(call, source, l, next);
    // Pixels whose level lies past l − 1 move on toward level l; the others keep what they have.
    for (let i = 0; i < n; i++) {
      const t = Math.min(1, Math.min(last, m[level + i]) - (l - 1));
      if (t > 0) for (let c = 0; c < out.length; c++) m[out[c] + i] += (m[next[c] + i] - m[out[c] + i]) * t;
    }
  }
}
