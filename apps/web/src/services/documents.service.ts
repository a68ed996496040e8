import type { Signal } from '@angular/core';
import { Injectable, computed, inject, signal } from '@angular/core';
import type { History, LiveEvent, StoredDocument } from '@pebble/contracts';
import type { AnyDocument, DocumentKind, Edit } from '@pebble/core';
import { EditConflict, applyPatch, editBetween } from '@pebble/core';
import { ApiError, ApiService } from './api.service';
import { LiveService } from './live.service';
import { NoticesService } from './notices.service';

type Of<K extends DocumentKind> = Extract<AnyDocument, { kind: K }>;
interface PendingEdit extends Edit {
  opId: string;
}
interface Local {
  id: string;
  kind: DocumentKind;
  /** As the server last told it. */
  version: number;
  server: AnyDocument;
  /** Edits made here that the server has not acknowledged, oldest first. */
  pending: PendingEdit[];
  /** The server's state with the pending edits on it. */
  body: AnyDocument;
}

const PENDING_KEY = 'pebble-pending-edits';
const EMPTY: History = { steps: [], undo: null, redo: null };

/**
 * The documents of the project. Edits apply here at once, go to the server one after the other, survive a reload while
 * they wait, and are tried again on top of what another window did first.
 */
@Injectable({ providedIn: 'root' })
export class DocumentsService {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly live = inject(LiveService);
  private readonly locals = signal<ReadonlyMap<string, Local>>(new Map());
  /** States in the middle of a gesture: shown, but not yet an edit. */
  private readonly drafts = signal<ReadonlyMap<string, AnyDocument>>(new Map());
  private readonly histories = signal<ReadonlyMap<string, History>>(new Map());
  private readonly sending = new Set<string>();
  private readonly ownOps = new Set<string>();
  /** Documents that were heard to come or go. */
  private comings = 0;
  private readonly offline = signal(false);
  readonly loaded = signal(false);

  readonly saveState = computed(() => {
    const waiting = [...this.locals().values()].reduce((n, d) => n + d.pending.length, 0);
    if (this.offline() || (!this.live.connected() && waiting))
      return waiting ? `Offline, ${waiting} ${waiting === 1 ? 'edit' : 'edits'} kept` : 'Offline';
    return waiting ? 'Saving…' : 'Saved';
  });

  constructor() {
    this.live.events.subscribe((event) => void this.hear(event));
    this.live.opened.subscribe(() => void this.load());
    void this.load();
    addEventListener('online', () => this.flushAll());
  }

  /** Reads everything; tries again until the server answers. */
  async load(): Promise<void> {
    try {
      const before = this.comings;
      const list = await this.api.get<StoredDocument[]>('/documents');
      // Something came or went while the answer was on its way: it may be too old to know.
      if (this.comings !== before) return await this.load();
      const kept = JSON.parse(localStorage.getItem(PENDING_KEY) ?? '{}') as Record<string, PendingEdit[]>;
      const known = this.locals();
      const merged = list.map((d): [string, Local] => {
        const here = known.get(d.id);
        // An answer may be older than what was acknowledged while it was on its way.
        if (here && here.version > d.version) return [d.id, here];
        return [d.id, this.rebase({ ...d, server: d.body, pending: here?.pending ?? kept[d.id] ?? [] })];
      });
      this.locals.set(new Map(merged));
      this.offline.set(false);
      this.loaded.set(true);
      this.flushAll();
    } catch (error) {
      if (!(error instanceof ApiError) || !error.transient) this.notices.error(error);
      this.offline.set(true);
      setTimeout(() => void this.load(), 1500);
    }
  }

  list<K extends DocumentKind>(kind: K): Signal<{ id: string; body: Of<K> }[]> {
    return computed(() => [...this.locals().values()].filter((d) => d.kind === kind).map((d) => ({ id: d.id, body: this.now(d) as Of<K> })));
  }

  body<K extends DocumentKind>(id: string | null | undefined, kind: K): Of<K> | undefined {
    const local = id ? this.locals().get(id) : undefined;
    return local?.kind === kind ? (this.now(local) as Of<K>) : undefined;
  }

  private now = (local: Local): AnyDocument => this.drafts().get(local.id) ?? local.body;

  history = (id: string | null | undefined): History => (id ? this.histories().get(id) : undefined) ?? EMPTY;

  /** Shows a state in the middle of a gesture. */
  draft<K extends DocumentKind>(id: string, kind: K, change: (draft: Of<K>) => void): void {
    const before = this.body(id, kind);
    if (!before) return;
    const after = structuredClone(before);
    change(after);
    this.drafts.update((m) => new Map(m).set(id, after));
  }

  /** Ends a gesture: the whole of it becomes one edit. @param strict refused rather than put on top of what another window did there */
  commit(id: string, label: string, strict = false): void {
    const local = this.locals().get(id);
    const after = this.drafts().get(id);
    if (!local || !after) return;
    this.drafts.update((m) => {
      const next = new Map(m);
      next.delete(id);
      return next;
    });
    this.push(local, editBetween(local.body, after, label, strict));
  }

  /** Gives up a gesture. */
  dropDraft(id: string): void {
    this.drafts.update((m) => {
      const next = new Map(m);
      next.delete(id);
      return next;
    });
  }

  /** A gesture that is over at once. */
  edit<K extends DocumentKind>(id: string, kind: K, label: string, change: (draft: Of<K>) => void): void {
    this.draft(id, kind, change);
    this.commit(id, label);
  }

  private push(local: Local, edit: Edit): void {
    if (!edit.patch.length) return;
    const pending = [...local.pending, { ...edit, opId: crypto.randomUUID() }];
    this.put(this.rebase({ ...local, pending }));
    void this.flush(local.id);
  }

  /** Applies the pending edits to the server's state; one that no longer fits is dropped, and said. */
  private rebase(local: Omit<Local, 'body'>): Local {
    let body = local.server;
    const pending: PendingEdit[] = [];
    for (const edit of local.pending)
      try {
        body = applyPatch(body, edit.patch, edit.strict);
        pending.push(edit);
      } catch (error) {
        if (!(error instanceof EditConflict)) throw error;
        this.notices.error(`"${edit.label}" could not be kept: another window changed the same place (${error.path})`);
      }
    return { ...local, pending, body };
  }

  private put(local: Local): void {
    this.locals.update((m) => new Map(m).set(local.id, local));
    const waiting = [...this.locals().values()].filter((d) => d.pending.length);
    if (waiting.length) localStorage.setItem(PENDING_KEY, JSON.stringify(Object.fromEntries(waiting.map((d) => [d.id, d.pending]))));
    else localStorage.removeItem(PENDING_KEY);
  }

  private flushAll(): void {
    for (const { id, pending } of this.locals().values()) if (pending.length) void this.flush(id);
    for (const id of this.histories().keys()) void this.readHistory(id);
  }

  /** Sends the pending edits of a document, one at a time. */
  private async flush(id: string): Promise<void> {
    if (this.sending.has(id)) return;
    this.sending.add(id);
    try {
      for (let local = this.locals().get(id); local?.pending.length; local = this.locals().get(id)) {
        const [edit] = local.pending;
        this.ownOps.add(edit.opId);
        try {
          const { version } = await this.api.post<{ version: number }>(`/documents/${id}/edits`, {
            opId: edit.opId,
            baseVersion: local.version,
            label: edit.label,
            patch: edit.patch,
            inverse: edit.inverse,
          });
          this.offline.set(false);
          this.acknowledge(id, edit.opId, version);
        } catch (error) {
          if (!(error instanceof ApiError)) throw error;
          if (error.transient) {
            this.offline.set(true);
            setTimeout(() => void this.flush(id), 1500);
            return;
          }
          const { version, body } = error.problem as { version?: number; body?: AnyDocument };
          if (error.problem.code === 'version-conflict' && body && version)
            this.put(this.rebase({ ...(this.locals().get(id) as Local), version, server: body }));
          else {
            this.notices.error(error.message);
            const now = this.locals().get(id) as Local;
            this.put(this.rebase({ ...now, pending: now.pending.filter((e) => e.opId !== edit.opId) }));
          }
        }
      }
    } finally {
      this.sending.delete(id);
      if (this.histories().has(id)) void this.readHistory(id);
    }
  }

  private acknowledge(id: string, opId: string, version: number): void {
    const local = this.locals().get(id);
    const edit = local?.pending.find((e) => e.opId === opId);
    if (local && edit)
      this.put({
        ...local,
        version: Math.max(version, local.version),
        server: applyPatch(local.server, edit.patch),
        pending: local.pending.filter((e) => e !== edit),
      });
  }

  private async hear(event: LiveEvent): Promise<void> {
    if (event.type === 'job') return;
    if (event.type !== 'document') this.comings++;
    if (event.type === 'deleted') return this.forget(event.id);
    const local = this.locals().get(event.id);
    if (event.type === 'document') {
      if (event.opId && this.ownOps.has(event.opId)) return;
      if (!local || event.version <= local.version) return;
      if (event.version === local.version + 1)
        this.put(this.rebase({ ...local, version: event.version, server: applyPatch(local.server, event.patch) }));
      else await this.refresh(event.id);
      if (this.histories().has(event.id)) void this.readHistory(event.id);
    } else if (!local) await this.refresh(event.id);
  }

  private forget(id: string): void {
    this.locals.update((m) => {
      const next = new Map(m);
      next.delete(id);
      return next;
    });
  }

  private async refresh(id: string): Promise<void> {
    try {
      this.take(await this.api.get<StoredDocument>(`/documents/${id}`));
    } catch (error) {
      if (error instanceof ApiError && error.status === 404) this.forget(id);
    }
  }

  private take(stored: StoredDocument): void {
    const known = this.locals().get(stored.id);
    if (known && known.version > stored.version) return;
    this.put(this.rebase({ id: stored.id, kind: stored.kind, version: stored.version, server: stored.body, pending: known?.pending ?? [] }));
  }

  async create(body: AnyDocument, label: string): Promise<string> {
    const stored = await this.api.post<StoredDocument>('/documents', { body, label, opId: crypto.randomUUID() });
    this.take(stored);
    return stored.id;
  }

  /** Removes a document, with a way back for a few seconds. */
  async remove(id: string): Promise<void> {
    const name = this.locals().get(id)?.body.name ?? 'Document';
    try {
      await this.api.delete(`/documents/${id}`);
      this.forget(id);
      if (await this.notices.offer(`${name} was removed`, 'Bring back')) this.take(await this.api.post<StoredDocument>(`/documents/${id}/restore`));
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** Reads the named steps of a document and keeps them up to date from then on. */
  async readHistory(id: string): Promise<void> {
    try {
      const history = await this.api.get<History>(`/documents/${id}/history`);
      this.histories.update((m) => new Map(m).set(id, history));
    } catch {
      this.histories.update((m) => (m.has(id) ? m : new Map(m).set(id, EMPTY)));
    }
  }

  /** Takes back or does again `times` steps, newest first. */
  async turn(id: string, turn: 'undo' | 'redo', times = 1): Promise<void> {
    this.dropDraft(id);
    try {
      for (let i = 0; i < times; i++) {
        const opId = crypto.randomUUID();
        this.ownOps.add(opId);
        this.take(await this.api.post<StoredDocument>(`/documents/${id}/${turn}`, { opId }));
      }
    } catch (error) {
      if (!(error instanceof ApiError && error.problem.code.startsWith('nothing-to'))) this.notices.error(error);
    }
    await this.readHistory(id);
  }
}
