import { Injectable, computed, inject, signal } from '@angular/core';
import { Router } from '@angular/router';
import type { AssetDocument, BlendDocument, MasterDocument, SlotLaying, SurfaceDocument } from '@pebble/core';
import { SPECIMEN_MODELS, asVariant, inOrder, isSpecimenName, slotNames, slotsOf, wornSurface } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';

/** What sits on a slot, told apart from everything else that may. */
const keyOf = (id: string, variant: string): string => (variant ? `${id}/${variant}` : id);

/** The same master for the same surface: programs and pixels hang on it. */
const worn = new WeakMap<SurfaceDocument, MasterDocument>();
function wornOf(id: string, surface: SurfaceDocument): MasterDocument {
  const made = worn.get(surface) ?? wornSurface(id, surface);
  worn.set(surface, made);
  return made;
}

/** The asset on the stage: a specimen with a blend, a master or a finished surface on each of its slots. */
@Injectable()
export class AssetModel {
  private readonly documents = inject(DocumentsService);
  private readonly router = inject(Router);
  readonly id = signal<string | null>(null);
  readonly list = this.documents.list('asset');
  private readonly blends = this.documents.list('blend');
  private readonly masters = this.documents.list('master');
  private readonly surfaces = this.documents.list('surface');
  private readonly specimens = this.documents.list('specimen');
  readonly body = computed<AssetDocument | null>(() => this.documents.body(this.id(), 'asset') ?? null);

  /** Slots of a specimen of ours or one that was brought in. */
  slotsOf(specimen: string): string[] {
    if (isSpecimenName(specimen)) return slotNames(SPECIMEN_MODELS[specimen](1));
    const body = this.specimens().find((s) => s.id === specimen)?.body;
    return body ? slotsOf(body) : [];
  }
  /** Sets of texture coordinates that all parts have. */
  readonly sets = computed(() => {
    const asset = this.body();
    const body = asset ? this.specimens().find((s) => s.id === asset.specimen)?.body : undefined;
    return body ? Math.max(1, Math.min(...Object.values(body.parts).map((p) => p.sets))) : 1;
  });

  /** As the asset says it: drafts of blends do not come through here. */
  private readonly said = computed(() => inOrder(this.body()?.slots ?? {}));
  /** What sits on each slot of the mesh, in the order of its slots. */
  readonly slots = computed(() =>
    this.said().map((slot) => {
      const { blend: id, variant = '' } = slot;
      const master = this.masters().find((m) => m.id === id)?.body;
      const surface = this.surfaces().find((s) => s.id === id)?.body;
      const body = this.blends().find((b) => b.id === id)?.body ?? (master ? asVariant(master, variant) : surface ? wornOf(id, surface) : null);
      const of = variant && master ? `: ${master.variants[variant]?.name ?? 'a variant that was deleted, so what all inherit'}` : '';
      return {
        ...slot,
        key: keyOf(id, variant),
        body,
        finished: !!surface,
        says: body ? `${body.name}${of}` : id ? 'something that was deleted' : 'nothing',
      };
    }),
  );
  /** The variant of the open master; null where there is none. */
  readonly variant = signal<string | null>(null);
  /**
   * How each slot is laid: in metres a repetition; a finished surface once over the coordinates that the mesh brought, which
   * specimens of our own have none of. What has nothing on it is laid as the open one.
   */
  lays(open: Pick<BlendDocument, 'extentM'>): Record<string, SlotLaying> {
    const brought = !isSpecimenName(this.body()?.specimen ?? '');
    return Object.fromEntries(
      this.slots().map(({ slot, body, finished, uvSet, size }): [string, SlotLaying] => [
        slot,
        finished && brought ? { set: uvSet, by: size, in: 'coordinates' } : { set: uvSet, by: (body ?? open).extentM * size, in: 'metres' },
      ]),
    );
  }
  /** Slots that something sits on: of an open master as the variant that is looked at, where it sits anywhere so. */
  slotsWith(id: string | null): string[] {
    const on = this.said().filter((s) => s.blend === id);
    const so = on.filter((s) => (s.variant ?? '') === (this.variant() ?? ''));
    return (so.length ? so : on).map((s) => s.slot);
  }

  /** Opens a blend or a master, on an asset or on its own specimen; a finished surface where its asset is seen in it. */
  show(id: string, asset: string | null, variant?: string): void {
    if (this.surfaces().some((s) => s.id === id))
      return void this.router.navigate(['/surfaces'], { queryParams: asset ? { asset } : { surface: id } });
    const view = this.masters().some((m) => m.id === id) ? '/master' : '/blend';
    void this.router.navigate([view, id], { queryParams: { asset, ...(view === '/master' ? { variant: variant ?? null } : {}) } });
  }

  edit(label: string, change: (asset: AssetDocument) => void): void {
    const id = this.id();
    if (id) this.documents.edit(id, 'asset', label, change);
  }
}
