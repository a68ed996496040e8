import type { BlendDocument, DetailSight, Mesh, Price, ResolvedTile, SpecimenDocument, SurfaceDocument } from '@pebble/core';

/** A ground on a terrain: everything that says which layer lies where. */
export interface GroundOn {
  terrain: NonNullable<SpecimenDocument['terrain']>;
  /** Where its heights are kept. */
  heights: string;
  blend: BlendDocument;
  /** Those that it is made of. */
  surfaces: Record<string, SurfaceDocument>;
  blends: Record<string, BlendDocument>;
}
export interface TileFacts {
  column: number;
  row: number;
  /** Ids of the layers that count in it. */
  layers: string[];
  price: Price;
}
export interface TileTable {
  columns: number;
  rows: number;
  /** Metres along a side of a tile. */
  tileM: number;
  tiles: TileFacts[];
  /** Mean weight of every layer over all of it, 0–1, by id. */
  means: Record<string, number>;
  /** Metres between the samples that were looked at. */
  everyM: number;
}
/** A layer that is held under a picture where tiles do not draw it any more. */
export interface Cap {
  layer: string;
  /** Kept on the server. */
  picture: string;
}
export interface Relief {
  caps: Cap[];
  tiles: (Omit<ResolvedTile, 'dropped'> & { dropped: string[] })[];
}

export interface TerrainRequests {
  /** How many layers each tile draws, and what it costs. @throws when heights or maps cannot be read, or there are too many layers */
  tiles: { args: { ground: GroundOn; tileM: number }; result: TileTable };
  /** Where water stands and runs on a terrain, as a mask over it, kept on the server. */
  wet: { args: Pick<GroundOn, 'terrain' | 'heights'>; result: { picture: string } };
  /** What tiles over a limit do without. `under` are pictures that layers are held under already, by id. */
  relieve: { args: { ground: GroundOn; tileM: number; limit: number; under: Readonly<Record<string, string>> }; result: Relief };
}

/** Requests by which a terrain is shown. */
export interface DetailRequests {
  /** The mesh for a sight, laid in extents. */
  detail: {
    args: { terrain: GroundOn['terrain']; heights: string; extentM: number; sight: DetailSight };
    result: { mesh: Mesh; tolerancePx: number };
  };
}
