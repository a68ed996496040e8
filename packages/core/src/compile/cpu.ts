import type { Domain, Tile } from './domain';
import { topological } from './builder';
import { operation } from './registry';
import type { Sources } from './sources';
import type { DagNode } from './types';
import { COMPONENTS } from './types';

export type Values = Readonly<Record<string, readonly number[]>>;

/** Texel addresses and bilinear weights of a tile. */
export interface Grid {
  a: Int32Array;
  b: Int32Array;
  c: Int32Array;
  d: Int32Array;
  fx: Float32Array;
  fy: Float32Array;
  /** No pixel lies between texels: one fetch instead of four. */
  exact: boolean;
}

/** What kernels may look at beside their planes. */
export interface TileContext {
  domain: Domain;
  tile: Tile;
  values: Values;
  sources: Sources;
  capacity: number;
  /** Offset of a plane that a kernel may use while it runs. */
  spare: number;
  grids: Map<string, Grid>;
  spareGrids: Grid[];
}

/** Pixels a tile: 16 KiB a plane, so that the planes of a few operations stay in the first-level cache. */
export const TILE_PIXELS = 4096;
/** Planes whose distance is a power of two share cache sets; a few floats of padding part them. */
const PLANE_PADDING = 24;

interface Step {
  node: DagNode;
  out: number[];
  args: number[][];
}

export interface EvaluateOptions {
  values?: Values;
  sources?: Sources;
  domain: Domain;
  /** Rows to evaluate: `[first, end)`. All by default; workers take bands. */
  rows?: readonly [number, number];
  /** Called before each tile with the share done; throwing stops the evaluation. */
  onTile?: (done: number) => void;
}

/** Planes of one finished tile: `planes(name)[component]`, `width × height` values from the top-left. Read before returning. */
export type TileSink = (tile: Tile, planes: (name: string) => Float32Array[]) => void;

/**
 * Steps over one linear scratch memory, compiled from named outputs. Planes are given back as soon as their last reader
 * has run, so memory is O(tile), whatever the size of the picture. Not re-entrant.
 */
export class CpuProgram {
  private readonly once: Step[] = [];
  private readonly perTile: Step[] = [];
  private readonly placed = new Map<DagNode, number[]>();
  private readonly planeCount: number;
  private readonly stride: number;
  private memory: Float32Array | null = null;
  private spareGrids: Grid[] = [];
  private readonly filled = new Set<DagNode>();

  constructor(
    readonly outputs: Readonly<Record<string, DagNode>>,
    private readonly tilePixels = TILE_PIXELS,
  ) {
    this.stride = tilePixels + PLANE_PADDING;
    this.planeCount = this.place(topological(Object.values(outputs))) + 1;
  }

  /** Bytes of scratch memory. */
  get scratchBytes(): number {
    return this.planeCount * this.stride * 4;
  }

  private place(order: DagNode[]): number {
    const fixed = new Set<DagNode>();
    for (const node of order) {
      const leaf = operation(node.op).leaf;
      if (leaf === 'constant' || leaf === 'value' || (!leaf && node.op !== 'image' && node.args.every((a) => fixed.has(a)))) fixed.add(node);
    }
    const lastUse = new Map<DagNode, number>();
    order.forEach((node, i) => node.args.forEach((a) => lastUse.set(a, i)));
    Object.values(this.outputs).forEach((node) => lastUse.set(node, Infinity));
    const free: number[] = [];
    let planes = 0;
    const release: DagNode[][] = order.map(() => []);
    for (const [node, at] of lastUse) if (at !== Infinity && !fixed.has(node)) release[at].push(node);
    order.forEach((node, i) => {
      // Values and constants keep their planes: they are written once and read in every tile.
      const take = () => (fixed.has(node) ? planes++ : (free.pop() ?? planes++)) * this.stride;
      const out = Array.from({ length: COMPONENTS[node.type] }, take);
      this.placed.set(node, out);
      const step: Step = { node, out, args: node.args.map((a) => this.placed.get(a) as number[]) };
      (fixed.has(node) ? this.once : this.perTile).push(step);
      for (const done of release[i]) for (const offset of this.placed.get(done) as number[]) free.push(offset / this.stride);
    });
    return planes;
  }

  /** Fills the planes that do not change from pixel to pixel; from one run to the next only those whose values moved. */
  private performOnce(context: TileContext, memory: Float32Array): void {
    const moved = new Set<DagNode>();
    for (const step of this.once) {
      const { node, out, args } = step;
      const leaf = operation(node.op).leaf;
      const given = leaf === 'value' ? context.values[String(node.attrs['name'])] : undefined;
      // Values reach the planes as float32, so they are compared as such.
      const same = given
        ? out.every((o, c) => Object.is(memory[o], Math.fround(given[c])))
        : leaf === 'constant' || (!leaf && node.op !== 'imagelevel' && node.args.every((a) => !moved.has(a)));
      if (this.filled.has(node) && same) continue;
      moved.add(node);
      this.filled.add(node);
      operation(node.op).kernel({ memory, n: this.tilePixels, out, args, node, context });
    }
  }

  /** Evaluates tile by tile. @throws CompileError `missing-source`; RangeError for a value that was not given. */
  run(options: EvaluateOptions, sink: TileSink): void {
    const { domain, rows = [0, domain.height] } = options;
    const memory = (this.memory ??= new Float32Array(this.planeCount * this.stride));
    // Tiles are about square; a picture of few rows gets wide ones.
    const width = Math.min(domain.width, this.tilePixels, Math.max(128, Math.floor(this.tilePixels / domain.height)));
    const height = Math.max(1, Math.floor(this.tilePixels / width));
    const context: TileContext = {
      domain,
      tile: { x: 0, y: 0, width: 0, height: 0 },
      values: { footprint_x: domain.footprint.x, footprint_y: domain.footprint.y, ...options.values },
      sources:
        options.sources ??
        (() => {
          throw new Error('No sources were given');
        }),
      capacity: this.tilePixels,
      spare: (this.planeCount - 1) * this.stride,
      grids: new Map(),
      spareGrids: this.spareGrids,
    };
    const perform = (steps: Step[], n: number) => {
      for (const { node, out, args } of steps) operation(node.op).kernel({ memory, n, out, args, node, context });
    };
    this.performOnce(context, memory);
    const views = new Map<string, Float32Array[]>();
    const planes = (name: string): Float32Array[] => views.get(name) as Float32Array[];
    for (const [name, node] of Object.entries(this.outputs))
      views.set(
        name,
        (this.placed.get(node) as number[]).map((o) => memory.subarray(o, o + this.tilePixels)),
      );
    const total = rows[1] - rows[0];
    for (let y = rows[0]; y < rows[1]; y += height)
      for (let x = 0; x < domain.width; x += width) {
        options.onTile?.((y - rows[0]) / total);
        context.tile = { x, y, width: Math.min(width, domain.width - x), height: Math.min(height, rows[1] - y) };
        perform(this.perTile, context.tile.width * context.tile.height);
        sink(context.tile, planes);
        for (const grid of context.grids.values()) this.spareGrids.push(grid);
        context.grids.clear();
      }
  }
}

/** Evaluates nodes made of constants and values only, at one point: how folding and hoisted values are computed. */
export function evaluateOnce(outputs: Record<string, DagNode>, values: Values = {}): Record<string, number[]> {
  const program = new CpuProgram(outputs, 1);
  const result: Record<string, number[]> = {};
  const domain: Domain = { width: 1, height: 1, footprint: { x: [0, 0], y: [0, 0] }, fill: () => undefined };
  program.run({ domain, values }, (_, planes) => {
    for (const name of Object.keys(outputs)) result[name] = planes(name).map((p) => p[0]);
  });
  return result;
}

/** Evaluates everything into whole planes, one `Float32Array` a component: for small pictures and tests. */
export function evaluate(outputs: Record<string, DagNode>, options: EvaluateOptions): Record<string, Float32Array[]> {
  const { width, height } = options.domain;
  const result: Record<string, Float32Array[]> = {};
  for (const [name, node] of Object.entries(outputs))
    result[name] = Array.from({ length: COMPONENTS[node.type] }, () => new Float32Array(width * height));
  new CpuProgram(outputs).run(options, (tile, planes) => {
    for (const name of Object.keys(outputs))
      planes(name).forEach((plane, c) => {
        for (let y = 0; y < tile.height; y++)
          result[name][c].set(plane.subarray(y * tile.width, (y + 1) * tile.width), (tile.y + y) * width + tile.x);
      });
  });
  return result;
}
