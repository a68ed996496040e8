import { Injectable, computed, inject, signal } from '@angular/core';
import type { AskedKind, JobKind, JobOf, JobRequest, JobView } from '@pebble/contracts';
import { jobPath } from '@pebble/contracts/jobs';
import { ApiError, ApiService } from './api.service';
import { LiveService } from './live.service';
import { NoticesService } from './notices.service';

/** Long work under way and lately ended, kept current by live events. */
@Injectable({ providedIn: 'root' })
export class JobsService {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly all = signal<ReadonlyMap<string, JobView>>(new Map());
  private readonly mine = new Set<string>();
  private readonly waiting = new Map<string, ((job: JobView) => void)[]>();
  readonly list = computed(() => [...this.all().values()]);
  readonly open = computed(() => this.list().filter((j) => j.status === 'waiting' || j.status === 'running'));

  constructor() {
    const live = inject(LiveService);
    live.opened.subscribe(() => void this.load());
    live.events.subscribe((event) => event.type === 'job' && this.take(event.job));
    void this.load();
  }

  private async load(): Promise<void> {
    const jobs = await this.api.get<JobView[]>('/jobs').catch(() => null);
    if (!jobs) return;
    const before = this.open();
    this.all.set(new Map(jobs.map((j) => [j.id, j])));
    jobs.forEach((j) => this.settle(j));
    for (const job of before) if (!this.all().has(job.id)) void this.ask(job);
  }
  /** What the list does not tell of is asked for; what the server knows nothing of has ended, as it stands on other data. */
  private async ask(job: JobView): Promise<void> {
    try {
      this.take(await this.api.get<JobView>(`/jobs/${job.id}`));
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 404) return;
      this.take({ ...job, status: 'failed', error: `${job.label}: the server was started on other data, and knows nothing of it. Start it again` });
    }
  }

  private take(job: JobView): void {
    const before = this.all().get(job.id);
    this.all.update((m) => new Map(m).set(job.id, job));
    if (job.status === 'failed' && before?.status !== 'failed' && this.mine.has(job.id)) this.notices.error(job.error ?? `${job.label} failed`);
    this.settle(job);
  }

  private settle(job: JobView): void {
    if (job.status === 'waiting' || job.status === 'running') return;
    for (const resolve of this.waiting.get(job.id) ?? []) resolve(job);
    this.waiting.delete(job.id);
  }

  /** The job when it is done, failed or cancelled. */
  whenEnded<K extends JobKind>({ id }: Pick<JobOf<K>, 'id' | 'kind'>): Promise<JobOf<K>> {
    return new Promise((resolve) => {
      this.waiting.set(id, [...(this.waiting.get(id) ?? []), resolve as (job: JobView) => void]);
      const job = this.job(id);
      if (job) this.settle(job);
    });
  }

  /** Starts work, about a document where its kind is. Errors are said here; null then. */
  async start<K extends AskedKind>(kind: K, request?: JobRequest<K>, document?: string): Promise<JobOf<K> | null> {
    try {
      const job = await this.api.post<JobOf<K>>(jobPath(kind, document), request);
      this.mine.add(job.id);
      if (!this.all().has(job.id)) this.take(job as JobView);
      return job;
    } catch (error) {
      this.notices.error(error);
      return null;
    }
  }

  job = (id: string | null): JobView | undefined => (id ? this.all().get(id) : undefined);

  async cancel(id: string): Promise<void> {
    await this.api.post(`/jobs/${id}/cancel`).catch((e: unknown) => this.notices.error(e));
  }
}
