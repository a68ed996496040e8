import { Injectable, computed, effect, inject, linkedSignal, signal } from '@angular/core';
import type { Colouring, SpecimenDocument } from '@pebble/core';
import { allowedPairs, cellsOf, inOrder, makeAsset, slotsOf } from '@pebble/core';
import { matchSlots } from '@pebble/usecases';
import { DocumentsService } from '../../../services/documents.service';
import { JobsService } from '../../../services/jobs.service';
import { MeshService } from '../../../services/mesh.service';
import { NoticesService } from '../../../services/notices.service';
import type { LayoutFacts, MeshLook, MeshSource } from '../../../workers/mesh-protocol';

/** How a specimen is read, on one of its levels. */
const sourceOf = ({ model, uvSet, unitM, up }: SpecimenDocument, level: number): MeshSource => ({ model, level, set: uvSet, unitM, up });

/** The specimen that is open: which level and set of it, what its coordinates are worth, and what is done to it. */
@Injectable()
export class SpecimenModel {
  private readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  readonly specimens = this.documents.list('specimen');
  readonly wanted = signal<string | null>(null);
  readonly id = computed(() => (this.specimens().some((s) => s.id === this.wanted()) ? this.wanted() : (this.specimens().at(0)?.id ?? null)));
  readonly body = computed(() => this.documents.body(this.id(), 'specimen'));
  private readonly assets = this.documents.list('asset');
  /** The asset that an address asks for. */
  readonly assetWanted = signal<string | null>(null);
  /** The asset in which it is seen: the wanted one, else the first of this specimen. */
  readonly asset = computed(() => {
    const own = this.assets().filter((a) => a.body.specimen === this.id());
    return own.find((a) => a.id === this.assetWanted()) ?? own.at(0) ?? null;
  });
  /** Whether it is shown in what it wears: as long as it wears anything, unless somebody looks at its coordinates. */
  private readonly wearing = linkedSignal<string, boolean>({ source: () => `${this.id()} ${this.asset()?.id ?? ''}`, computation: () => true });
  readonly worn = computed(() => this.wearing() && this.asset() !== null);
  showWorn = (on: boolean): void => this.wearing.set(on);
  /** The document that is looked at, and edited: what it wears, or what it is. */
  readonly shownId = computed(() => (this.worn() ? (this.asset()?.id ?? null) : this.id()));
  readonly slots = computed(() => {
    const body = this.body();
    return body ? slotsOf(body) : [];
  });
  readonly level = linkedSignal<string | null, number>({ source: this.id, computation: () => 0 });
  readonly colouring = signal<Colouring>('islands');
  /** Side of the texture that densities are told for. */
  readonly side = signal(2048);
  readonly hovered = signal<number | null>(null);
  readonly levels = computed(() => [...new Set(Object.values(this.body()?.parts ?? {}).map((p) => p.level))].sort((a, b) => a - b));
  /** Parts of the level, in the order that the worker numbers them. */
  readonly parts = computed(() => inOrder(this.body()?.parts ?? {}).filter((p) => p.level === this.level()));
  readonly sets = computed(() => Array.from({ length: Math.max(0, ...this.parts().map((p) => p.sets)) }, (_, i) => i));
  readonly source = computed<MeshSource | null>(
    () => {
      const body = this.body();
      return body ? sourceOf(body, this.level()) : null;
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  private readonly judged = signal<{ source: MeshSource; facts: LayoutFacts } | null>(null);
  /** Null while they are worked out. */
  readonly facts = computed(() => (this.judged()?.source === this.source() ? (this.judged()?.facts ?? null) : null));
  readonly failed = signal<string | null>(null);
  private readonly allowed = computed(() => allowedPairs(this.parts(), this.body()?.stacking ?? {}));
  readonly look = computed<MeshLook>(() => ({ colouring: this.colouring(), allowed: this.allowed(), highlight: this.hovered() }));
  private readonly layoutJob = signal<string | null>(null);
  readonly laying = computed(() => this.jobs.open().find((j) => j.id === this.layoutJob()) ?? null);

  constructor() {
    effect(() => {
      const source = this.source();
      this.hovered.set(null);
      this.failed.set(null);
      if (!source) return;
      this.meshes.run('layout', { source }).then(
        (facts) => this.source() === source && this.judged.set({ source, facts }),
        (error: Error) => this.source() === source && this.failed.set(error.message),
      );
    });
  }

  edit(label: string, change: (d: SpecimenDocument) => void): void {
    const id = this.id();
    if (id) this.documents.edit(id, 'specimen', label, change);
  }

  /** Where each slot of a specimen lies on its texture, as cells; empty where that is not known. */
  async coversOf(specimen: string): Promise<ReadonlyMap<string, Uint8Array>> {
    const body = this.documents.body(specimen, 'specimen');
    const found: Record<string, string> = body ? await this.meshes.run('covered', { source: sourceOf(body, 0) }).catch(() => ({})) : {};
    return new Map(Object.entries(found).map(([slot, text]) => [slot, cellsOf(text)]));
  }
  /** Metres that the texture of a specimen is wide by its mean density; null where it has no coordinates. */
  async sideOf(specimen: string): Promise<number | null> {
    const body = this.documents.body(specimen, 'specimen');
    const facts = body && (await this.meshes.run('layout', { source: sourceOf(body, 0) }).catch(() => null));
    return facts?.density ? Math.min(10_000, Math.max(0.001, Number((1 / facts.density.mean).toPrecision(4)))) : null;
  }
  /**
   * Lets slots wear surfaces, by id; others stay as they are. What was made of it last is one step.
   * @param wears id of a surface by slot
   */
  async hookUp(specimen: string, wears: ReadonlyMap<string, string>): Promise<void> {
    const body = this.documents.body(specimen, 'specimen');
    if (!body) return;
    const slots = slotsOf(body);
    const there = this.assets().find((a) => a.body.specimen === specimen);
    try {
      if (there)
        this.documents.edit(there.id, 'asset', `Hook up ${body.name}`, (d) => {
          for (const slot of Object.values(d.slots))
            if (wears.has(slot.slot)) Object.assign(slot, { blend: wears.get(slot.slot), uvSet: body.uvSet, size: 1 });
        });
      else {
        const made = makeAsset(`${body.name}, finished`.slice(0, 200), specimen, slots, (slot) => wears.get(slot) ?? '');
        for (const slot of Object.values(made.slots)) slot.uvSet = body.uvSet;
        await this.documents.create(made, `Hook up ${body.name}`);
      }
      if (specimen === this.id()) this.showWorn(true);
    } catch (error) {
      this.notices.error(error);
    }
  }
  /** Hooks up what the names of the project's surfaces say; slots that nothing belongs to stay bare. */
  async hookUpByName(): Promise<void> {
    const [id, body] = [this.id(), this.body()];
    if (!id || !body) return;
    const surfaces = this.documents
      .list('surface')()
      .map((s) => ({ key: s.id, name: s.body.name }));
    // A lone surface of a project is not what every mesh is finished with.
    const found = surfaces.length > 1 ? matchSlots(this.slots(), surfaces, body.name) : new Map<string, { key: string }>();
    await this.hookUp(id, new Map([...found].map(([slot, { key }]) => [slot, key])));
  }

  allow(key: string, on: boolean, names: string): void {
    this.edit(on ? `Let ${names} lie on each other` : `Keep ${names} apart`, (d) => {
      if (on) d.stacking[key] = true;
      else delete d.stacking[key];
    });
  }

  async layOut(how: 'unwrap' | 'repack'): Promise<void> {
    const id = this.id();
    const job = id ? await this.jobs.start('layout', { how, level: this.level() }, id) : null;
    this.layoutJob.set(job?.id ?? null);
  }

  cancel(): void {
    const job = this.laying();
    if (job) void this.jobs.cancel(job.id);
  }

  remove(): void {
    const id = this.id();
    if (id) void this.documents.remove(id).catch((e: unknown) => this.notices.error(e));
  }
}
