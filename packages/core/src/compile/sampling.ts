import { clampLanes } from './lanes';
import { channelOf, slotOf } from './operations/images';
import type { KernelCall } from './registry';
import type { ChannelLevel, ChannelSource } from './sources';
import { CHANNEL_COMPONENTS } from './sources';
import type { Loop, WasmMemory } from './wasm';
import { LoopEmitter } from './wasm';

/** Grids kept a tile: bounded, so a tile's memory does not grow with the layers of a blend. */
const KEEP = 8;
const PLANES = 6;

/** Texel addresses and bilinear weights of a tile. */
export interface Grid {
  /** Where it lies, in floats. */
  at: number;
  a: Int32Array;
  b: Int32Array;
  c: Int32Array;
  d: Int32Array;
  fx: Float32Array;
  fy: Float32Array;
  /** No pixel lies between texels: one fetch instead of four. */
  exact: boolean;
}

/**
 * Texel addresses and weights of bilinear filtering with wrap, for every pixel of a tile. Channels of one surface share
 * them: six maps, one computation. Rounded to float32 step by step, as exact mode on the GPU does it.
 */
export class GridCache {
  /** Floats that it takes behind `at` (a multiple of four): width, height, a note and a spare, then the planes. */
  static floats = (stride: number): number => 4 + KEEP * PLANES * stride;
  private readonly floats: Float32Array;
  private readonly whole: Int32Array;
  private readonly loop: Loop;
  private readonly free: Grid[];
  private readonly used = new Map<string, Grid>();

  constructor(
    memory: WasmMemory,
    private readonly at: number,
    stride: number,
  ) {
    this.floats = new Float32Array(memory.buffer);
    this.whole = new Int32Array(memory.buffer);
    this.loop = addressLoop(at * 4, stride * 4).build(memory);
    this.free = Array.from({ length: KEEP }, (_, i) => {
      const first = at + 4 + i * PLANES * stride;
      const planes = <T extends Int32Array | Float32Array>(of: T, k: number) => of.subarray(first + k * stride, first + (k + 1) * stride) as T;
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => planes(this.whole, k));
      return { at: first, a, b, c, d, fx: planes(this.floats, 4), fy: planes(this.floats, 5), exact: false };
    });
  }

  of(call: KernelCall, level: ChannelLevel): Grid {
    const { n, args, node } = call;
    const key = `${node.args[0].id}:${level.width}x${level.height}`;
    const found = this.used.get(key);
    if (found) return found;
    const grid = this.free.pop() ?? this.takeOldest();
    this.floats[this.at] = level.width;
    this.floats[this.at + 1] = level.height;
    this.whole[this.at + 2] = 0;
    const [u, v] = args[0];
    this.loop((n + 3) >> 2, u * 4, v * 4, grid.at * 4);
    grid.exact = this.whole[this.at + 2] === 0;
    this.used.set(key, grid);
    return grid;
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

/** Bilinear samples of one component of one level into `out`. */
function bilinear(m: Float32Array, out: number, n: number, level: ChannelLevel, component: number, table: Float32Array | null, grid: Grid): void {
  const { data, stride } = level;
  const o = level.offset + component;
  const { a, b, c, d, fx, fy } = grid;
  if (grid.exact) {
    if (table) for (let i = 0; i < n; i++) m[out + i] = table[data[a[i] * stride + o]];
    else for (let i = 0; i < n; i++) m[out + i] = data[a[i] * stride + o];
  } else if (table) {
    for (let i = 0; i < n; i++) {
      const p = table[data[a[i] * stride + o]];
      const q = table[data[c[i] * stride + o]];
      const top = p + (table[data[b[i] * stride + o]] - p) * fx[i];
      const low = q + (table[data[d[i] * stride + o]] - q) * fx[i];
      m[out + i] = top + (low - top) * fy[i];
    }
  } else {
    for (let i = 0; i < n; i++) {
      const p = data[a[i] * stride + o];
      const q = data[c[i] * stride + o];
      const top = p + (data[b[i] * stride + o] - p) * fx[i];
      const low = q + (data[d[i] * stride + o] - q) * fx[i];
      m[out + i] = top + (low - top) * fy[i];
    }
  }
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
  for (let component = 0; component < CHANNEL_COMPONENTS[channelOf(node)]; component++) {
    const o = out[component];
    bilinear(m, o, n, source.levels[lowest], component, source.table, context.grids.of(call, source.levels[lowest]));
    for (let l = lowest + 1; l <= highest; l++) {
      const next = context.spare;
      bilinear(m, next, n, source.levels[l], component, source.table, context.grids.of(call, source.levels[l]));
      // Pixels whose level lies past l − 1 move on toward level l; the others keep what they have.
      for (let i = 0; i < n; i++) {
        const t = Math.min(1, Math.min(last, m[level + i]) - (l - 1));
        if (t > 0) m[o + i] = m[o + i] + (m[next + i] - m[o + i]) * t;
      }
    }
  }
}
