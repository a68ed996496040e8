// How each file of a delivery is made: bytes, and the levels that it was made of, which a proof asks for again.
import type { Image, MapSet, OutputChannel, RecipeFile, Role } from '@pebble/core';
import {
  FLAT_GROUND,
  MasterMaterials,
  OUTPUT_CHANNELS,
  SectionCutter,
  SpreadGround,
  factsWanted,
  makeImage,
  materialReads,
  nameSlug,
  packChannels,
  permutationsOf,
  inOrder,
  readWhole,
  readsOf,
  withNeutral,
  writtenShader,
} from '@pebble/core';
import type { GlbMaterial } from '@pebble/formats/mesh';
import { writeGlb } from '@pebble/formats/mesh';
import { evaluateBlendDocument, gather, libraryOf, placeBlend, readerOf } from '../blends';
import { UseCaseError } from '../errors';
import { gltfMaterial, isUniversal } from '../finished';
import { sourcesOf } from '../ingredients';
import { loadMap } from '../maps';
import { groundOn, terrainField } from '../ground';
import type { TerrainFile } from '../terrain';
import { heightPicture, weightPictures } from '../terrain';
import { materialXOf } from '../materialx';
import { placedMesh } from '../on-mesh';
import type { InTarget, OpenMaps } from '../packed-file';
import { AS_PNG, encodePacked, levelsOf, readBeside, rolesIn, wholeRole } from '../packed-file';
import { availableRoles, inDirection, openSource } from '../packing';
import type { Ports, Report } from '../ports';
import type { OpenAsset } from './assets';
import { openAsset, slotMaps } from './assets';
import type { DeliveredSlot, Documents, Slots } from './slots';
import { contextOf } from './slots';
import type { Making, PlannedOutput, SlotTexture } from './plan';
import { terrainStem } from './plan';

/** Levels as they are before they are written, and what their channels hold. */
export interface Authored {
  levels: Image[];
  channels: RecipeFile['channels'];
}

/** Texels up to which a packed file is held as a whole: with it threads share the work. */
const WHOLE_TEXELS = 4096 ** 2;
/** Whether it is a packed file of such a size. */
export const isPackedWhole = (making: Making): boolean => making.by === 'recipe' && making.file.width * making.file.height <= WHOLE_TEXELS;
function joined(pieces: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((n, p) => n + p.length, 0));
  pieces.reduce((at, piece) => (out.set(piece, at), at + piece.length), 0);
  return out;
}

/** One picture of a slot, among those of other slots and sizes. */
const slotKey = (assetId: string, { slot, laid }: DeliveredSlot, { width, height }: Size): string =>
  [assetId, slot, laid.variant ?? '', width, height].join('/');
type Size = Pick<SlotTexture, 'width' | 'height'>;

type Of<B extends Making['by']> = Extract<Making, { by: B }>;

/**
 * Makes files of one delivery. Maps of one slot, meshes of one asset and maps of one source are worked out once while they are
 * asked for in a row; of a slot that is done its pictures are kept as files, until its asset is.
 */
export class Maker {
  private asset: { id: string; open: Promise<OpenAsset> } | null = null;
  private worn: { key: string; maps: Promise<MapSet> } | null = null;
  private readonly looks = new Map<string, GlbMaterial>();
  private source: { key: string; maps: Promise<(roles: readonly Role[]) => Promise<OpenMaps>> } | null = null;

  constructor(
    private readonly ports: Ports,
    private readonly all: Documents,
    private readonly slots: Slots,
    private readonly exportNormal: 'y+' | 'y-',
  ) {}

  /** A file that holds no texels of its own but those that it carries. */
  async whole({ making }: PlannedOutput, report: Report): Promise<Uint8Array> {
    if (making.by === 'asset') return this.model(making, report);
    if (making.by === 'copy') return this.ports.blobs.get(making.blob);
    if (making.by === 'terrain-table') return new TextEncoder().encode(await this.terrainTable(making, report));
    return new TextEncoder().encode(this.master(making as Of<'master'>));
  }

  /** Texels of a file as they are before they are written; null for what holds none of its own. */
  async authored({ making, target }: PlannedOutput, report: Report): Promise<Authored | null> {
    switch (making.by) {
      case 'slot':
        return { levels: await this.slotLevels(making.assetId, making.texture, report), channels: making.texture.kept };
      case 'recipe':
        return this.packed(making, target, report);
      case 'map':
        return this.map(making);
      case 'height':
        return this.height(making, report);
      case 'weights':
        return this.weights(making, report);
      case 'heights':
        return { levels: [await this.terrainHeights(making.specimenId)], channels: wholeRole('height') };
      case 'ground':
        return this.groundWeights(making, report);
      default:
        return null;
    }
  }

  /** What a texture of a slot holds, level by level. */
  private async slotLevels(assetId: string, texture: SlotTexture, report: Report): Promise<Image[]> {
    const { kept, width, height, way } = texture;
    const maps = await this.slotMaps(assetId, texture, report);
    // While its maps are here: a model comes after all of its slots.
    await this.look(assetId, texture, report);
    return levelsOf(kept, maps, { width, height, depth: 8 }, way);
  }

  /** Maps of a slot at the size of a texture. */
  private slotMaps(assetId: string, { asset, of, width, height }: SlotTexture, report: Report): Promise<MapSet> {
    const key = slotKey(assetId, of, { width, height });
    if (this.worn?.key === key) return this.worn.maps;
    const make = async (): Promise<MapSet> => {
      const open = await this.open(assetId, asset, report);
      return slotMaps(this.ports, this.slots, { asset, all: this.all, open, of, width, height }, report);
    };
    this.worn = { key, maps: make() };
    return this.worn.maps;
  }

  /** What a slot looks like in a model: with its textures as one target keeps them. */
  private async look(assetId: string, texture: SlotTexture, report: Report): Promise<GlbMaterial> {
    const { of, ways } = texture;
    const universal = [...ways].filter(([, way]) => isUniversal(way));
    const key = `${slotKey(assetId, of, texture)} ${JSON.stringify(universal)}`;
    const known = this.looks.get(key);
    if (known) return known;
    const open = await this.open(assetId, texture.asset, report);
    const maps = await this.slotMaps(assetId, texture, report);
    const variant = of.laid.variant ? `_${nameSlug(of.called)}` : '';
    const made = await gltfMaterial(this.ports, `${nameSlug(of.slot)}${variant}`, maps, {
      set: open.page ?? of.laid.uvSet,
      drawn: of.drawn,
      scale: of.finished ? 1 / of.laid.size : 1,
      way: (use) => ways.get(use) ?? null,
    });
    this.looks.set(key, made);
    return made;
  }

  private open(id: string, asset: SlotTexture['asset'], report: Report): Promise<OpenAsset> {
    if (this.asset?.id !== id) {
      this.asset = { id, open: openAsset(this.ports, asset, this.all, report) };
      this.looks.clear();
    }
    return this.asset.open;
  }

  private async model({ assetId, asset, textures }: Of<'asset'>, report: Report): Promise<Uint8Array> {
    const open = await this.open(assetId, asset, report);
    const given = new Map<string, GlbMaterial>();
    const worn = [...new Map(textures.map((t) => [t.of.slot, t.of])).values()];
    for (const [i, of] of worn.entries()) {
      const step: Report = (done, note) => report((i + done) / worn.length, note);
      // Every texture at the size of the largest of its slot.
      const largest = textures.filter((t) => t.of === of).reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a));
      const look = await this.look(assetId, largest, step);
      const variants = new Map<string, GlbMaterial>();
      for (const { name, of: other } of asset.variants ? this.slots.variantsOf(asset, of) : [])
        variants.set(name, await this.look(assetId, { ...largest, of: other }, step));
      given.set(of.slot, variants.size ? { ...look, variants } : look);
    }
    return writeGlb(nameSlug(asset.name), open.model, given, open.frame);
  }

  /** A packed file that is too large to be held as a whole, a few rows at a time; null for others, and for kinds that have levels. */
  async streamed({ making, target }: PlannedOutput, report: Report): Promise<Uint8Array | null> {
    if (making.by !== 'recipe' || isPackedWhole(making) || making.file.way.as !== 'png') return null;
    const { open, channels, roles } = await this.opened(making, target, report);
    const pieces: Uint8Array[] = [];
    for await (const piece of encodePacked(this.ports, channels, async () => inDirection(await open(roles), this.exportNormal), making.file, AS_PNG))
      pieces.push(piece);
    return joined(pieces);
  }

  /** What a packed file is made from, opened. */
  private async opened({ file, channels: routed }: Of<'recipe'>, target: InTarget | null, report: Report) {
    const source = this.all[file.sourceId];
    if (source?.kind !== 'surface' && source?.kind !== 'blend')
      throw new UseCaseError('missing-surface', `${file.name}: what it packs was deleted`, file.name);
    const have = availableRoles(source, this.all);
    const channels = withNeutral(routed, (role) => have.includes(role));
    const roles = [...rolesIn(channels), ...readBeside(channels, file.way)];
    const size = Math.max(file.width, file.height);
    const key = JSON.stringify([file.sourceId, file.place, size, target?.id]);
    if (this.source?.key !== key) {
      this.source = { key, maps: openSource(this.ports, source, libraryOf(this.all), { size, roles: have, place: file.place }, report) };
    }
    return { open: await this.source.maps, channels, roles };
  }

  private async packed(making: Of<'recipe'>, target: InTarget | null, report: Report): Promise<Authored | null> {
    const { file } = making;
    const { open, channels, roles } = await this.opened(making, target, report);
    const maps = inDirection(await open(roles), this.exportNormal);
    const whole: MapSet = {};
    for (const [role, map] of Object.entries(maps)) {
      whole[role as keyof MapSet] = await readWhole(map);
      await map.close();
    }
    return { levels: levelsOf(channels, whole, file, file.way), channels };
  }

  private master({ masterId, master, as }: Of<'master'>): string {
    const context = contextOf(this.all);
    const { error } = new MasterMaterials().lowering(master, context);
    if (error) throw new UseCaseError('graph', `${master.name}: ${error.message}`, masterId);
    if (as === 'mtlx') return `${materialXOf(master, context)}\n`;
    const { fragment, vertex, uniforms, textures, inputs, outputs } = writtenShader(master, context);
    if (as !== 'table') return `${as === 'fragment' ? fragment : vertex}\n`;
    const variants = inOrder(master.variants).map(({ name, values, switches }) => ({ name, values, switches }));
    const { count } = permutationsOf(master);
    return `${JSON.stringify({ name: master.name, permutations: count, loopS: master.loopS, drawn: master.drawn, outputs, inputs, uniforms, textures, variants }, null, 2)}\n`;
  }

  private async map({ surfaceId, role }: Of<'map'>): Promise<Authored> {
    const surface = this.all[surfaceId];
    const entry = surface?.kind === 'surface' ? surface.maps[role] : undefined;
    if (!entry) throw new UseCaseError('missing-map', `The ${role} map that a master reads was deleted before it could be delivered`, surfaceId);
    const image = await loadMap(this.ports, entry, role);
    // Alpha beside a colour is a map of its own.
    return {
      levels: [image.channels > 3 ? packChannels(wholeRole(role), { [role]: image }, { ...image, depth: image.depth === 8 ? 8 : 16 }) : image],
      channels: wholeRole(role),
    };
  }

  private specimen(id: string) {
    const specimen = this.all[id];
    if (specimen?.kind !== 'specimen' || !specimen.terrain)
      throw new UseCaseError('missing-specimen', 'This terrain was deleted before it could be delivered', id);
    return { specimen, terrain: specimen.terrain };
  }
  private async terrainHeights(id: string): Promise<Image> {
    const { specimen, terrain } = this.specimen(id);
    return heightPicture(await terrainField(this.ports, specimen), terrain).image;
  }
  /** A ground on its terrain, worked out once for all of its files. */
  private laid(specimenId: string, blendId: string, report: Report) {
    const key = `${specimenId} ${blendId}`;
    if (this.ground?.key !== key) {
      const library = libraryOf(this.all);
      const blend = this.blend(blendId);
      const { specimen } = this.specimen(specimenId);
      const made = groundOn(this.ports, specimen, blend, library, readerOf(this.ports, library), (done) => report(done, blend.name));
      this.ground = { key, made };
    }
    return this.ground.made;
  }
  private ground: { key: string; made: ReturnType<typeof groundOn> } | null = null;
  private stem = (specimenId: string, blendId: string): string => terrainStem(this.specimen(specimenId).specimen.name, this.blend(blendId).name);
  private async groundWeights({ specimenId, blendId, part }: Of<'ground'>, report: Report): Promise<Authored> {
    const { weights, names } = await this.laid(specimenId, blendId, report);
    const { image } = weightPictures(weights, names).pictures[part];
    return { levels: [image], channels: maskChannels(image.channels) };
  }
  private async terrainTable({ specimenId, blendId, as }: Of<'terrain-table'>, report: Report): Promise<string> {
    const stem = this.stem(specimenId, blendId);
    const json = (of: object) => `${JSON.stringify(of, null, 2)}\n`;
    if (as === 'terrain') {
      const { specimen, terrain } = this.specimen(specimenId);
      const { acrossM, rangeM, footM } = terrain;
      return json({ kind: 'terrain', version: 1, name: specimen.name, heights: `${stem}_height.png`, acrossM, rangeM, footM } satisfies TerrainFile);
    }
    const { weights, names, tiles } = await this.laid(specimenId, blendId, report);
    return json(as === 'tiles' ? tiles : weightPictures(weights, names, `${stem}_`).table);
  }

  private blend(id: string) {
    const blend = this.all[id];
    if (blend?.kind !== 'blend') throw new UseCaseError('missing-blend', 'This blend was deleted before it could be delivered', id);
    return blend;
  }

  private async height({ blendId, side }: Of<'height'>, report: Report): Promise<Authored | null> {
    const { maps } = await evaluateBlendDocument(this.ports, this.blend(blendId), libraryOf(this.all), { size: side, roles: ['height'] }, report);
    return { levels: [maps.height as Image], channels: wholeRole('height') };
  }

  /** What each layer has of what is seen: four layers a file, one a channel; all of them sum to 1. */
  private async weights({ blendId, part, side }: Of<'weights'>, report: Report): Promise<Authored | null> {
    const blend = this.blend(blendId);
    const library = libraryOf(this.all);
    const placed = await placeBlend(this.ports, blend, library, ['height']);
    const { material, on } = placed;
    const from = await gather(material, readerOf(this.ports, library), ['height'], (done) => report(0.3 * done, blend.name));
    const ground = on ? new SpreadGround(placedMesh(on, factsWanted(materialReads(material, ['height'])), () => undefined)) : FLAT_GROUND;
    const sources = sourcesOf(from, readsOf(material.near.outputs).levels);
    const cutter = new SectionCutter();
    const shown = material.layers.slice(part * 4, part * 4 + 4);
    const channels = shown.length === 4 ? 4 : 3;
    const image = makeImage({ width: side, height: side, channels, depth: 8 });
    for (let y = 0; y < side; y++) {
      const v = (y + 0.5) / side;
      const { layers } = cutter.cut(material, { ax: 0, ay: v, bx: 1, by: v }, sources, side, ground);
      shown.forEach((_, c) => {
        const { share } = layers[part * 4 + c];
        for (let x = 0; x < side; x++) image.data[(y * side + x) * channels + c] = Math.round(255 * share[x]);
      });
      if (!(y & 15)) report(0.3 + (0.7 * y) / side, blend.name);
    }
    return { levels: [image], channels: maskChannels(channels) };
  }
}

/** Channels that hold a mask each. */
const maskChannels = (count: number): SlotTexture['kept'] =>
  Object.fromEntries(
    OUTPUT_CHANNELS.slice(0, count).map((c: OutputChannel, i) => [c, { from: 'map', role: 'mask', channel: i, invert: false }]),
  ) as SlotTexture['kept'];
