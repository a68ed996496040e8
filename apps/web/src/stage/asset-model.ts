import { Injectable, computed, inject, signal } from '@angular/core';
import { Router } from '@angular/router';
import type { AssetDocument, BlendDocument, SlotLaying } from '@pebble/core';
import { SPECIMEN_MODELS, asVariant, inOrder, isSpecimenName, slotNames } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';

/** What sits on a slot, told apart from everything else that may. */
const keyOf = (id: string, variant: string): string => (variant ? `${id}/${variant}` : id);

/** The asset on the stage: a specimen with a blend on each of its slots. */
@Injectable()
export class AssetModel {
  private readonly documents = inject(DocumentsService);
  private readonly router = inject(Router);
  readonly id = signal<string | null>(null);
  readonly list = this.documents.list('asset');
  private readonly blends = this.documents.list('blend');
  private readonly masters = this.documents.list('master');
  private readonly specimens = this.documents.list('specimen');
  readonly body = computed<AssetDocument | null>(() => this.documents.body(this.id(), 'asset') ?? null);

  /** Slots of a specimen of ours or one that was brought in. */
  slotsOf(specimen: string): string[] {
    if (isSpecimenName(specimen)) return slotNames(SPECIMEN_MODELS[specimen](1));
    const body = this.specimens().find((s) => s.id === specimen)?.body;
    return body ? [...new Set(inOrder(body.parts).flatMap((p) => (p.level === 0 ? [p.slot] : [])))] : [];
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
      const body = this.blends().find((b) => b.id === id)?.body ?? (master ? asVariant(master, variant) : null);
      const of = variant && master ? `: ${master.variants[variant]?.name ?? 'a variant that was deleted, so what all inherit'}` : '';
      return { ...slot, key: keyOf(id, variant), body, says: body ? `${body.name}${of}` : id ? 'something that was deleted' : 'nothing' };
    }),
  );
  /** The variant of the open master; null where there is none. */
  readonly variant = signal<string | null>(null);
  /** Metres a repetition, and the set, of each slot; what has no blend is laid as the open one. */
  lays(open: Pick<BlendDocument, 'extentM'>): Record<string, SlotLaying> {
    return Object.fromEntries(this.slots().map(({ slot, body, uvSet, size }) => [slot, { set: uvSet, by: (body ?? open).extentM * size }]));
  }
  /** Slots that something sits on: of an open master as the variant that is looked at, where it sits anywhere so. */
  slotsWith(id: string | null): string[] {
    const on = this.said().filter((s) => s.blend === id);
    const so = on.filter((s) => (s.variant ?? '') === (this.variant() ?? ''));
    return (so.length ? so : on).map((s) => s.slot);
  }

  /** Opens a blend or a master, on an asset or on its own specimen. */
  show(id: string, asset: string | null, variant?: string): void {
    const view = this.masters().some((m) => m.id === id) ? '/master' : '/blend';
    void this.router.navigate([view, id], { queryParams: { asset, ...(view === '/master' ? { variant: variant ?? null } : {}) } });
  }

  edit(label: string, change: (asset: AssetDocument) => void): void {
    const id = this.id();
    if (id) this.documents.edit(id, 'asset', label, change);
  }
}
