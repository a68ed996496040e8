/// <reference lib="webworker" />
import type { BlendRole, Image, MapSet, PackedSurface, Role, StagePixels, SurfaceDocument } from '@pebble/core';
import { ROLE_FACTS, extractChannel, makeImage, packChannels, resize } from '@pebble/core';
import { webCodec } from '@pebble/formats/web';
import { packSurface } from '@pebble/stage/textures';
import { asRole, evaluateStack, flipGreen, rolesOf, stackOf } from '@pebble/usecases';
import { litTile } from './lit';
import { picture, shownMap } from './pictures';
import type { ComputeRequests, FilePreview, StageMaps } from './protocol';

type Handler<K extends keyof ComputeRequests> = (
  args: ComputeRequests[K]['args'],
) => Promise<{ result: ComputeRequests[K]['result']; transfer: Transferable[] }>;

async function bytesOf(hash: string): Promise<Uint8Array<ArrayBuffer>> {
  const response = await fetch(`/api/blobs/${hash}`);
  if (!response.ok) throw new Error(`The pixels could not be fetched (${response.status}). Reload the page`);
  return new Uint8Array(await response.arrayBuffer());
}

async function stageImage(role: Role, stage: StagePixels): Promise<Image> {
  const bytes = await bytesOf(stage.blob);
  const data = stage.depth === 8 ? bytes : new Uint16Array(bytes.buffer);
  return makeImage({ ...stage, colourSpace: ROLE_FACTS[role].colourSpace, data });
}

async function stageImages(maps: StageMaps): Promise<MapSet> {
  const entries = Object.entries(maps) as [Role, StagePixels][];
  return Object.fromEntries(await Promise.all(entries.map(async ([role, stage]) => [role, await stageImage(role, stage)] as const)));
}

const pack: Handler<'pack'> = async ({ maps, size }) => {
  const packed: PackedSurface = packSurface(await stageImages(maps), size);
  const transfer = [...packed.colour, ...packed.shape, ...packed.height, ...packed.rare].map((l) => l.data.buffer as ArrayBuffer);
  return { result: packed, transfer: [...new Set(transfer)] };
};

const show: Handler<'show'> = async ({ role, stage, full, normalDirection }) => {
  const image = full
    ? asRole(await webCodec.decode(await bytesOf(full), ROLE_FACTS[role].colourSpace), role, normalDirection)
    : await stageImage(role, stage);
  const result = await shownMap(image);
  return { result, transfer: [result.picture, image.data.buffer as ArrayBuffer] };
};

const lit: Handler<'lit'> = async ({ maps, facts, size }) => {
  const result = await litTile(await stageImages(maps), facts, size);
  return { result, transfer: [result.lit] };
};

const stageOf = (surface: SurfaceDocument, roles: readonly Role[]): StageMaps =>
  Object.fromEntries(roles.flatMap((role) => (surface.maps[role] ? [[role, surface.maps[role].stage]] : [])));

/** The last maps that were made for previews: routing one channel after another reads the same ones. */
const memory = new Map<string, Promise<MapSet>>();

function previewMaps({ source, surfaces, size }: ComputeRequests['preview']['args'], roles: Role[]): Promise<MapSet> {
  const key = JSON.stringify([source, source.kind === 'blend' ? Object.values(source.layers).map((l) => surfaces[l.surface]?.maps) : 0, roles, size]);
  let made = memory.get(key);
  if (!made) {
    made = makePreviewMaps(source, surfaces, size, roles);
    memory.set(key, made);
    made.catch(() => memory.delete(key));
    if (memory.size > 8) memory.delete(memory.keys().next().value as string);
  }
  return made;
}

async function makePreviewMaps(
  source: ComputeRequests['preview']['args']['source'],
  surfaces: Record<string, SurfaceDocument>,
  size: number,
  roles: Role[],
): Promise<MapSet> {
  if (source.kind === 'surface') {
    const maps = await stageImages(stageOf(source, roles));
    return Object.fromEntries(Object.entries(maps).map(([role, image]) => [role, resize(image, size, size)]));
  }
  const stack = stackOf(source, surfaces);
  const wanted: Role[] = [...new Set<Role>(['height', ...roles])];
  const slots: MapSet[] = [];
  for (const id of stack.slots) {
    const maps = await stageImages(stageOf(surfaces[id], wanted));
    slots.push(
      Object.fromEntries(
        Object.entries(maps).map(([role, image]) => [role, resize(image, Math.min(image.width, size), Math.min(image.height, size))]),
      ),
    );
  }
  return evaluateStack(stack, slots, size, roles as BlendRole[], () => undefined);
}

const preview: Handler<'preview'> = async (args) => {
  const maps = { ...(await previewMaps(args, rolesOf(args.file))) };
  if (maps.normal && args.exportNormal === 'y-') maps.normal = flipGreen(maps.normal);
  const packed = packChannels(args.file.channels, maps, { width: args.size, height: args.size, depth: args.file.depth });
  const names = (['r', 'g', 'b', 'a'] as const).slice(0, packed.channels);
  const channels = await Promise.all(names.map(async (name, i) => ({ name, picture: await picture(extractChannel(packed, i)) })));
  const result: FilePreview = { picture: await picture(packed), channels, bytes: (await webCodec.encodePng(packed)).length, size: args.size };
  return { result, transfer: [result.picture, ...channels.map((c) => c.picture)] };
};

const HANDLERS: { [K in keyof ComputeRequests]: Handler<K> } = { pack, show, lit, preview };

addEventListener('message', ({ data }: MessageEvent<{ id: number; kind: keyof ComputeRequests; args: never }>) => {
  HANDLERS[data.kind](data.args).then(
    ({ result, transfer }) => postMessage({ id: data.id, result }, { transfer }),
    (error: Error) => postMessage({ id: data.id, error: error.message }),
  );
});
