// Texels around the pixels of a tile as real values, mixed. Where they lie close together in the source, as those of a row
// of pixels mostly do, that part of it is copied beside the planes, and a WebAssembly loop takes them from there, four
// pixels a step; else they are fetched one by one.
import type { Samples } from '../image';
import { decodeTable } from '../image';
import { mixLanes } from './lanes';
import type { ChannelLevel } from './sources';
import { signedTable } from './sources';
import type { CellKind, Loop, WasmMemory } from './wasm';
import { LoopEmitter } from './wasm';

/** Texel addresses and bilinear weights of a tile. */
export interface Grid {
  /** Where its planes lie, in floats: the cells of four corners, then the weights along x and y. */
  at: number;
  a: Int32Array;
  b: Int32Array;
  c: Int32Array;
  d: Int32Array;
  /** No pixel lies between texels: one fetch instead of four. */
  exact: boolean;
  /** Exact, and every pixel's texel lies behind that of the pixel before. */
  inRow: boolean;
  /** The lowest and the highest cell that is read. */
  first: number;
  last: number;
}

const CORNERS = 4;
/** Bytes of a source that are copied at most, and bytes behind them that are read with the last. */
const WINDOW = 1 << 18;
const WINDOW_SLACK = 64;
/** Copying so many bytes costs as much as a fetch of its own. */
const BYTES_A_FETCH = 32;
/** Tables of bytes that are held: sRGB, and some to spare. */
const TABLES = 4;
const BYTES: Record<CellKind, number> = { byte: 1, word: 2, real: 4 };

/** How samples lie and what makes them real. */
interface Reading {
  kind: CellKind;
  /** Divided by their full scale; so, and onto −1…1; looked up in a table of 256; or as they are. */
  curve: 'unit' | 'signed' | 'table' | 'none';
}

export class TexelReader {
  /** Floats that it takes behind `at`: corners, tables, the window. */
  static floats = (stride: number): number => CORNERS * stride + TABLES * 256 + (WINDOW + WINDOW_SLACK) / 4;
  private readonly floats: Float32Array;
  private readonly bytes: Uint8Array;
  private readonly corners: number[];
  /** In floats. */
  private readonly tablesAt: number;
  /** In bytes. */
  private readonly windowAt: number;
  private readonly tables = new Map<Float32Array, number>();
  private readonly loops = new Map<string, Loop>();
  private readonly mixing: Loop;

  constructor(
    private readonly memory: WasmMemory,
    at: number,
    private readonly stride: number,
  ) {
    this.floats = new Float32Array(memory.buffer);
    this.bytes = new Uint8Array(memory.buffer);
    this.corners = Array.from({ length: CORNERS }, (_, k) => at + k * stride);
    this.tablesAt = at + CORNERS * stride;
    this.windowAt = (this.tablesAt + TABLES * 256) * 4;
    this.mixing = mixingLoop(stride * 4).build(memory);
  }

  /** Whether cells lie too far apart for a window, whatever they hold. */
  static isWide = ({ first, last }: Pick<Grid, 'first' | 'last'>, n: number): boolean => last - first >= BYTES_A_FETCH * n * CORNERS;

  /** Every component of `n` texels into a plane of `out`. */
  read(n: number, level: ChannelLevel, table: Float32Array | null, grid: Grid, out: readonly number[]): void {
    const { data, stride, offset } = level;
    const cell = stride * data.BYTES_PER_ELEMENT;
    const length = (grid.last - grid.first + 1) * cell;
    const reading = readingOf(data, table);
    if (!reading || length > Math.min(WINDOW, BYTES_A_FETCH * n * out.length)) return this.readSingly(n, level, table, grid, out);
    const from = data.byteOffset + grid.first * cell;
    this.bytes.set(new Uint8Array(data.buffer, from, length), this.windowAt);
    const way = grid.inRow && 3 * cell + out.length * BYTES[reading.kind] <= 16 ? 'row' : grid.exact ? 'exact' : 'mixed';
    const key = `${reading.kind} ${reading.curve} ${cell} ${out.length} ${way}`;
    let loop = this.loops.get(key);
    if (!loop) this.loops.set(key, (loop = this.makeLoop(reading, cell, out.length, way)));
    const window = this.windowAt + offset * data.BYTES_PER_ELEMENT;
    // Modulo 2³², as the loop adds.
    const base = way === 'row' ? window : window - grid.first * cell;
    loop((n + 3) >> 2, grid.at * 4, base, reading.curve === 'table' ? this.tableAt(table as Float32Array) : 0, ...out.map((o) => o * 4));
  }

  /** Where a table lies, in bytes. */
  private tableAt(table: Float32Array): number {
    let slot = this.tables.get(table);
    if (slot === undefined) {
      if (this.tables.size === TABLES) this.tables.clear();
      this.tables.set(table, (slot = this.tables.size));
      this.floats.set(table, this.tablesAt + slot * 256);
    }
    return (this.tablesAt + slot * 256) * 4;
  }

  /**
   * Pointers: the grid, the window (as if it began with cell 0, or where the row begins), the table, then the planes.
   * @param cell bytes of a texel
   */
  private makeLoop({ kind, curve }: Reading, cell: number, components: number, way: 'row' | 'exact' | 'mixed'): Loop {
    const [GRID, BASE, TABLE, OUT] = [1, 2, 3, 4];
    const l = new LoopEmitter(3 + components);
    const plane = (k: number) => l.load(k * this.stride * 4, GRID);
    const table = curve === 'table' ? l.pointer(TABLE) : null;
    const real = (sample: number): number => {
      if (curve === 'none') return sample;
      if (table !== null) return l.gather('real', l.addWhole(l.multiplyWhole(sample, l.whole(4)), table));
      const part = l.divide(l.smallToFloat(sample), l.number(kind === 'byte' ? 255 : 65535));
      return curve === 'unit' ? part : l.subtract(l.multiply(part, l.number(2)), l.number(1));
    };
    const weights = way === 'mixed' ? [plane(4), plane(5)] : [];
    const texels = way === 'row' ? [rowOf(l, kind, cell, components, BASE)] : [];
    if (way !== 'row') {
      const base = l.pointer(BASE);
      for (let k = 0; k < (way === 'exact' ? 1 : CORNERS); k++)
        texels.push(texelAt(l, kind, components, l.addWhole(l.multiplyWhole(plane(k), l.whole(cell)), base)));
    }
    for (let c = 0; c < components; c++) {
      const [p, q, r, s] = texels.map((t) => real(t[c]));
      const [fx, fy] = weights;
      l.store(0, way === 'mixed' ? mixLanes(l, mixLanes(l, p, q, fx), mixLanes(l, r, s, fx), fy) : p, OUT + c);
    }
    return l.build(this.memory);
  }

  private readSingly(n: number, level: ChannelLevel, table: Float32Array | null, grid: Grid, out: readonly number[]): void {
    const { floats: m, corners } = this;
    out.forEach((o, c) => {
      if (grid.exact) return fetch(m, o, n, level, c, table, grid.a);
      fetchCorners(m, corners, n, level, c, table, grid);
      this.mixing((n + 3) >> 2, corners[0] * 4, (grid.at + CORNERS * this.stride) * 4, o * 4);
    });
  }
}

/** Mixes four corners by two weights. Pointers: the planes of the corners, those of the weights, what comes out. */
function mixingLoop(stride: number): LoopEmitter {
  const l = new LoopEmitter(3);
  const [p, q, r, s] = Array.from({ length: CORNERS }, (_, k) => l.load(k * stride, 1));
  const [fx, fy] = [l.load(0, 2), l.load(stride, 2)];
  l.store(0, mixLanes(l, mixLanes(l, p, q, fx), mixLanes(l, r, s, fx), fy), 3);
  return l;
}

/** Samples of four texels that lie one behind the other, a value a component. */
function rowOf(l: LoopEmitter, kind: CellKind, cell: number, components: number, base: number): number[] {
  const row = l.loadRow(base, cell);
  const size = BYTES[kind];
  const bytes = (c: number) => Array.from({ length: 16 }, (_, i) => (i % 4 < size ? (i >> 2) * cell + c * size + (i % 4) : 16));
  return Array.from({ length: components }, (_, c) => l.pick(row, bytes(c)));
}

/** Samples of the texels at four addresses. Bytes that lie together are taken together. */
function texelAt(l: LoopEmitter, kind: CellKind, components: number, address: number): number[] {
  if (kind !== 'byte' || components === 1) return Array.from({ length: components }, (_, c) => l.gather(kind, address, c * BYTES[kind]));
  const together = l.gather('real', address);
  return Array.from({ length: components }, (_, c) => l.both(c ? l.shift(together, 8 * c) : together, l.whole(255)));
}

/** How samples are read by a loop; null where they must be looked up in a table that is too long to hold. */
function readingOf(data: Samples, table: Float32Array | null): Reading | null {
  if (!table) return data instanceof Float32Array ? { kind: 'real', curve: 'none' } : null;
  const [kind, depth] = data instanceof Uint8Array ? (['byte', 8] as const) : (['word', 16] as const);
  if (table === decodeTable(depth, false)) return { kind, curve: 'unit' };
  if (table === signedTable(depth)) return { kind, curve: 'signed' };
  return kind === 'byte' ? { kind, curve: 'table' } : null;
}

/** Texels at some cells as real values, one by one. */
function fetch(m: Float32Array, out: number, n: number, level: ChannelLevel, component: number, table: Float32Array | null, cells: Int32Array): void {
  const { data, stride } = level;
  const o = level.offset + component;
  if (table) for (let i = 0; i < n; i++) m[out + i] = table[data[cells[i] * stride + o]];
  else for (let i = 0; i < n; i++) m[out + i] = data[cells[i] * stride + o];
}

/** The same of all four corners at once: they lie side by side in pairs, and are fetched from memory once. */
function fetchCorners(
  m: Float32Array,
  [p, q, r, s]: readonly number[],
  n: number,
  { data, stride, offset }: ChannelLevel,
  component: number,
  table: Float32Array | null,
  { a, b, c, d }: Grid,
): void {
  const o = offset + component;
  if (table)
    for (let i = 0; i < n; i++) {
      m[p + i] = table[data[a[i] * stride + o]];
      m[q + i] = table[data[b[i] * stride + o]];
      m[r + i] = table[data[c[i] * stride + o]];
      m[s + i] = table[data[d[i] * stride + o]];
    }
  else
    for (let i = 0; i < n; i++) {
      m[p + i] = data[a[i] * stride + o];
      m[q + i] = data[b[i] * stride + o];
      m[r + i] = data[c[i] * stride + o];
      m[s + i] = data[d[i] * stride + o];
    }
}
