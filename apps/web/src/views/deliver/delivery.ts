import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { jobResult } from '@pebble/contracts/jobs';
import type { AnyDocument, BundleManifest, DocumentKind, PreflightFacts, PreflightFinding, Proof } from '@pebble/core';
import { DOCUMENT_VERSIONS, applyPatch, blocks } from '@pebble/core';
import { ApiService } from '../../services/api.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { WorkerClient } from '../../services/worker-client';
import { keep } from '../../ui/keep';
import { Latest } from '../../ui/latest';
import type { DeliverRequests, DeliveryView } from '../../workers/deliver.protocol';

/** Milliseconds after the last edit before a delivery is planned anew. */
const REST_MS = 150;
const KEY = 'pebble-deliver';

class Planner extends WorkerClient<DeliverRequests> {
  constructor() {
    super(() => new Worker(new URL('../../workers/deliver.worker', import.meta.url), { type: 'module' }));
  }
}

/** What is delivered: for whom, whether it may leave, what was made, and how near it is to what was authored. */
@Injectable()
export class Delivery {
  private readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly planner = new Planner();
  private readonly kinds = (Object.keys(DOCUMENT_VERSIONS) as DocumentKind[]).map((k) => this.documents.list(k));
  readonly project = this.workbench.project;
  readonly targets = this.workbench.targets;
  private readonly asked = signal<readonly string[] | null>(kept());
  /** Ids of the targets that are delivered for: the project's own until somebody chooses. */
  readonly chosen = computed(() => {
    const known = new Set(this.targets().map((t) => t.id));
    const asked = (this.asked() ?? []).filter((id) => known.has(id));
    return asked.length ? asked : [this.workbench.target().id];
  });
  readonly skipped = signal<ReadonlySet<string>>(new Set());
  private readonly seen = signal<PreflightFacts['seen']>([]);
  readonly view = signal<DeliveryView | null>(null);
  readonly failed = signal<string | null>(null);
  private readonly planning = new Latest<DeliveryView>(
    (view) => {
      this.view.set(view);
      this.failed.set(null);
    },
    (error) => {
      this.failed.set(error.message);
      this.view.set(null);
    },
  );

  readonly findings = computed<readonly PreflightFinding[]>(() => this.view()?.findings ?? []);
  readonly blocking = computed(() => this.findings().filter(blocks));
  readonly going = computed(() => (this.view()?.rows ?? []).filter((r) => !this.skipped().has(r.path)));
  readonly about = computed(() => this.going().reduce((sum, r) => sum + r.about, 0));
  /** Why nothing can be delivered; null when it can. */
  readonly whyNot = computed(() => {
    if (!this.view()) return this.failed() ?? 'Planning …';
    if (!this.view()?.rows.length) return 'There is nothing to deliver yet: a recipe with a source, an asset, a blend or a master makes files.';
    if (!this.going().length) return 'Every file is unticked.';
    const count = this.blocking().length;
    return count ? `${count === 1 ? 'One finding' : `${count} findings`} of the preflight: mend, or accept with a reason.` : null;
  });

  private readonly deliverId = signal<string | null>(null);
  private readonly proofId = signal<string | null>(null);
  readonly job = computed(() => this.jobs.job(this.deliverId()) ?? this.last());
  /** The newest delivery that is known, of this window or another. */
  private readonly last = computed(() => this.jobs.list().find((j) => j.kind === 'deliver' && j.status === 'done'));
  readonly proofJob = computed(() => this.jobs.job(this.proofId()));
  readonly bundle = computed(() => jobResult('deliver', this.job()));
  readonly manifest = signal<BundleManifest | null>(null);
  readonly proof = signal<(Proof & { problems: { path: string; message: string }[] }) | null>(null);

  constructor() {
    let timer: ReturnType<typeof setTimeout> | undefined;
    effect(() => {
      const all: Record<string, AnyDocument> = Object.fromEntries(
        this.kinds.flatMap((list) => list().map((d) => [d.id, d.body as AnyDocument] as const)),
      );
      const ask = { documents: all, targets: [...this.chosen()], skip: [...this.skipped()], seen: this.seen() };
      clearTimeout(timer);
      if (this.project()) timer = setTimeout(() => this.planning.ask(() => this.planner.run('plan', ask)), REST_MS);
    });
    effect(() => {
      const hash = this.bundle()?.manifest;
      untracked(() => void this.readManifest(hash));
    });
    effect(() => {
      const proof = jobResult('proof', this.proofJob())?.proof;
      if (proof) untracked(() => void this.readProof(proof));
    });
    effect(() => {
      // Meshes are looked at once for a choice of targets; the job that delivers looks again.
      const targets = this.chosen();
      untracked(() => void this.lookAtMeshes(targets));
    });
  }

  private async lookAtMeshes(targets: readonly string[]): Promise<void> {
    if (!this.project()) return;
    const job = await this.jobs.start('preflight', { targets: [...targets] });
    if (!job) return;
    const ended = await this.jobs.whenEnded(job);
    if (this.chosen().join() === targets.join()) this.seen.set(jobResult('preflight', ended)?.seen ?? []);
  }
  private async readManifest(hash: string | undefined): Promise<void> {
    this.proof.set(null);
    this.proofId.set(null);
    try {
      this.manifest.set(hash ? await this.api.get<BundleManifest>(`/blobs/${hash}`) : null);
    } catch (error) {
      this.notices.error(error);
    }
  }
  private async readProof(hash: string): Promise<void> {
    try {
      this.proof.set(await this.api.get(`/blobs/${hash}`));
    } catch (error) {
      this.notices.error(error);
    }
  }

  toggle(id: string): void {
    const now = this.chosen();
    const next = now.includes(id) ? now.filter((t) => t !== id) : [...now, id];
    this.asked.set(next);
    keep(KEY, JSON.stringify(next));
  }
  tick(path: string): void {
    this.skipped.update((s) => {
      const next = new Set(s);
      if (!next.delete(path)) next.add(path);
      return next;
    });
  }

  /** One click does away with a finding, a step a document. */
  mend({ mend }: PreflightFinding): void {
    for (const { id, patch } of mend?.edits ?? []) {
      const kind = this.kinds.flatMap((list) => list() as readonly { id: string; body: AnyDocument }[]).find((d) => d.id === id)?.body.kind;
      if (kind) this.documents.edit(id, kind, mend?.label ?? 'Mend', (draft) => void Object.assign(draft, applyPatch(structuredClone(draft), patch)));
    }
  }
  /** Takes responsibility for a finding, or takes that back. */
  accept({ key }: PreflightFinding, reason: string | null): void {
    const project = this.project();
    if (!project) return;
    this.documents.edit(project.id, 'project', reason === null ? 'Do not accept a finding' : `Accept: ${reason}`, (draft) => {
      const accepted = { ...draft.accepted };
      if (reason === null) delete accepted[key];
      else accepted[key] = reason;
      draft.accepted = accepted;
    });
  }

  async deliver(): Promise<void> {
    const job = await this.jobs.start('deliver', { targets: [...this.chosen()], skip: [...this.skipped()] });
    if (!job) return;
    this.deliverId.set(job.id);
    const ended = await this.jobs.whenEnded(job);
    if (ended.status === 'done' && this.deliverId() === job.id) await this.prove();
  }
  async prove(): Promise<void> {
    const manifest = this.bundle()?.manifest;
    const job = manifest && (await this.jobs.start('proof', { manifest }));
    if (job) this.proofId.set(job.id);
  }
  cancel = (id: string): void => void this.jobs.cancel(id);

  zipHref(): string {
    const { manifest = '', fileName = 'bundle.zip' } = this.bundle() ?? {};
    return `/api/deliveries/${manifest}/bundle.zip?name=${encodeURIComponent(fileName)}`;
  }
  /** The stand-in by itself, with this bundle. */
  targetHref = (): string => `/target/?bundle=${this.bundle()?.manifest ?? ''}`;
}

function kept(): string[] | null {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(KEY) ?? 'null');
    return Array.isArray(list) && list.every((v) => typeof v === 'string') ? list : null;
  } catch {
    return null;
  }
}
