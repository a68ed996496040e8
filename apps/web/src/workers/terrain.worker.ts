/// <reference lib="webworker" />
// Layers of a ground on a terrain: where its sentences lay them, tile by tile.
import type { Heightfield, Image, MapSet } from '@pebble/core';
import {
  MASK_SIDE,
  Recent,
  TerrainDetail,
  capPicture,
  coarserField,
  convertDepth,
  drainage,
  extractChannel,
  makeImage,
  relieveTiles,
  resize,
  samplePicture,
  storedCoverages,
  terrainTiles,
  wetness,
  withExtent,
} from '@pebble/core';
import { webCodec } from '@pebble/formats/web';
import type { PixelReader } from '@pebble/usecases';
import type { LaidGround } from '@pebble/usecases/ground';
import { layGround, tilePrices } from '@pebble/usecases/ground';
import { bytesOf, keepPieces } from './blob';
import { fieldOf } from './fields';
import { stageImages } from './stage-images';
import type { DetailRequests, GroundOn, TerrainRequests, TileTable } from './terrain-protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

/** Pixels a side of maps that sentences read from so far away. */
const FAR_MAPS = 256;
/** Samples along a side by which water is looked for. */
const WATER_SAMPLES = 513;

type Looked = LaidGround & { field: Heightfield };
const looks = new Recent<string, Promise<Looked>>(1);
const lookedAt = (ground: GroundOn): Promise<Looked> => looks.of(JSON.stringify(ground), () => look(ground));

async function look(ground: GroundOn): Promise<Looked> {
  const { blend, surfaces, blends, terrain } = ground;
  const field = await fieldOf(ground);
  const small = (image: Image) => resize(image, Math.min(image.width, FAR_MAPS), Math.min(image.height, FAR_MAPS));
  const reader: PixelReader = {
    maps: async (id, roles) => {
      const stages = Object.fromEntries(roles.flatMap((role) => (surfaces[id]?.maps[role] ? [[role, surfaces[id].maps[role].stage]] : [])));
      const maps: MapSet = await stageImages(stages);
      return Object.fromEntries(Object.entries(maps).map(([role, image]) => [role, role === 'id' ? image : small(image)]));
    },
    // What was painted is as it is.
    painted: async (blob) => webCodec.decode(await bytesOf(blob), 'data'),
  };
  return { field, ...(await layGround(blend, { surfaces, blends, specimens: {} }, field, terrain.footM, reader)) };
}
/** Keeps a mask on the server; gives its hash. */
async function keepMask(data: Uint8Array<ArrayBuffer>, side: number): Promise<string> {
  const png = Uint8Array.from(await webCodec.encode(makeImage({ width: side, height: side, channels: 1, data })));
  const [picture] = await keepPieces(png, Math.max(1024, png.length));
  return picture;
}
const cellsOf = ({ spacingM }: Heightfield, tileM: number): number => Math.max(1, Math.round(tileM / spacingM));

async function table({ ground, tileM }: { ground: GroundOn; tileM: number }): Promise<TileTable> {
  const { field, stack, ids, coverages } = await lookedAt(ground);
  const side = cellsOf(field, tileM);
  const weights = storedCoverages(coverages);
  const tiles = terrainTiles(weights, side);
  const priceOf = tilePrices(stack);
  const [whole] = terrainTiles(weights, Math.max(field.width, field.height));
  return {
    columns: Math.max(...tiles.map((t) => t.column)) + 1,
    rows: Math.max(...tiles.map((t) => t.row)) + 1,
    tileM: side * field.spacingM,
    tiles: tiles.map((t) => ({ column: t.column, row: t.row, layers: t.layers.map((l) => ids[l]), price: priceOf(t) })),
    means: Object.fromEntries(ids.map((id, l) => [id, whole.means[l]])),
    everyM: field.spacingM,
  };
}

const details = new Recent<string, Promise<TerrainDetail>>(1);

const HANDLERS: Handlers<TerrainRequests & DetailRequests> = {
  detail: async ({ terrain, heights, extentM, sight }) => {
    const make = async () => new TerrainDetail(await fieldOf({ terrain, heights }), terrain.footM);
    const made = (await details.of(JSON.stringify([terrain, heights]), make)).mesh(sight);
    const mesh = withExtent(made.mesh, extentM);
    return { result: { mesh, tolerancePx: made.tolerancePx }, transfer: [] };
  },
  wet: async (of) => {
    const field = coarserField(await fieldOf(of), WATER_SAMPLES);
    const data = samplePicture(wetness(field, drainage(field)), field, MASK_SIDE);
    return { result: { picture: await keepMask(data, MASK_SIDE) }, transfer: [] };
  },
  tiles: async (args) => ({ result: await table(args), transfer: [] }),
  relieve: async ({ ground, tileM, limit, under }) => {
    const { field, ids, coverages } = await lookedAt(ground);
    const { capped, tiles } = relieveTiles(coverages, cellsOf(field, tileM), limit);
    const caps = [];
    for (const { layer, tiles: rects } of capped) {
      const before = under[ids[layer]];
      const held = before ? extractChannel(await webCodec.decode(await bytesOf(before), 'data'), 0) : null;
      const side = held?.width ?? MASK_SIDE;
      const data = capPicture(rects, field, side);
      if (held) {
        const known = convertDepth(held, 8).data;
        for (let i = 0; i < data.length; i++) data[i] = Math.min(data[i], known[i]);
      }
      caps.push({ layer: ids[layer], picture: await keepMask(data, side) });
    }
    const named = tiles.map(({ dropped, ...t }) => ({ ...t, dropped: dropped.map((l) => ids[l]) }));
    return { result: { caps, tiles: named }, transfer: [] };
  },
};

serve(HANDLERS);
