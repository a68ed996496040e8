import { Injectable, inject, signal, untracked } from '@angular/core';
import type { CuePicture, MaterialSlots, PackedSet, PackedSurface, StagePixels as StoredPixels, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, MASK_SIDE, MAX_MASK_SIDE, followedSide, pictureKey, sameItems } from '@pebble/core';
import type { Keyed, KeyedSet, MaskRegion } from '@pebble/stage';
import { patchedPicture } from '@pebble/stage/textures';
import { ComputeService } from '../services/compute.service';
import { NoticesService } from '../services/notices.service';
import type { SizedPicture, StageMaps } from '../workers/protocol';
import { ByKey, Newest } from '../ui/latest';

/** Side of the stage's textures in pixels. */
const STAGE_SIDE = 1024;
/** Side of textures that are there sooner. */
const COARSE_SIDE = 256;
/** Surfaces of an offer that such are fetched of; twice as many are kept. */
const MAX_OFFERED = 24;
/** Milliseconds that a picture is given to be worked out from them before the machine is kept busy with the whole. */
const AHEAD_MS = 300;
/** Memory of the stage's textures past which they are made smaller. */
const STAGE_MEMORY = 192 * 2 ** 20;
const BYTES_A_TEXEL = (4 + 4 + 8 + 1) * (4 / 3);

/** Memory of masks past which they are made smaller, and of those that are kept beside, so that steps are undone at once. */
const MASK_MEMORY = 96 * 2 ** 20;
const maskBytes = (side: number): number => (side * side * 4) / 3;
/** Regions that wait for a stage that is not there, in moves of a brush. */
const MAX_PATCHES = 32;
const PAINTED = pictureKey({ kind: 'painted', picture: '' });
const paintedName = (hash: string): string => pictureKey({ kind: 'painted', picture: hash });

/** Textures of what a material shows, fetched once under keys that change with their pixels. Only heights of surfaces stay readable. */
@Injectable()
export class StagePixels {
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly surfaces = signal<ReadonlyMap<string, Keyed<PackedSurface>>>(new Map());
  private readonly pictures = signal<ReadonlyMap<string, Keyed<SizedPicture>>>(new Map());
  /** Coarse ones of surfaces that are on their way or may be chosen. */
  private readonly coarse = signal<ReadonlyMap<string, Keyed<PackedSurface>>>(new Map());
  /** Those that are being fetched. */
  private readonly coming = new Map<string, { key: string; there: Promise<void> }>();
  /** Tells an offer that another has followed it. */
  private readonly offers = new Newest();
  private readonly asked = new ByKey((error) => this.notices.error(error));
  /** Pictures of masks whose pixels are others for now, while they are painted on. */
  private readonly covered = new Map<string, Keyed<SizedPicture>>();
  private shown = 0;
  private patches = 0;
  private readonly sets = new WeakMap<readonly string[], KeyedSet>();
  private wanted: ReadonlySet<string> = new Set();
  /** Side of the textures of surfaces, in pixels, and of masks, which are kept as finely as they were painted. */
  side = STAGE_SIDE;
  maskSide = STAGE_SIDE;
  /** The most that memory allows for the masks that are wanted. */
  private most = STAGE_SIDE;

  /** Everything that a material looks up, by slot; null until it is all there. Called within a computation. */
  of(slots: MaterialSlots): KeyedSet | null {
    const made = this.found(slots, this.surfaces());
    if (!made || !Object.values(made).every(even)) return null;
    // What others are shown does not come anew with each move of a brush.
    const last = this.sets.get(slots.surfaces);
    if (last && sameItems(last.surfaces, made.surfaces) && sameItems(last.masks, made.masks) && sameItems(last.ids, made.ids)) return last;
    this.sets.set(slots.surfaces, made);
    return made;
  }
  /** The same with coarse surfaces where others are still on their way, of whatever sizes: enough to work a picture out. Called within a computation. */
  soon(slots: MaterialSlots): KeyedSet | null {
    return this.found(slots, new Map([...this.coarse(), ...this.surfaces()]));
  }
  private found(slots: MaterialSlots, from: ReadonlyMap<string, Keyed<PackedSurface>>): KeyedSet | null {
    const surfaces = all(from, slots.surfaces);
    const masks = all(this.pictures(), slots.masks.map(pictureKey));
    const ids = all(this.pictures(), slots.ids.map(pictureKey));
    return surfaces && masks && ids && { surfaces, masks, ids };
  }

  /** Mean of a painted mask, 0–1; 0 until it is there. Called within a computation. */
  mean(hash: string): number {
    const level = this.pictures().get(paintedName(hash))?.packed.levels.at(-1);
    return level ? level.data[0] / 255 : 0;
  }
  /** Pixels of a painted mask by itself; those of one begun here until it is there. Called within a computation. */
  sizeOf(hash: string): { width: number; height: number } {
    return this.pictures().get(paintedName(hash))?.packed ?? { width: MASK_SIDE, height: MASK_SIDE };
  }
  /** Shows a painted mask with other pixels for a while; null brings its own back. */
  showFor(hash: string, packed: SizedPicture | null): void {
    const name = paintedName(hash);
    const own = this.covered.get(name) ?? this.pictures().get(name);
    if (!own) return;
    if (packed) this.covered.set(name, own);
    else if (!this.covered.delete(name)) return;
    this.put(name, packed ? { key: `${name}:shown${++this.shown}`, packed } : own);
  }
  /** Shows a painted mask with regions of other pixels for a while, beside those that are shown already. @param side that they are of: at another one they are not shown */
  patchFor(hash: string, regions: readonly MaskRegion[], side: number): void {
    const name = paintedName(hash);
    const shown = this.pictures().get(name);
    if (shown?.packed.size !== side || !regions.length) return;
    const kept = !this.covered.has(name);
    if (kept) this.covered.set(name, shown);
    const packed = { ...shown.packed, ...patchedPicture(shown.packed, regions, kept) };
    const patches = kept ? 0 : this.patches;
    // What never went over is not remembered for ever: then all of it goes over once.
    const before = patches % MAX_PATCHES ? shown.patch : undefined;
    this.patches = patches + 1;
    this.put(name, { key: `${name}:shown${++this.shown}`, packed, patch: { of: shown.key, regions, kept, before } });
  }
  /** Shows a surface with other pixels, until its document has others than now; null brings its own back. */
  wear(id: string, packed: PackedSurface | null): void {
    if (packed) return this.surfaces.update((m) => new Map(m).set(id, { key: `${id}:worn${++this.shown}`, packed, transient: true }));
    this.asked.forget(id);
    if (this.last) this.want(...this.last);
  }
  /** Takes in a mask that was painted here. */
  take(hash: string, packed: SizedPicture): void {
    const name = paintedName(hash);
    this.asked.set(name, `${packed.size}`);
    this.covered.delete(name);
    this.put(name, { key: `${name}:${packed.size}`, packed });
    const free = (n: string) => n.startsWith(PAINTED) && n !== name && !this.wanted.has(n) && !this.covered.has(n);
    const gone = new Set<string>();
    let bytes = 0;
    // The newest stay.
    for (const [n, old] of [...this.pictures()].reverse()) if (free(n) && (bytes += maskBytes(old.packed.size)) > MASK_MEMORY) gone.add(n);
    gone.forEach((n) => this.asked.forget(n));
    if (gone.size) this.pictures.update((m) => new Map([...m].filter(([n]) => !gone.has(n))));
  }
  /** Side at which masks are shown once one of them has as many pixels. */
  maskSideWith(width: number, height: number): number {
    const masks = new Set((this.last?.[0] ?? []).flatMap((s) => s.masks).map(pictureKey));
    return maskSide([...[...masks].map((n) => untracked(this.pictures).get(n)?.packed), { width, height }], this.side, this.most);
  }
  private put = (name: string, picture: Keyed<SizedPicture>): void => this.pictures.update((m) => new Map(m).set(name, picture));

  /** A stage that is gone took what was handed to it along: that is fetched again. */
  again(): void {
    const whole = ([, { packed }]: [string, Keyed<PackedSurface>]) => packed.colour[0].data.byteLength > 0;
    for (const entry of untracked(this.surfaces)) if (!whole(entry)) this.asked.forget(entry[0]);
    this.surfaces.update((m) => new Map([...m].filter(whole)));
    if (this.last) this.want(...this.last);
  }
  private last: Parameters<StagePixels['want']> | null = null;

  /** Fetches what materials lack that are shown at the same time. @param asked that which is worked on first */
  want(asked: readonly MaterialSlots[], documents: Readonly<Record<string, SurfaceDocument>>): void {
    this.last = [asked, documents];
    const slots = [...new Set(asked.flatMap((s) => s.surfaces))];
    const pictures = new Map(asked.flatMap((s) => [...s.masks, ...s.ids]).map((p) => [pictureKey(p), p]));
    const size = (this.side = side(slots.length + Math.ceil(pictures.size / 12)));
    this.wanted = new Set(pictures.keys());
    const own = new Set(asked.at(0)?.surfaces);
    for (const id of slots) this.surface(id, documents[id], size, own.has(id));
    const masks = new Set(asked.flatMap((s) => s.masks).map(pictureKey));
    const there = untracked(this.pictures);
    this.most = mostSide(masks.size, size);
    this.maskSide = maskSide(
      [...masks].map((name) => there.get(name)?.packed),
      size,
      this.most,
    );
    for (const [name, picture] of pictures) this.picture(picture, documents, masks.has(name) ? this.maskSide : size);
  }

  /** Fetches coarse pixels of surfaces that may be chosen, one after another, until one is asked for or others are offered. */
  async offer(offered: Readonly<Record<string, SurfaceDocument>>): Promise<void> {
    const going = this.offers.begin();
    for (const [id, surface] of Object.entries(offered).slice(0, MAX_OFFERED)) {
      if (!going()) return;
      const maps = this.asked.has(id) ? null : coarseOf(stageMaps(surface));
      // What cannot be fetched is said when it is asked for.
      if (maps) await this.bringCoarse(id, maps).catch(() => undefined);
    }
  }

  private surface(id: string, surface: SurfaceDocument | undefined, size: number, own: boolean): void {
    if (!surface) return;
    const maps = stageMaps(surface);
    const there = untracked(this.surfaces);
    // At the opening there is no picture yet that one could come ahead of.
    const coarse = own && there.size && !there.has(id) ? coarseOf(maps) : null;
    this.ask(id, `${size}${JSON.stringify(maps)}`, this.surfaces, async () => {
      if (coarse) {
        this.offers.end();
        await this.bringCoarse(id, coarse);
        await new Promise((resolve) => setTimeout(resolve, AHEAD_MS));
      }
      return this.compute.run('pack', { maps, size });
    });
  }
  /** Coarse pixels of a surface, fetched once. */
  private bringCoarse(id: string, maps: StageMaps): Promise<void> {
    const key = `${id}:coarse${JSON.stringify(maps)}`;
    if (untracked(this.coarse).get(id)?.key === key) return Promise.resolve();
    const coming = this.coming.get(id);
    if (coming?.key === key) return coming.there;
    const newest = () => this.coming.get(id)?.key === key;
    const there = this.compute
      .run('pack', { maps, size: COARSE_SIDE })
      .then((packed) => newest() && this.keepCoarse(id, { key, packed, transient: true }))
      .then(
        () => void (newest() && this.coming.delete(id)),
        (error: Error) => {
          // It may be asked for again.
          if (newest()) this.coming.delete(id);
          throw error;
        },
      );
    // Those of other maps are not these.
    this.keepCoarse(id, null);
    this.coming.set(id, { key, there });
    return there;
  }
  private keepCoarse(id: string, packed: Keyed<PackedSurface> | null): void {
    const whole = untracked(this.surfaces);
    this.coarse.update((m) => {
      const others = [...m].filter(([other]) => other !== id && !whole.has(other));
      return new Map([...others, ...(packed ? [[id, packed] as const] : [])].slice(-2 * MAX_OFFERED));
    });
  }
  private picture(picture: CuePicture, documents: Readonly<Record<string, SurfaceDocument>>, size: number): void {
    const name = pictureKey(picture);
    if (picture.kind === 'painted') return this.painted(name, picture.picture, size);
    const role = picture.kind === 'id' ? 'id' : picture.role;
    const stage = documents[picture.surface]?.maps[role]?.stage;
    if (!stage) return;
    const channel = picture.kind === 'id' ? null : picture.channel;
    this.ask(name, `${size}${stage.blob}`, this.pictures, () => this.compute.run('mask', { role, stage, channel, size }));
  }

  /** A painted mask, as finely as the finest of those that are wanted was painted. */
  private painted(name: string, painted: string, size: number): void {
    const all = [...this.wanted].filter((n) => n.startsWith(PAINTED));
    const lacking = () => all.some((n) => !untracked(this.pictures).has(n));
    // How fine all are is known when all are there: what is on its way, or there, is not asked for anew before.
    if (this.asked.has(name) && lacking()) return;
    const { most } = this;
    const beside = all.flatMap((n) => (n === name ? [] : [n.slice(PAINTED.length)]));
    this.asked.ask(
      name,
      `${size}`,
      () => this.compute.run('mask', { painted, beside, size, most }),
      (packed) => {
        this.asked.set(name, `${packed.size}`);
        const own = { key: `${name}:${packed.size}`, packed };
        // While it is painted on, something else is shown in its place.
        if (this.covered.has(name)) this.covered.set(name, own);
        else this.put(name, own);
        if (!lacking() && this.last) this.want(...this.last);
      },
    );
  }

  private ask<T>(name: string, key: string, into: ReturnType<typeof signal<ReadonlyMap<string, Keyed<T>>>>, run: () => Promise<T>): void {
    this.asked.ask(name, key, run, (packed) => into.update((m) => new Map(m).set(name, { key: `${name}:${key}`, packed })));
  }
}

/** Roles that surfaces have textures of on the stage; others are pictures by themselves. */
const STAGED = [...BLEND_ROLES, 'emissive'] as const;
export const stageMaps = ({ maps }: SurfaceDocument): Record<string, StoredPixels> =>
  Object.fromEntries(STAGED.flatMap((role) => (maps[role] ? [[role, maps[role].stage]] : [])));

/** Coarse pixels of maps; null where a map has none. */
export function coarseOf(maps: Readonly<Record<string, StoredPixels>>): StageMaps | null {
  const small = Object.entries(maps).map(([role, { coarse, ...stage }]) => [role, { ...stage, ...coarse }] as const);
  return small.every(([, { width, height }]) => Math.max(width, height) <= COARSE_SIDE) ? Object.fromEntries(small) : null;
}

/** Whether textures fit into one array. */
const even = (list: readonly Keyed<{ size: number }>[]): boolean => new Set(list.map((f) => f.packed.size)).size <= 1;

const all = <T>(from: ReadonlyMap<string, Keyed<T>>, names: readonly string[]): Keyed<T>[] | null => {
  const found = names.flatMap((name) => from.get(name) ?? []);
  return found.length === names.length ? found : null;
};

function side(count: number): number {
  let size = STAGE_SIDE;
  while (size > 128 && size * size * BYTES_A_TEXEL * count > STAGE_MEMORY) size /= 2;
  return size;
}

/** Side up to which memory holds so many masks; at least that of surfaces. */
function mostSide(count: number, least: number): number {
  let size: number = MAX_MASK_SIDE;
  while (size > least && maskBytes(size) * count > MASK_MEMORY) size /= 2;
  return size;
}
/** Side of masks of which some are known: that of the finest, within bounds. */
const maskSide = (known: readonly ({ width: number; height: number } | undefined)[], least: number, most: number): number =>
  Math.max(least, ...known.map((k) => k && followedSide(k, least, most)).filter((side) => side !== undefined));

/** The same without keys. */
export const unkeyed = ({ surfaces, masks, ids }: KeyedSet): PackedSet => ({
  surfaces: surfaces.map((s) => s.packed),
  masks: masks.map((s) => s.packed),
  ids: ids.map((s) => s.packed),
});
