import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal } from '@angular/core';
import type { QuarryPage } from '@pebble/contracts';
import { ApiService } from '../../services/api.service';
import { JobsService } from '../../services/jobs.service';

/** Typing rests this long before the quarry is asked. */
const REST_MS = 250;

/** Surfaces from outside: searched by words and tags, fetched at a size. What is on its way shows on the wall. */
@Component({ selector: 'pb-quarry', changeDetection: ChangeDetectionStrategy.OnPush, templateUrl: './quarry.html', styleUrl: './quarry.scss' })
export class QuarrySheet {
  private readonly api = inject(ApiService);
  private readonly jobs = inject(JobsService);
  readonly closed = output<void>();
  readonly text = signal('');
  readonly tag = signal('');
  readonly size = signal(512);
  readonly page = signal(0);
  readonly found = signal<QuarryPage | null>(null);
  readonly problem = signal<string | null>(null);
  readonly sizes = computed(() => [...new Set(this.found()?.items.flatMap((i) => i.sizes) ?? [])].sort((a, b) => a - b));
  readonly pages = computed(() => Math.ceil((this.found()?.total ?? 0) / this.perPage()));
  private readonly perPage = signal(1);
  /** Jobs that this sheet started, by what they fetch. */
  private readonly started = signal<ReadonlyMap<string, string>>(new Map());

  constructor() {
    effect((onCleanup) => {
      const query = new URLSearchParams({ text: this.text(), tag: this.tag(), page: String(this.page()) });
      let over = false;
      const timer = setTimeout(() => void this.ask(query, () => over), REST_MS);
      onCleanup(() => {
        over = true;
        clearTimeout(timer);
      });
    });
  }

  private async ask(query: URLSearchParams, over: () => boolean): Promise<void> {
    try {
      const found = await this.api.get<QuarryPage>(`/quarry?${query.toString()}`);
      if (over()) return;
      // The first page is as long as pages are.
      if (this.page() === 0) this.perPage.set(Math.max(1, found.items.length));
      this.found.set(found);
      this.problem.set(null);
    } catch (error) {
      if (!over()) this.problem.set((error as Error).message);
    }
  }

  find(text: string): void {
    this.text.set(text);
    this.page.set(0);
  }
  choose(tag: string): void {
    this.tag.update((t) => (t === tag ? '' : tag));
    this.page.set(0);
  }

  job = (id: string) => this.jobs.job(this.started().get(id) ?? null);

  /** How a surface stands: on its way with a share, here, or failed with a reason. */
  state(id: string): { text: string; share: number | null } | null {
    const job = this.job(id);
    if (!job) return null;
    if (job.status === 'done') return { text: 'on the wall', share: null };
    if (job.status === 'failed') return { text: job.error ?? 'failed', share: null };
    return job.status === 'cancelled' ? null : { text: job.note || 'waiting', share: job.progress };
  }

  async fetch({ id, author, licence, sizes }: QuarryPage['items'][number]): Promise<void> {
    const size = sizes.includes(this.size()) ? this.size() : sizes[sizes.length - 1];
    const job = await this.jobs.start('fetch', { id, size, author, licence });
    if (job) this.started.update((all) => new Map(all).set(id, job.id));
  }

  cancel(id: string): void {
    const job = this.started().get(id);
    if (job) void this.jobs.cancel(job);
  }
}
