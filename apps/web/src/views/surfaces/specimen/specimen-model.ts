import { Injectable, computed, effect, inject, linkedSignal, signal } from '@angular/core';
import type { Colouring, SpecimenDocument } from '@pebble/core';
import { allowedPairs, inOrder } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { JobsService } from '../../../services/jobs.service';
import { MeshService } from '../../../services/mesh.service';
import { NoticesService } from '../../../services/notices.service';
import type { LayoutFacts, MeshLook, MeshSource } from '../../../workers/mesh-protocol';

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
      return body ? { model: body.model, level: this.level(), set: body.uvSet, unitM: body.unitM, up: body.up } : null;
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
