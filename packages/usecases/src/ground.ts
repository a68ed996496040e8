// A ground on a terrain: where its sentences lay its layers, whoever asks.
import type { BlendDocument, GroundCoverages, Heightfield, Price, SpecimenDocument, Stack, TerrainTile, TerrainWeights } from '@pebble/core';
import { USUAL_TILING, blendMaterial, coarserField, hillside, ruledCoverages, stackPrice, storedCoverages, terrainTiles } from '@pebble/core';
import type { Library, PixelReader } from './blends';
import { gather, stackOf } from './blends';
import { UseCaseError } from './errors';
import { sourcesOf } from './ingredients';
import type { Ports } from './ports';
import { fieldFrom } from './heights';

/** Samples along a side at which layers are looked for at most: their weights are stored so. */
export const GROUND_SAMPLES = 1025;

export interface LaidGround {
  stack: Stack;
  /** Ids and names of its layers, from the bottom. */
  ids: string[];
  names: string[];
  coverages: GroundCoverages;
}

/** Lays a ground on a field. @param footM altitude of the field's origin @throws UseCaseError for a ground that cannot be shown as it is meant; RangeError for too many layers */
export async function layGround(
  blend: BlendDocument,
  library: Library,
  field: Heightfield,
  footM: number,
  reader: PixelReader,
  report: (done: number) => void = () => undefined,
): Promise<LaidGround> {
  const stack = stackOf(blend, library);
  const material = blendMaterial(stack);
  const from = await gather(material, reader, [], () => undefined);
  const coverages = ruledCoverages(field, material, sourcesOf(from, true), footM, report);
  const ids = material.layers.map((l) => l.id);
  return { stack, ids, names: ids.map((id) => blend.layers[id]?.name ?? id), coverages };
}

/** What tiles cost: the ground with the layers alone that count in one is its own permutation, worked out once each. */
export function tilePrices(stack: Stack): (tile: Pick<TerrainTile, 'layers'>) => Price {
  const known = new Map<string, Price>();
  return ({ layers }) => {
    const key = layers.join();
    const price = known.get(key) ?? stackPrice({ ...stack, layers: stack.layers.filter((_, l) => layers.includes(l)) });
    known.set(key, price);
    return price;
  };
}

/** The heights of a terrain as they came. @throws UseCaseError for a mesh that is no terrain */
export async function terrainField(ports: Pick<Ports, 'blobs' | 'codec'>, { terrain, file, name }: SpecimenDocument): Promise<Heightfield> {
  if (!terrain) throw new UseCaseError('bad-facts', `${name} is no terrain: it has no heights`, name);
  if (terrain.heights === null) return hillside(terrain.width, terrain.height);
  return fieldFrom(await ports.codec.decode(await ports.blobs.get(terrain.heights), 'data'), terrain, file.fileName);
}

/** Tiles of a ground as they are written beside its weights. */
export interface TileFile {
  kind: 'terrain-tiles';
  version: 1;
  tileM: number;
  columns: number;
  rows: number;
  tiles: { column: number; row: number; layers: string[]; samples: number; operations: number }[];
}
/** A ground laid on its terrain for good, with its weights as they are stored and its tiles. */
export async function groundOn(
  ports: Pick<Ports, 'blobs' | 'codec'>,
  specimen: SpecimenDocument,
  blend: BlendDocument,
  library: Library,
  reader: PixelReader,
  report: (done: number) => void,
): Promise<{ weights: TerrainWeights; names: string[]; tiles: TileFile }> {
  const field = coarserField(await terrainField(ports, specimen), GROUND_SAMPLES);
  const { stack, names, coverages } = await layGround(blend, library, field, specimen.terrain?.footM ?? 0, reader, report);
  const weights = storedCoverages(coverages);
  const { sideM } = specimen.terrain?.tiles ?? USUAL_TILING;
  const side = Math.max(1, Math.round(sideM / field.spacingM));
  const tiles = terrainTiles(weights, side);
  const priceOf = tilePrices(stack);
  return {
    weights,
    names,
    tiles: {
      kind: 'terrain-tiles',
      version: 1,
      tileM: side * field.spacingM,
      columns: Math.max(...tiles.map((t) => t.column)) + 1,
      rows: Math.max(...tiles.map((t) => t.row)) + 1,
      tiles: tiles.map((t) => {
        const { samples, operations } = priceOf(t);
        return { column: t.column, row: t.row, layers: t.layers.map((l) => names[l]), samples, operations };
      }),
    },
  };
}
