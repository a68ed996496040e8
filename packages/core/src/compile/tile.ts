import type { Domain, Tile } from './domain';
import type { ChannelSource, Sources } from './sources';
import type { DagNode } from './types';

/** Numbers by name, one a component. */
export type Values = Readonly<Record<string, readonly number[]>>;

/** What kernels may look at beside their planes. */
export interface TileContext {
  domain: Domain;
  tile: Tile;
  values: Values;
  /** How far coordinates move, as values; not copied among them, of which there are hundreds. */
  footprints: Values;
  sources: Sources;
  /** Offsets of planes that a kernel may use while it runs, as many as a texel has components. */
  spare: readonly number[];
  grids: TexelGrids;
}

/** Offsets into the linear scratch memory: `args[port][component]`, `out[component]`; `n` values each. */
export interface KernelCall {
  memory: Float32Array;
  n: number;
  out: readonly number[];
  args: readonly (readonly number[])[];
  node: DagNode;
  context: TileContext;
  /** Which inputs are one number all over the tile. */
  steady: readonly boolean[];
}
export type Kernel = (call: KernelCall) => void;

/** Reads texels for a whole tile. */
export interface TexelGrids {
  /** @param level of mips @param out offsets of planes, one a component */
  sample(call: KernelCall, source: ChannelSource, level: number, out: readonly number[]): void;
  /** Another tile begins. */
  clear(): void;
}
