import { Injectable, inject, signal } from '@angular/core';
import type { BlendRole, CuePicture, PackedPicture, PackedSet, PackedSurface, Stack, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, pictureKey } from '@pebble/core';
import type { Keyed, KeyedSet } from '@pebble/stage';
import { ComputeService } from '../../services/compute.service';
import { NoticesService } from '../../services/notices.service';

/** Side of the stage's textures in pixels. */
const STAGE_SIDE = 1024;
/** Memory of the stage's textures past which they are made smaller. */
const STAGE_MEMORY = 192 * 2 ** 20;
const BYTES_A_TEXEL = (4 + 4 + 8 + 1) * (4 / 3);

/** Textures of what a stack shows, fetched once under keys that change with their pixels. Only heights of surfaces stay readable. */
@Injectable()
export class BlendPixels {
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly surfaces = signal<ReadonlyMap<string, Keyed<PackedSurface>>>(new Map());
  private readonly pictures = signal<ReadonlyMap<string, Keyed<PackedPicture>>>(new Map());
  private readonly asked = new Map<string, string>();

  /** Everything that a stack looks up, by slot; null until it is all there. Called within a computation. */
  of(stack: Stack): KeyedSet | null {
    const surfaces = all(this.surfaces(), stack.slots);
    const masks = all(this.pictures(), stack.masks.map(pictureKey));
    const ids = all(this.pictures(), stack.ids.map(pictureKey));
    const even = (list: readonly Keyed<{ size: number }>[]) => new Set(list.map((f) => f.packed.size)).size <= 1;
    return surfaces && masks && ids && even(surfaces) && even(masks) && even(ids) ? { surfaces, masks, ids } : null;
  }

  /** Fetches what stacks lack that are shown at the same time. */
  want(stacks: readonly Stack[], documents: Readonly<Record<string, SurfaceDocument>>): void {
    const slots = [...new Set(stacks.flatMap((s) => s.slots))];
    const pictures = new Map(stacks.flatMap((s) => [...s.masks, ...s.ids]).map((p) => [pictureKey(p), p]));
    const size = side(slots.length + Math.ceil(pictures.size / 12));
    for (const id of slots) this.surface(id, documents[id], size);
    for (const picture of pictures.values()) this.picture(picture, documents, size);
  }

  private surface(id: string, surface: SurfaceDocument | undefined, size: number): void {
    if (!surface) return;
    const maps = Object.fromEntries(BLEND_ROLES.flatMap((role: BlendRole) => (surface.maps[role] ? [[role, surface.maps[role].stage]] : [])));
    this.ask(id, `${size}${JSON.stringify(maps)}`, this.surfaces, () => this.compute.run('pack', { maps, size }));
  }
  private picture(picture: CuePicture, documents: Readonly<Record<string, SurfaceDocument>>, size: number): void {
    const name = pictureKey(picture);
    if (picture.kind === 'painted')
      return this.ask(name, `${size}`, this.pictures, () => this.compute.run('mask', { painted: picture.picture, size }));
    const role = picture.kind === 'id' ? 'id' : picture.role;
    const stage = documents[picture.surface]?.maps[role]?.stage;
    if (!stage) return;
    const channel = picture.kind === 'id' ? null : picture.channel;
    this.ask(name, `${size}${stage.blob}`, this.pictures, () => this.compute.run('mask', { role, stage, channel, size }));
  }

  private ask<T>(name: string, key: string, into: ReturnType<typeof signal<ReadonlyMap<string, Keyed<T>>>>, run: () => Promise<T>): void {
    if (this.asked.get(name) === key) return;
    this.asked.set(name, key);
    run().then(
      (packed) => {
        if (this.asked.get(name) === key) into.update((m) => new Map(m).set(name, { key: `${name}:${key}`, packed }));
      },
      (error: Error) => {
        this.asked.delete(name);
        this.notices.error(error);
      },
    );
  }
}

const all = <T>(from: ReadonlyMap<string, Keyed<T>>, names: readonly string[]): Keyed<T>[] | null => {
  const found = names.flatMap((name) => from.get(name) ?? []);
  return found.length === names.length ? found : null;
};

function side(count: number): number {
  let size = STAGE_SIDE;
  while (size > 128 && size * size * BYTES_A_TEXEL * count > STAGE_MEMORY) size /= 2;
  return size;
}

/** The same without keys. */
export const unkeyed = ({ surfaces, masks, ids }: KeyedSet): PackedSet => ({
  surfaces: surfaces.map((s) => s.packed),
  masks: masks.map((s) => s.packed),
  ids: ids.map((s) => s.packed),
});
