import type { Domain, Tile } from './domain';
import type { GridCache } from './sampling';
import type { Sources } from './sources';

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
  grids: GridCache;
}
