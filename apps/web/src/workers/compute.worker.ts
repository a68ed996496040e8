/// <reference lib="webworker" />
import type { Image, MapSet, MeshPlace, PackedSurface, PictureWeight, Role, SurfaceDocument } from '@pebble/core';
import {
  NO_KEY,
  ROLE_FACTS,
  Recent,
  computeLight,
  convertDepth,
  extractChannel,
  followedSide,
  idColours,
  isMaterialRole,
  packChannels,
  picturedSky,
  resize,
  REPETITION_SIDE,
  laidAlone,
  measuredWidth,
  repetitionAsLaid,
  withNeutral,
} from '@pebble/core';
import { probeImage } from '@pebble/formats/images';
import { webCodec } from '@pebble/formats/web';
import { packIds, packMask, packSurface } from '@pebble/stage/textures';
import type { Library, PixelReader } from '@pebble/usecases';
import { asRole, evaluateSquare, flipGreen, gather, packedSize, placeBlend, rolesOf, showsSmaller, sourcesOf } from '@pebble/usecases';
import { bytesOf } from './blob';
import { stageImage, stageImages } from './stage-images';
import { litTile } from './lit';
import { partsOf, picture, shownMap } from './pictures';
import type { ComputeRequests, FilePreview, StageMaps } from './protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

type Handler<K extends keyof ComputeRequests> = Handlers<ComputeRequests>[K];

const pack: Handler<'pack'> = async ({ maps, size }) => {
  const packed: PackedSurface = packSurface(await stageImages(maps), size);
  const transfer = [...packed.colour, ...packed.shape, ...packed.height, ...packed.rare, ...(packed.glow ?? [])].map(
    (l) => l.data.buffer as ArrayBuffer,
  );
  return { result: packed, transfer: [...new Set(transfer)] };
};

/** Pixels of painted masks, which tells one what side all of them are shown at. */
const shapes = new Recent<string, Promise<{ width: number; height: number }>>(64);
const shapeOf = (hash: string) => shapes.of(hash, async () => probeImage(await bytesOf(hash)));

const mask: Handler<'mask'> = async (args) => {
  const image = 'painted' in args ? await webCodec.decode(await bytesOf(args.painted), 'data') : await stageImage(args.role, args.stage);
  const channel = 'painted' in args ? 0 : args.channel;
  const all = 'painted' in args ? [image, ...(await Promise.all(args.beside.map(shapeOf)))] : [];
  const size = 'painted' in args ? Math.max(...all.map((one) => followedSide(one, args.size, args.most))) : args.size;
  const packed = channel === null ? packIds(image, size) : packMask(image, channel, size);
  return { result: { ...packed, width: image.width, height: image.height }, transfer: packed.levels.map((l) => l.data.buffer as ArrayBuffer) };
};

const tried: Handler<'tried'> = async ({ role, stage, opacity }) => {
  const image = convertDepth(await stageImage(role, stage), 8);
  const { width, height, channels } = image;
  const through = opacity && convertDepth(resize(await stageImage('opacity', opacity), width, height), 8);
  const data = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) data[i * 4 + c] = image.data[i * channels + (channels < 3 ? 0 : c)];
    data[i * 4 + 3] = through ? through.data[i * through.channels] : 255;
  }
  return { result: { width, height, data, srgb: image.colourSpace === 'srgb' }, transfer: [data.buffer] };
};

/** Side of what the light is worked out from: its widest lobes see no more. */
const SKY_SIDE = 512;
const sky: Handler<'sky'> = async ({ role, stage }) => {
  const image = await stageImage(role, stage);
  const small = resize(image, Math.min(image.width, SKY_SIDE), Math.min(image.height, SKY_SIDE / 2));
  const light = computeLight({ sky: picturedSky(small), key: NO_KEY }, 128, 64, 96);
  return { result: light, transfer: [light.map.buffer as ArrayBuffer] };
};

const ids: Handler<'ids'> = async ({ stage, tolerance }) => ({ result: idColours(await stageImage('id', stage), tolerance), transfer: [] });

const repeats: Handler<'repeats'> = async ({ layer, surfaces, distanceM }) => {
  const [body] = Object.values(surfaces);
  const blend = laidAlone(layer, measuredWidth(body.sizeM * layer.look.scale, distanceM));
  const placed = await placeBlend({ blobs: { get: bytesOf } }, blend, { surfaces }, ['baseColor'], null);
  // The coarse pixels have all that is seen from there.
  const coarse = (stage: StagePixels): StagePixels => ({ ...stage, ...stage.coarse });
  const reader: PixelReader = {
    maps: async (id, wanted) =>
      stageImages(Object.fromEntries(Object.entries(stageOf(surfaces[id], wanted)).map(([role, stage]) => [role, coarse(stage)]))),
    painted: async () => Promise.reject(new Error('A surface by itself has no mask')),
  };
  const from = await gather(placed.material, reader, ['baseColor'], () => undefined);
  const far = showsSmaller(placed.material, from, REPETITION_SIDE);
  return { result: repetitionAsLaid(placed.material, sourcesOf(from, far), distanceM, far), transfer: [] };
};

const show: Handler<'show'> = async ({ role, stage, full, normalDirection }) => {
  const image = full
    ? asRole(await webCodec.decode(await bytesOf(full), ROLE_FACTS[role].colourSpace), role, normalDirection)
    : await stageImage(role, stage);
  const result = await shownMap(image);
  return { result, transfer: partsOf(result) };
};

const lit: Handler<'lit'> = async ({ maps, facts, size }) => {
  const result = await litTile(await stageImages(maps), facts, size);
  return { result, transfer: [result.lit] };
};

const stageOf = (surface: SurfaceDocument, roles: readonly Role[]): StageMaps =>
  Object.fromEntries(roles.flatMap((role) => (surface.maps[role] ? [[role, surface.maps[role].stage]] : [])));

/** The last maps that were made for previews: routing one channel after another reads the same ones. */
const memory = new Recent<string, Promise<MapSet>>(8);

function previewMaps({ source, surfaces, blends, specimens, size, place }: ComputeRequests['preview']['args'], roles: Role[]): Promise<MapSet> {
  const key = JSON.stringify([source, surfaces, blends, specimens, roles, size, place]);
  return memory.of(key, () => makePreviewMaps(source, { surfaces, blends, specimens }, { size, roles, place }));
}

async function makePreviewMaps(
  source: ComputeRequests['preview']['args']['source'],
  { surfaces, blends, specimens }: Library,
  { size, roles, place }: { size: number; roles: Role[]; place: MeshPlace | null },
): Promise<MapSet> {
  if (source.kind === 'surface') {
    const maps = await stageImages(stageOf(source, roles));
    const { width, height } = packedSize(source, size);
    return Object.fromEntries(Object.entries(maps).map(([role, image]) => [role, resize(image, width, height)]));
  }
  const small = (image: Image) => resize(image, Math.min(image.width, size), Math.min(image.height, size));
  const reader: PixelReader = {
    maps: async (id, wanted) =>
      Object.fromEntries(
        Object.entries(await stageImages(stageOf(surfaces[id], wanted))).map(([role, image]) => [role, role === 'id' ? image : small(image)]),
      ),
    painted: async (blob) => small(await webCodec.decode(await bytesOf(blob), 'data')),
  };
  const model = async (bytes: Uint8Array) => (await (await import('@pebble/formats/mesh')).readGltf(bytes)).model;
  const wanted = roles.filter(isMaterialRole);
  const placed = await placeBlend({ blobs: { get: bytesOf }, model }, source, { surfaces, blends, specimens }, wanted, place);
  return evaluateSquare({}, placed, await gather(placed.material, reader, roles, () => undefined), size, wanted, () => undefined);
}

async function packedFor(args: ComputeRequests['preview']['args']): Promise<Image> {
  const maps = { ...(await previewMaps(args, rolesOf(args.file))) };
  if (maps.normal && args.exportNormal === 'y-') maps.normal = flipGreen(maps.normal);
  return packChannels(
    withNeutral(args.file.channels, (role) => maps[role] !== undefined),
    maps,
    { ...packedSize(args.source, args.size), depth: args.file.depth, dither: args.file.dither },
  );
}
async function weightOf(packed: Image): Promise<PictureWeight> {
  const half = resize(packed, packed.width >> 1, packed.height >> 1);
  const [bytes, ofHalf] = await Promise.all([packed, half].map(async (image) => (await webCodec.encode(image)).length));
  return { size: Math.sqrt(packed.width * packed.height), bytes, half: ofHalf };
}

const preview: Handler<'preview'> = async (args) => {
  const packed = await packedFor(args);
  const names = (['r', 'g', 'b', 'a'] as const).slice(0, packed.channels);
  const channels = await Promise.all(names.map(async (name, i) => ({ name, picture: await picture(extractChannel(packed, i)) })));
  const result: FilePreview = { picture: await picture(packed), channels, weight: await weightOf(packed) };
  return { result, transfer: [result.picture, ...channels.map((c) => c.picture)] };
};

const weigh: Handler<'weigh'> = async (args) => ({ result: await weightOf(await packedFor(args)), transfer: [] });

serve<ComputeRequests>({ pack, mask, tried, sky, ids, show, lit, preview, weigh, repeats });
