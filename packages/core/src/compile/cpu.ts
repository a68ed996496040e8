import type { Domain, Tile } from './domain';
import { evenFootprint, footprintValues } from './domain';
import { topological } from './builder';
import { givenValue } from './operations/leaves';
import type { LaneDefinition } from './lanes';
import { scalarLanes } from './lanes';
import { operation, readsMap } from './registry';
import { GridCache } from './sampling';
import type { Sources } from './sources';
import type { Kernel, KernelCall, TileContext, Values } from './tile';
import type { DagNode } from './types';
import { COMPONENTS } from './types';
import type { Loop, WasmMemory } from './wasm';
import { LoopEmitter, makeMemory } from './wasm';

/** Pixels a tile: the planes of a blend of a few layers stay near the processor. */
export const TILE_PIXELS = 1024;
/** Planes whose distance is a power of two share cache sets; a few floats of padding part them. A multiple of four. */
const PLANE_PADDING = 24;

/** Kernels in turn, then one fused loop: what a kernel reads of a loop comes from an earlier phase. */
interface Phase {
  kernels: { call: KernelCall; kernel: Kernel }[];
  loop: Loop | null;
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

/** Whether a node is made of constants and values alone: it is worked out once a run, not once a pixel. */
const isSteady = (node: DagNode, steady: ReadonlySet<DagNode>): boolean => {
  const { leaf } = operation(node.op);
  return leaf === 'constant' || leaf === 'value' || (!leaf && !readsMap(node) && node.args.every((a) => steady.has(a)));
};

type OnceContext = Pick<TileContext, 'values' | 'footprints' | 'sources' | 'domain'>;

/** One number a component, for a node whose inputs are such. @throws RangeError for a value that was not given */
function atOnce(node: DagNode, args: readonly (readonly number[])[], context: OnceContext): readonly number[] {
  if (node.op === 'value') return givenValue(node, context);
  const { lanes, kernel } = operation(node.op);
  if (lanes) return lanes(scalarLanes, args, node);
  let at = 0;
  const places = args.map((arg) => arg.map(() => at++));
  const out = Array.from({ length: COMPONENTS[node.type] }, () => at++);
  const memory = new Float32Array(at);
  memory.set(args.flat());
  kernel?.({ memory, n: 1, out, args: places, node, context: context as TileContext, steady: args.map(() => true) });
  return out.map((o) => memory[o]);
}

/** A node that is worked out once a run. */
interface SteadyStep {
  node: DagNode;
  args: SteadyStep[];
  out: number[];
  /** How many floats hold its number: a plane, or one. */
  width: number;
  value: readonly number[];
  done: boolean;
}

/** The offsets of planes that are taken and given back. */
class PlanePool {
  private readonly free: number[] = [];
  count = 0;
  constructor(private readonly stride: number) {}
  take = (): number => this.free.pop() ?? this.count++ * this.stride;
  give = (offset: number): void => void this.free.push(offset);
}

/**
 * A program over one linear scratch memory, compiled from named outputs: kernels that look things up, and between them
 * WebAssembly loops that work four pixels at a time. Planes are given back as soon as their last reader has run, so memory
 * is O(tile), whatever the size of the picture. Not re-entrant.
 */
export class CpuProgram {
  private readonly steady: SteadyStep[];
  /** Where a node lies: offsets of planes, or of single numbers for steady nodes that only loops read. In floats. */
  private readonly placed = new Map<DagNode, number[]>();
  /** Steady nodes that fill whole planes, since a kernel or the sink reads them. */
  private readonly wide = new Set<DagNode>();
  private readonly phases: Phase[] = [];
  private readonly stride: number;
  private readonly floats: number;
  private readonly spare: number[];
  private readonly memory: Float32Array;
  private readonly grids: GridCache | null;

  /** Loops that are not built yet. */
  private readonly unbuilt: (() => void)[] = [];

  /** @param inPieces loops are built by `pieces`, or by the first run */
  constructor(
    readonly outputs: Readonly<Record<string, DagNode>>,
    private readonly tilePixels = TILE_PIXELS,
    inPieces = false,
  ) {
    this.stride = Math.ceil(tilePixels / 4) * 4 + PLANE_PADDING;
    const pool = new PlanePool(this.stride);
    this.spare = Array.from({ length: 3 }, pool.take);
    const order = topological(Object.values(outputs));
    const steady = new Set<DagNode>();
    for (const node of order) if (isSteady(node, steady)) steady.add(node);
    for (const node of order) if (!steady.has(node) && operation(node.op).kernel) node.args.forEach((a) => steady.has(a) && this.wide.add(a));
    Object.values(outputs).forEach((node) => steady.has(node) && this.wide.add(node));
    for (const node of this.wide) this.placed.set(node, this.planes(node, pool));
    const moving = order.filter((node) => !steady.has(node));
    const plan = this.plan(moving, steady, pool);
    // Single numbers lie behind the planes, whose number is known only now.
    let at = pool.count * this.stride;
    const steps = new Map<DagNode, SteadyStep>();
    for (const node of steady) {
      const out = this.placed.get(node) ?? Array.from({ length: COMPONENTS[node.type] }, () => at++);
      this.placed.set(node, out);
      const args = node.args.map((a) => steps.get(a) as SteadyStep);
      steps.set(node, { node, args, out, width: this.wide.has(node) ? tilePixels : 1, value: [], done: false });
    }
    this.steady = [...steps.values()];
    const samples = order.some(readsMap);
    const grids = Math.ceil(at / 4) * 4;
    this.floats = samples ? grids + GridCache.floats(this.stride) : at;
    const memory = makeMemory(this.floats * 4);
    this.grids = samples ? new GridCache(memory, grids, this.stride) : null;
    this.memory = new Float32Array(memory.buffer);
    this.phases = plan.map(({ kernels, loop, stored }) => {
      const phase: Phase = {
        kernels: kernels.map((node) => {
          const args = node.args.map((a) => this.placed.get(a) as number[]);
          const call = {
            memory: this.memory,
            out: this.placed.get(node) as number[],
            args,
            node,
            steady: node.args.map((a) => steady.has(a)),
            n: 0,
            context: null as never,
          };
          return { call, kernel: operation(node.op).kernel as Kernel };
        }),
        loop: null,
      };
      if (loop.length) this.unbuilt.push(() => (phase.loop = this.fuse(loop, stored, steady, memory)));
      return phase;
    });
    if (!inPieces) this.finish();
  }

  /** Builds what is left, a loop at a time, for those who must let others in between. */
  *pieces(): Generator<void> {
    for (let build = this.unbuilt.shift(); build; build = this.unbuilt.shift()) {
      build();
      yield;
    }
  }
  private finish(): void {
    for (const built of this.pieces()) void built;
  }

  /** Bytes of scratch memory. */
  get scratchBytes(): number {
    return this.floats * 4;
  }

  private planes = (node: DagNode, pool: PlanePool): number[] => Array.from({ length: COMPONENTS[node.type] }, pool.take);

  /** Sorts nodes into phases and gives planes to all that another phase, a kernel or the sink reads. */
  private plan(moving: DagNode[], steady: ReadonlySet<DagNode>, pool: PlanePool): { kernels: DagNode[]; loop: DagNode[]; stored: Set<DagNode> }[] {
    const isKernel = (node: DagNode) => Boolean(operation(node.op).kernel);
    const phaseOf = new Map<DagNode, number>();
    const lastRead = new Map<DagNode, number>();
    const stored = new Set<DagNode>(Object.values(this.outputs).filter((node) => !steady.has(node)));
    for (const node of moving) {
      const inputs = node.args.filter((a) => !steady.has(a));
      const own = inputs.map((a) => (phaseOf.get(a) as number) + (isKernel(node) && !isKernel(a) ? 1 : 0));
      const phase = Math.max(0, ...own);
      phaseOf.set(node, phase);
      for (const a of inputs) {
        lastRead.set(a, Math.max(phase, lastRead.get(a) ?? 0));
        if (phaseOf.get(a) !== phase || isKernel(node)) stored.add(a);
      }
    }
    for (const node of Object.values(this.outputs)) lastRead.set(node, Infinity);
    const count = Math.max(-1, ...phaseOf.values()) + 1;
    return Array.from({ length: count }, (_, phase) => {
      const own = moving.filter((node) => phaseOf.get(node) === phase);
      const kernels = own.filter(isKernel);
      const loop = own.filter((node) => !isKernel(node));
      for (const node of own) if (isKernel(node) || stored.has(node)) this.placed.set(node, this.planes(node, pool));
      for (const node of moving) if (lastRead.get(node) === phase) this.placed.get(node)?.forEach(pool.give);
      return { kernels, loop, stored };
    });
  }

  /** One loop of a phase's operations. */
  private fuse(loop: DagNode[], stored: ReadonlySet<DagNode>, steady: ReadonlySet<DagNode>, memory: WasmMemory): Loop {
    const emitter = new LoopEmitter();
    const known = new Map<DagNode, number[]>();
    const read = (node: DagNode): number[] => {
      let value = known.get(node);
      if (!value) {
        const places = this.placed.get(node) as number[];
        value = places.map((at) => (steady.has(node) ? emitter.loadSteady(at * 4) : emitter.load(at * 4)));
        known.set(node, value);
      }
      return value;
    };
    for (const node of loop) {
      const value = (operation(node.op).lanes as LaneDefinition)(emitter, node.args.map(read), node);
      known.set(node, value);
      if (stored.has(node)) (this.placed.get(node) as number[]).forEach((at, c) => emitter.store(at * 4, value[c]));
    }
    return emitter.build(memory);
  }

  /** Works out what does not change from pixel to pixel; planes are filled again only when their number moved. */
  private performOnce(context: TileContext): void {
    const { memory } = this;
    for (const step of this.steady) {
      // A constant is what it was at the last run.
      if (step.done && step.node.op === 'constant') continue;
      step.value = atOnce(
        step.node,
        step.args.map((arg) => arg.value),
        context,
      );
      for (let c = 0; c < step.out.length; c++) {
        const at = step.out[c];
        const moved = !step.done || !Object.is(memory[at], Math.fround(step.value[c]));
        if (moved) memory.fill(step.value[c], at, at + step.width);
      }
      step.done = true;
    }
  }

  /** Evaluates tile by tile. @throws CompileError `missing-source`; RangeError for a value that was not given. */
  run(options: EvaluateOptions, sink: TileSink): void {
    const { domain, rows = [0, domain.height] } = options;
    const { memory } = this;
    this.finish();
    // Tiles run along the rows: sources lie in memory by rows.
    const width = Math.min(domain.width, this.tilePixels);
    const height = Math.max(1, Math.floor(this.tilePixels / width));
    const context: TileContext = {
      domain,
      tile: { x: 0, y: 0, width: 0, height: 0 },
      values: options.values ?? {},
      footprints: footprintValues(domain),
      sources: options.sources ?? NO_SOURCES,
      spare: this.spare,
      grids: this.grids as GridCache,
    };
    this.performOnce(context);
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
        const n = context.tile.width * context.tile.height;
        for (const { kernels, loop } of this.phases) {
          for (const { call, kernel } of kernels) {
            call.n = n;
            call.context = context;
            kernel(call);
          }
          loop?.((n + 3) >> 2);
        }
        sink(context.tile, planes);
        this.grids?.clear();
      }
  }
}

const NO_SOURCES: Sources = () => {
  throw new Error('No sources were given');
};

const NO_PIXELS: Domain = { width: 1, height: 1, footprint: evenFootprint(0), fill: () => undefined };

/** Evaluates nodes made of constants and values only, at one point: how folding and hoisted values are computed. */
export function evaluateOnce(outputs: Record<string, DagNode>, values: Values = {}): Record<string, number[]> {
  const numbers = new Map<DagNode, readonly number[]>();
  const footprints = footprintValues(NO_PIXELS);
  for (const node of topological(Object.values(outputs)))
    numbers.set(
      node,
      atOnce(
        node,
        node.args.map((a) => numbers.get(a) as readonly number[]),
        // Pixel inputs are 0 here.
        { values, footprints, sources: NO_SOURCES, domain: NO_PIXELS },
      ),
    );
  return Object.fromEntries(Object.entries(outputs).map(([name, node]) => [name, [...(numbers.get(node) as readonly number[])]]));
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
