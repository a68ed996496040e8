import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { Amounts, GeneratorName, SurfaceDocument } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { DrawService } from '../../services/draw.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import type { DrawnSurface } from '../../workers/protocol';

/** Side of the picture that follows a drag, and of the one that follows when it rests. */
const QUICK = 128;
const FINER = 512;
const REST_MS = 160;

interface Try {
  id: string;
  name: GeneratorName;
  seed: number;
  amounts: Amounts;
}

/**
 * A generated surface while its parameters are turned: small at once, finer at rest, full size by a job when a value is
 * let go. What is shown goes back to the document once that holds what was tried, or when the job ends without it.
 */
@Injectable()
export class SurfaceTrial {
  private readonly draw = inject(DrawService);
  private readonly jobs = inject(JobsService);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  private readonly tried = signal<Try | null>(null);
  private readonly jobId = signal<string | null>(null);
  /** What the job draws: something tried since then is not ended by it. */
  private kept: Try | null = null;
  readonly drawn = signal<DrawnSurface | null>(null);
  /** Share of the finer picture that is done. */
  readonly refining = signal<number | null>(null);
  readonly job = computed(() => this.jobs.job(this.jobId()));
  private rest: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    effect(() => {
      const job = this.job();
      if (job && ['done', 'failed', 'cancelled'].includes(job.status))
        untracked(() => (this.kept === this.tried() ? this.end() : this.jobId.set(null)));
    });
  }

  /** Strength of a structure as it is tried, or as the surface has it. */
  amount(id: string | null, surface: SurfaceDocument, structure: string): number {
    const tried = this.tried();
    return (tried?.id === id ? tried?.amounts[structure] : undefined) ?? surface.generator?.amounts?.[structure] ?? 1;
  }
  seed = (id: string | null, surface: SurfaceDocument): number => {
    const tried = this.tried();
    return tried && tried.id === id ? tried.seed : (surface.generator?.seed ?? 0);
  };

  /** Follows a value that is being dragged. */
  turn(id: string, change: { structure?: string; amount?: number; seed?: number; amounts?: Amounts }): void {
    const generator = this.documents.body(id, 'surface')?.generator;
    if (!generator) return;
    const before =
      this.tried()?.id === id ? (this.tried() as Try) : { id, name: generator.name, seed: generator.seed, amounts: generator.amounts ?? {} };
    const amounts = change.amounts ?? (change.structure ? { ...before.amounts, [change.structure]: change.amount ?? 1 } : before.amounts);
    this.tried.set({ ...before, seed: change.seed ?? before.seed, amounts });
    clearTimeout(this.rest);
    this.rest = setTimeout(() => void this.show(FINER), REST_MS);
    void this.show(QUICK);
  }

  /** Takes what is tried: the server draws it at full size into the surface. */
  async keep(): Promise<void> {
    const tried = this.tried();
    const body = tried && this.documents.body(tried.id, 'surface');
    if (!tried || !body) return;
    const before = this.jobId();
    if (before) void this.jobs.cancel(before);
    this.jobId.set(null);
    this.kept = tried;
    const { id, ...order } = tried;
    const size = Math.max(16, ...Object.values(body.maps).map((m) => m.width));
    const job = await this.jobs.start('generate', { ...order, size, replace: id });
    if (job) this.jobId.set(job.id);
    else this.end();
  }

  /** Compiles the programs of a surface ahead of the first drag. */
  warm(surface: SurfaceDocument): void {
    const generator = surface.generator;
    if (generator && !this.tried())
      void this.draw.draw({ order: { name: generator.name, seed: generator.seed, size: 16 }, parts: 'lit' }).catch(() => undefined);
  }

  private async show(size: number): Promise<void> {
    const tried = this.tried();
    if (!tried) return;
    const { name, seed, amounts } = tried;
    try {
      const progress = (done: number) => size === FINER && this.refining.set(done);
      const drawn = await this.draw.draw({ order: { name, seed, amounts, size }, parts: 'maps' }, progress);
      if (!drawn || this.tried() === null) return;
      this.drawn.set(drawn);
      if (size === FINER) this.refining.set(null);
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** Back to what the document holds. */
  end(): void {
    clearTimeout(this.rest);
    this.tried.set(null);
    this.jobId.set(null);
    this.drawn.set(null);
    this.refining.set(null);
  }
}
