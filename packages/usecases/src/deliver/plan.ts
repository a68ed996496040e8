// What a delivery will write, file by file, before any pixel is worked out.
import type {
  AssetDocument,
  BlendDocument,
  BundleKind,
  BundleTexture,
  MasterDocument,
  Material,
  ProjectDocument,
  RecipeFile,
  Role,
} from '@pebble/core';
import {
  LAYERS_A_FILE,
  MAX_TERRAIN_LAYERS,
  collisions,
  fitWithin,
  inOrder,
  isColourFile,
  layoutText,
  makeStack,
  mipCount,
  nameSlug,
  pathProblem,
  runtimeMap,
} from '@pebble/core';
import type { GlbTextureUse } from '@pebble/formats/mesh';
import { blendSurfaces, libraryOf } from '../blends';
import { UseCaseError } from '../errors';
import type { FinishedUse } from '../finished-uses';
import { finishedUses } from '../finished-uses';
import { masterPictures } from '../materialx';
import type { InTarget } from '../packed-file';
import { AS_PNG, holdsDirections, keptIn, wholeRole } from '../packed-file';
import type { FileWay } from '../ports';
import type { PlannedFile } from '../packing';
import { planRecipe, targetAmong } from '../packing';
import type { DeliveredSlot, Documents } from './slots';
import { Slots } from './slots';

export interface DeliveryRequest {
  /** Ids of targets; at least one. */
  targets: readonly string[];
  /** Paths that are not to be written. */
  skip?: readonly string[];
}

/** A texture that a slot wears in a target. */
export interface SlotTexture {
  asset: AssetDocument;
  of: DeliveredSlot;
  use: GlbTextureUse;
  /** As they are kept in blocks, which may hold fewer channels than glTF's own picture. */
  kept: RecipeFile['channels'];
  width: number;
  height: number;
  way: FileWay;
  /** How all textures of its slot are kept in the target. */
  ways: ReadonlyMap<GlbTextureUse, FileWay>;
}

/** How a planned file is made. */
export type Making =
  | { by: 'slot'; assetId: string; texture: SlotTexture }
  | { by: 'asset'; assetId: string; asset: AssetDocument; textures: SlotTexture[] }
  | { by: 'recipe'; recipeId: string; file: PlannedFile; channels: RecipeFile['channels'] }
  | { by: 'master'; masterId: string; master: MasterDocument; as: MasterFile }
  | { by: 'map'; surfaceId: string; role: Role }
  | { by: 'height'; blendId: string; side: number }
  | { by: 'weights'; blendId: string; part: number; side: number }
  | { by: 'heights'; specimenId: string }
  | { by: 'ground'; specimenId: string; blendId: string; part: number }
  | { by: 'terrain-table'; specimenId: string; blendId: string; as: TerrainTable }
  | { by: 'copy'; blob: string };

/** Tables beside a terrain: what its heights mean, which layer lies in which channel, and what its tiles draw. */
export const TERRAIN_TABLES = { terrain: '', weights: '_weights', tiles: '_tiles' } as const;
export type TerrainTable = keyof typeof TERRAIN_TABLES;
/** What files of a terrain are called before their own words. */
export const terrainStem = (terrain: string, ground: string): string => `${nameSlug(terrain)}_${nameSlug(ground)}`;

/** Ways in which a master is written, and what each is. */
export const MASTER_FILES = {
  mtlx: { ending: 'mtlx', kind: 'material' },
  fragment: { ending: 'frag.glsl', kind: 'shader' },
  vertex: { ending: 'vert.glsl', kind: 'shader' },
  table: { ending: 'json', kind: 'table' },
} as const satisfies Record<string, { ending: string; kind: BundleKind }>;
export type MasterFile = keyof typeof MASTER_FILES;

export interface PlannedOutput {
  path: string;
  kind: BundleKind;
  /** Null for what is the same in all targets. */
  target: InTarget | null;
  /** Ids of the documents that it is made from. */
  from: string[];
  /** Bytes that it may take, roughly. */
  about: number;
  making: Making;
  texture?: BundleTexture;
  note: string | null;
  problem: string | null;
}

export interface DeliveryPlan {
  project: ProjectDocument;
  targets: InTarget[];
  outputs: PlannedOutput[];
}

/** Bytes a texel of PNG that pictures of surfaces take, roughly, a channel. */
const PNG_SHARE = 0.6;

/** The project and the targets that are asked for. @throws UseCaseError naming one that is not there */
export function targetsOf(all: Documents, { targets }: DeliveryRequest): { project: ProjectDocument; targets: InTarget[] } {
  const project = Object.values(all).find((d): d is ProjectDocument => d.kind === 'project');
  if (!project) throw new UseCaseError('bad-project', 'There is no project to deliver');
  const ids = [...new Set(targets)];
  if (!ids.length) throw new UseCaseError('bad-plan', 'Choose at least one target to deliver for');
  const found = ids.map((id) => {
    const target = targetAmong(all, id);
    if (target) return target;
    const known = Object.entries(all).flatMap(([key, d]) => (d.kind === 'target' ? [key] : []));
    throw new UseCaseError('bad-plan', `There is no target ${id}; there are ${known.join(', ')}`, id);
  });
  return { project, targets: found };
}

/** What a slot's texture is kept as in a target: its size, its blocks, its channels. */
export function slotTexture(
  asset: AssetDocument,
  of: DeliveredSlot,
  { use, channels, roles }: FinishedUse,
  side: number,
  target: InTarget,
): Omit<SlotTexture, 'ways'> {
  const { finished } = of;
  const own = finished ? roles.flatMap((role) => finished.maps[role] ?? []) : [];
  const wanted = own.reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a), own.at(0) ?? { width: side, height: side });
  const size = finished && !of.laid.side ? { width: wanted.width, height: wanted.height } : fitWithin(wanted.width, wanted.height, side);
  // Of directions two channels are enough where blocks hold two.
  const two: RecipeFile['channels'] = { r: channels.r, g: channels.g };
  const direct = holdsDirections(channels) && ['BC5', 'UASTC'].includes(keptIn(finished ?? undefined, two, size, target).block);
  const kept = direct ? two : channels;
  const { block, width, height, mips } = keptIn(finished ?? undefined, kept, size, target);
  return { asset, of, use, kept, width, height, way: { as: 'ktx2', block, mips } };
}

const roughly = (width: number, height: number, channels: number): number => Math.round(width * height * channels * PNG_SHARE);

/** What a texture of channels is told as in the manifest. */
export function textureFacts(
  channels: RecipeFile['channels'],
  size: { width: number; height: number },
  way: FileWay,
  depth: 8 | 16,
  green: 'y+' | 'y-',
): BundleTexture {
  const { width, height } = size;
  const roles = Object.values(channels).flatMap((r) => (r.from === 'map' ? [r.role] : []));
  const format = (
    {
      plain: depth === 16 ? 'RGBA16' : 'RGBA8',
      UASTC: 'ASTC_4x4',
      ETC1S: 'ETC2_RGBA',
      BC1: 'BC1',
      BC3: 'BC3',
      BC4: 'BC4',
      BC5: 'BC5',
      BC7: 'BC7',
    } as const
  )[way.block];
  const { bytes } = runtimeMap(width, height, {
    format,
    mips: way.mips,
    maxSize: 65536,
    dropMips: 0,
    wrap: 'repeat',
    filter: 'trilinear',
    streaming: false,
  });
  return {
    file: way.as,
    kept: way.block,
    width,
    height,
    levels: way.mips ? mipCount(width, height) : 1,
    depth,
    colourSpace: isColourFile(channels) ? 'srgb' : 'linear',
    channels: layoutText(channels),
    green: roles.includes('normal' as Role) ? green : null,
    runtimeBytes: bytes,
  };
}

/** Everything that a delivery writes, with what is wrong, before anything is made. @throws UseCaseError for a target that is not there */
export function planDelivery(all: Documents, request: DeliveryRequest, slots = new Slots(all)): DeliveryPlan {
  const { project, targets } = targetsOf(all, request);
  const of = <K extends Documents[string]['kind']>(kind: K) =>
    Object.entries(all)
      .flatMap(([id, body]) => (body.kind === kind ? [{ id, body: body as Extract<Documents[string], { kind: K }> }] : []))
      .sort((a, b) => (a.id < b.id ? -1 : 1));
  const outputs: PlannedOutput[] = [];
  for (const target of targets) {
    const folder = nameSlug(target.body.name);
    for (const { id, body: asset } of of('asset')) outputs.push(...assetOutputs(id, asset, slots, project, target, folder));
    for (const { id, body: recipe } of of('recipe')) {
      const size = Math.min(recipe.size, target.body.maxSize);
      for (const file of planRecipe({ ...recipe, size }, all, target)) {
        const { channels, depth } = recipe.files[file.fileId];
        outputs.push({
          path: `${folder}/packed/${file.name}`,
          kind: 'texture',
          target,
          from: [id, file.sourceId],
          about: roughly(file.width, file.height, file.channels),
          making: { by: 'recipe', recipeId: id, file, channels },
          texture: textureFacts(channels, file, file.way, depth, project.exportNormal),
          note: file.note,
          problem: file.problem,
        });
      }
    }
  }
  for (const { id, body: master } of of('master'))
    for (const [as, { ending, kind }] of Object.entries(MASTER_FILES) as [MasterFile, (typeof MASTER_FILES)[MasterFile]][])
      outputs.push({
        path: `masters/${nameSlug(master.name)}.${ending}`,
        kind,
        target: null,
        from: [id],
        about: 12_000,
        making: { by: 'master', masterId: id, master, as },
        note: null,
        problem: null,
      });
  outputs.push(
    ...masterMaps(
      of('master').flatMap(({ body }) => slots.master(body) ?? []),
      all,
    ),
  );
  const library = libraryOf(all);
  const known = blendSurfaces(library.surfaces);
  for (const { id, body: blend } of of('blend')) {
    const stem = `blends/${nameSlug(blend.name)}`;
    const side = project.exportSize;
    const layers = inOrder(blend.layers).filter((l) => l.on);
    const problem = layers.length ? null : `${blend.name} has no layer that is switched on`;
    const made = { target: null, from: [id], note: null, problem };
    outputs.push({ ...made, path: `${stem}_height.png`, kind: 'height', about: side * side, making: { by: 'height', blendId: id, side } });
    const painted = new Set(makeStack(blend, known, library.blends).masks.flatMap((m) => (m.kind === 'painted' ? [m.picture] : [])));
    for (const [i, blob] of [...painted].entries())
      outputs.push({ ...made, problem: null, path: `${stem}_mask_${i + 1}.png`, kind: 'mask', about: side * side, making: { by: 'copy', blob } });
    for (let part = 0; part * 4 < layers.length; part++)
      outputs.push({
        ...made,
        path: `${stem}_weights_${part + 1}.png`,
        kind: 'weights',
        about: side * side,
        making: { by: 'weights', blendId: id, part, side },
      });
    outputs.push(...terrainOutputs(id, blend, layers.length, all));
  }
  const skip = new Set(request.skip ?? []);
  const going = outputs.filter((o) => !skip.has(o.path));
  const twice = new Set(collisions(going.map((o) => o.path)));
  const checked = going.map((o) => ({
    ...o,
    problem:
      o.problem ??
      pathProblem(o.path) ??
      (twice.has(o.path.toLowerCase()) ? `two files would be called ${o.path}. Give one of them another name` : null),
  }));
  return { project, targets, outputs: checked };
}

/** The terrain that a blend lies on: its heights, its weights, and their tables. */
function terrainOutputs(id: string, blend: BlendDocument, layers: number, all: Documents): PlannedOutput[] {
  const specimen = all[blend.specimen];
  if (specimen?.kind !== 'specimen' || !specimen.terrain) return [];
  const [specimenId, stem] = [blend.specimen, `terrains/${terrainStem(specimen.name, blend.name)}`];
  const { width, height } = specimen.terrain;
  const tooMany =
    layers > MAX_TERRAIN_LAYERS ? `${blend.name} has ${layers} layers and a terrain stores ${MAX_TERRAIN_LAYERS}: switch some off` : null;
  const base = { target: null, from: [specimenId, id], note: null, problem: layers ? tooMany : `${blend.name} has no layer that is switched on` };
  const weights = Array.from({ length: Math.ceil(layers / LAYERS_A_FILE) }, (_, part): PlannedOutput => ({
    ...base,
    path: `${stem}_weights_${part + 1}.png`,
    kind: 'weights',
    about: width * height,
    making: { by: 'ground', specimenId, blendId: id, part },
  }));
  const tables = Object.entries(TERRAIN_TABLES).map(([as, words]): PlannedOutput => ({
    ...base,
    path: `${stem}${words}.json`,
    kind: 'table',
    about: 20_000,
    making: { by: 'terrain-table', specimenId, blendId: id, as: as as TerrainTable },
  }));
  return [
    { ...base, problem: null, path: `${stem}_height.png`, kind: 'height', about: width * height * 2, making: { by: 'heights', specimenId } },
    ...weights,
    ...tables,
  ];
}

/** The maps that masters look for beside them, each once. */
function masterMaps(masters: readonly Material[], all: Documents): PlannedOutput[] {
  const pictures = new Map(masters.flatMap(masterPictures).map((p) => [p.path, p]));
  return [...pictures.values()].flatMap((picture): PlannedOutput[] => {
    const base = { path: `masters/${picture.path}`, target: null, note: null, problem: null };
    if ('painted' in picture) return [{ ...base, kind: 'mask', from: [], about: 100_000, making: { by: 'copy', blob: picture.painted } }];
    const { surface: surfaceId, role } = picture;
    const surface = all[surfaceId];
    const entry = surface?.kind === 'surface' ? surface.maps[role] : undefined;
    if (!entry) return [];
    const channels = wholeRole(role);
    const texture = textureFacts(channels, entry, AS_PNG, entry.depth === 8 ? 8 : 16, 'y+');
    return [{ ...base, kind: 'texture', from: [surfaceId], about: entry.bytes, making: { by: 'map', surfaceId, role }, texture }];
  });
}

function assetOutputs(id: string, asset: AssetDocument, slots: Slots, project: ProjectDocument, target: InTarget, folder: string): PlannedOutput[] {
  const name = nameSlug(asset.name);
  let worn: DeliveredSlot[];
  try {
    worn = slots.of(asset);
  } catch (error) {
    if (!(error instanceof UseCaseError)) throw error;
    return [
      {
        path: `${folder}/${name}.glb`,
        kind: 'model',
        target,
        from: [id],
        about: 0,
        making: { by: 'asset', assetId: id, asset, textures: [] },
        note: null,
        problem: error.message,
      },
    ];
  }
  const textures = worn.flatMap((of) => {
    const side = Math.min(of.laid.side ?? project.exportSize, target.body.maxSize);
    const own = finishedUses((role) => (of.roles as readonly Role[]).includes(role)).map((use) => slotTexture(asset, of, use, side, target));
    const ways = new Map(own.map((t) => [t.use, t.way]));
    return own.map((t) => ({ ...t, ways }));
  });
  const from = [id, asset.specimen, ...worn.map((w) => w.laid.blend)];
  const model: PlannedOutput = {
    path: `${folder}/${name}.glb`,
    kind: 'model',
    target,
    from,
    about: textures.reduce((sum, t) => sum + roughly(t.width, t.height, 3), 0),
    making: { by: 'asset', assetId: id, asset, textures },
    note: worn.length ? null : `Nothing sits on the slots of ${asset.name}: its mesh is delivered plain`,
    problem: null,
  };
  return [
    model,
    ...textures.map((texture): PlannedOutput => {
      const facts = textureFacts(texture.kept, texture, texture.way, 8, 'y+');
      return {
        path: `${folder}/textures/${name}_${nameSlug(texture.of.slot)}_${texture.use.toLowerCase()}.ktx2`,
        kind: 'texture',
        target,
        from: [id, asset.specimen, texture.of.laid.blend],
        about: facts.runtimeBytes,
        making: { by: 'slot', assetId: id, texture },
        texture: facts,
        note: null,
        problem: null,
      };
    }),
  ];
}

/** Files of one source in a row, whatever target they are for, and a model after what its slots wear: what they share is worked out once. */
export function inMakingOrder<T extends { making: Making }>(outputs: readonly T[]): T[] {
  const rank = ({ making: m }: T): string =>
    m.by === 'slot'
      ? `0 ${m.assetId} 0 ${m.texture.of.slot} ${m.texture.width}`
      : m.by === 'asset'
        ? `0 ${m.assetId} 1`
        : m.by === 'recipe'
          ? `1 ${m.file.sourceId} ${JSON.stringify(m.file.place)} ${m.file.width}`
          : m.by === 'map'
            ? `2 ${m.surfaceId}`
            : '3';
  return outputs
    .map((output) => [rank(output), output] as const)
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([, output]) => output);
}
