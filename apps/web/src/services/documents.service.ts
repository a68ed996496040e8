import type { Signal, WritableSignal } from '@angular/core';
import { DestroyRef, Injectable, computed, inject, signal } from '@angular/core';
import type { History, ListedDocument, LiveEvent, StoredDocument } from '@pebble/contracts';
import { MAX_WHOLE } from '@pebble/contracts/lists';
import type { AnyDocument, DocumentKind, DocumentOf, Edit } from '@pebble/core';
import { EditConflict, applyPatch, editBetween } from '@pebble/core';
import { dequal } from 'dequal/lite';
import { ApiError, ApiService } from './api.service';
import type { PendingEdit } from './kept-edits';
import { KeptEdits } from './kept-edits';
import { LiveService } from './live.service';
import { NoticesService } from './notices.service';
import { Latest } from '../ui/latest';
import { newId } from '../ui/new';

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

/** A document as lists have it. */
interface Listed<T> {
  id: string;
  body: T;
}

/** One document: what is kept of it, and its state in the middle of a gesture, which is shown but not yet an edit. */
class Kept {
  readonly kind: DocumentKind;
  readonly local: WritableSignal<Local>;
  readonly draft = signal<AnyDocument | null>(null);
  /** What comes back from the server as it was sent is no change. */
  readonly listed: Signal<Listed<AnyDocument>>;

  constructor(first: Local) {
    this.kind = first.kind;
    this.local = signal(first);
    this.listed = computed(() => ({ id: first.id, body: this.draft() ?? this.local().body }), { equal: (a, b) => dequal(a.body, b.body) });
  }
}

/** How long after a failure it is tried again, at first and at most; after how many failures of the server it is said. */
const AGAIN_MS = 1500;
const AGAIN_AT_MOST_MS = 15_000;
const SAID_AFTER = 3;
/** How often it is looked for what other tabs left. */
const TAKE_OVER_MS = 5000;
const LOOK_AT_MOST_MS = 2000;
const EMPTY: History = { steps: [], undo: null, redo: null, more: null };

/**
 * The documents of the project. Edits apply here at once, go to the server one after the other, survive a reload while
 * they wait, and are tried again on top of what another window did first.
 */
@Injectable({ providedIn: 'root' })
export class DocumentsService {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly live = inject(LiveService);
  private readonly keptEdits = inject(KeptEdits);
  /** Changes only as documents come and go: each has signals of its own. */
  private readonly kept = signal<ReadonlyMap<string, Kept>>(new Map());
  private readonly lists = new Map<DocumentKind, Signal<Listed<never>[]>>();
  private readonly histories = signal<ReadonlyMap<string, History>>(new Map());
  private readonly sending = new Set<string>();
  private readonly ownOps = new Set<string>();
  /** Documents that were heard to come or go. */
  private comings = 0;
  private readonly offline = signal(false);
  /** Answers in a row that say something is wrong with the server. */
  private failures = 0;
  /** Which data the server stands on. */
  private data = '';
  /** The browser takes no more: what waits is in this window alone. */
  private readonly full = signal(false);
  readonly loaded = signal(false);

  readonly saveState = computed(() => {
    const waiting = [...this.kept().values()].reduce((n, d) => n + d.local().pending.length, 0);
    const edits = `${waiting} ${waiting === 1 ? 'edit' : 'edits'}`;
    if (this.full() && this.offline() && waiting) return `Offline, ${edits} in this window only: the browser’s storage is full. Keep it open`;
    if (this.offline() || (!this.live.connected() && waiting)) return waiting ? `Offline, ${edits} kept` : 'Offline';
    return waiting ? 'Saving…' : 'Saved';
  });

  constructor() {
    this.live.events.subscribe((event) => void this.hear(event));
    this.live.opened.subscribe(({ data }) => {
      // Versions of other data say nothing of these.
      const other = this.data !== '' && data !== this.data;
      this.data = data;
      if (other) {
        this.kept.set(new Map());
        this.keptEdits.aside();
      }
      void this.load();
    });
    void this.load();
    addEventListener('online', () => this.flushAll());
    // Another tab may be closed with edits that it could not send.
    const looking = setInterval(() => this.loaded() && void this.takeOver(), TAKE_OVER_MS);
    inject(DestroyRef).onDestroy(() => clearInterval(looking));
  }

  /** Reads everything; tries again until the server answers. */
  async load(): Promise<void> {
    try {
      const before = this.comings;
      await this.look();
      const list = await this.api.get<ListedDocument[]>('/documents');
      const lacking = list.filter(({ id, version }) => (this.local(id)?.version ?? 0) < version).map(({ id }) => id);
      const whole = new Map((await this.whole(lacking)).map((d) => [d.id, d]));
      // Something came or went while the answer was on its way: it may be too old to know.
      if (this.comings !== before) return await this.load();
      const known = this.kept();
      const all = new Map<string, Kept>();
      for (const { id, kind } of list) {
        const here = known.get(id);
        const now = here?.local();
        const read = whole.get(id);
        // An answer may be older than what was acknowledged while it was on its way; what is here already was not asked for.
        const base = now && (!read || now.version > read.version) ? now : read && { id, kind, version: read.version, server: read.body };
        // It went again while it was read: its event says so too.
        if (!base) continue;
        const local = this.rebase({ ...base, pending: [...(now?.pending ?? []), ...this.foundFor(id)] });
        here?.local.set(local);
        all.set(id, here ?? new Kept(local));
      }
      this.kept.set(all);
      this.offline.set(false);
      this.loaded.set(true);
      this.flushAll();
    } catch (error) {
      if (!(error instanceof ApiError) || !error.transient) this.notices.error(error);
      this.offline.set(true);
      setTimeout(() => void this.load(), 1500);
    }
  }

  /** Documents whole, as many at a time as may be asked for. */
  private async whole(ids: readonly string[]): Promise<StoredDocument[]> {
    const lots = Array.from({ length: Math.ceil(ids.length / MAX_WHOLE) }, (_, i) => ids.slice(i * MAX_WHOLE, (i + 1) * MAX_WHOLE));
    return (await Promise.all(lots.map((lot) => this.api.post<StoredDocument[]>('/documents/whole', { ids: lot })))).flat();
  }

  /** What was kept in an earlier life of this tab, or by a tab that is gone, and is not with its document yet. */
  private readonly found = new Map<string, readonly PendingEdit[]>();
  /** Nobody waits long for it: what is found later is taken up then. */
  private async look(): Promise<void> {
    // Before it is known of which data the documents are nothing is taken for theirs.
    if (!this.data) return;
    const taking = this.keptEdits.take(this.data).then(
      (all) => all.forEach((edits, id) => this.found.set(id, [...(this.found.get(id) ?? []), ...edits])),
      // A browser that may keep nothing has kept nothing.
      () => undefined,
    );
    await Promise.race([taking, new Promise((resolve) => setTimeout(resolve, LOOK_AT_MOST_MS))]);
  }
  private foundFor(id: string): readonly PendingEdit[] {
    const found = this.found.get(id) ?? [];
    this.found.delete(id);
    return found;
  }
  private async takeOver(): Promise<void> {
    await this.look();
    for (const id of [...this.found.keys()]) {
      const local = this.local(id);
      if (!local) continue;
      this.put(this.rebase({ ...local, pending: [...local.pending, ...this.foundFor(id)] }));
      void this.flush(id);
    }
  }

  /** All of a kind, in the order in which they were made: the same list, and the same entries, until one of them changes. */
  list<K extends DocumentKind>(kind: K): Signal<Listed<DocumentOf<K>>[]> {
    const known = this.lists.get(kind);
    if (known) return known as Signal<Listed<DocumentOf<K>>[]>;
    const made = computed(() => [...this.kept().values()].filter((d) => d.kind === kind).map((d) => d.listed() as Listed<DocumentOf<K>>), {
      equal: (a, b) => a.length === b.length && a.every((d, i) => d === b[i]),
    });
    this.lists.set(kind, made as Signal<Listed<never>[]>);
    return made;
  }

  body<K extends DocumentKind>(id: string | null | undefined, kind: K): DocumentOf<K> | undefined {
    const kept = id ? this.kept().get(id) : undefined;
    return kept?.kind === kind ? (kept.listed().body as DocumentOf<K>) : undefined;
  }

  history = (id: string | null | undefined): History => (id ? this.histories().get(id) : undefined) ?? EMPTY;

  /** Shows a state in the middle of a gesture. */
  draft<K extends DocumentKind>(id: string, kind: K, change: (draft: DocumentOf<K>) => void): void {
    const before = this.body(id, kind);
    if (!before) return;
    const after = structuredClone(before);
    change(after);
    this.kept().get(id)?.draft.set(after);
  }

  /** Ends a gesture: the whole of it becomes one edit. @param strict refused rather than put on top of what another window did there */
  commit(id: string, label: string, strict = false): void {
    const kept = this.kept().get(id);
    const after = kept?.draft();
    if (!kept || !after) return;
    const local = kept.local();
    const edit = editBetween(local.body, after, label, strict);
    kept.draft.set(null);
    this.push(local, edit);
  }

  /** Gives up a gesture. */
  dropDraft = (id: string): void => this.kept().get(id)?.draft.set(null);

  /** A gesture that is over at once. */
  edit<K extends DocumentKind>(id: string, kind: K, label: string, change: (draft: DocumentOf<K>) => void): void {
    this.draft(id, kind, change);
    this.commit(id, label);
  }

  private local = (id: string): Local | undefined => this.kept().get(id)?.local();

  private push(local: Local, edit: Edit): void {
    if (!edit.patch.length) return;
    const pending = [...local.pending, { ...edit, opId: newId() }];
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
    const known = this.kept().get(local.id);
    if (known) known.local.set(local);
    else this.kept.update((m) => new Map(m).set(local.id, new Kept(local)));
    try {
      this.keptEdits.set(this.data, local.id, local.pending);
      this.full.set(false);
    } catch {
      // An edit that cannot be kept here is sent all the same.
      this.full.set(true);
    }
  }

  private flushAll(): void {
    for (const [id, { local }] of this.kept()) if (local().pending.length) void this.flush(id);
    for (const id of this.histories().keys()) this.readHistory(id);
  }

  /** Sends the pending edits of a document, one at a time. */
  private async flush(id: string): Promise<void> {
    if (this.sending.has(id)) return;
    this.sending.add(id);
    try {
      for (let local = this.local(id); local?.pending.length; local = this.local(id)) {
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
          this.failures = 0;
          this.acknowledge(id, edit.opId, version);
        } catch (error) {
          if (!(error instanceof ApiError)) throw error;
          if (error.transient) {
            this.offline.set(true);
            // It stays, whatever happens to the server; somebody who looks is told what it says.
            if (error.status >= 500 && ++this.failures === SAID_AFTER)
              this.notices.error(`"${edit.label}" is kept and tried again: ${error.message}`);
            setTimeout(() => void this.flush(id), Math.min(AGAIN_MS * Math.max(1, this.failures), AGAIN_AT_MOST_MS));
            return;
          }
          const now = this.local(id);
          // The server stands on other data meanwhile: what it has against the edit is not about this document.
          if (!now) return;
          const { version, body } = error.problem as { version?: number; body?: AnyDocument };
          if (error.problem.code === 'version-conflict' && body && version) this.put(this.rebase({ ...now, version, server: body }));
          else {
            this.notices.error(error.message);
            this.put(this.rebase({ ...now, pending: now.pending.filter((e) => e.opId !== edit.opId) }));
          }
        }
      }
    } finally {
      this.sending.delete(id);
      if (this.histories().has(id)) this.readHistory(id);
    }
  }

  private acknowledge(id: string, opId: string, version: number): void {
    const local = this.local(id);
    const edit = local?.pending.find((e) => e.opId === opId);
    if (!local || !edit) return;
    const pending = local.pending.filter((e) => e !== edit);
    // Where more was heard since, what the server has holds the edit, and perhaps what followed it.
    const known = version <= local.version;
    this.put(this.rebase(known ? { ...local, pending } : { ...local, version, server: applyPatch(local.server, edit.patch), pending }));
  }

  private async hear(event: LiveEvent): Promise<void> {
    if (event.type === 'job' || event.type === 'states') return;
    if (event.type !== 'document') this.comings++;
    if (event.type === 'deleted') return this.forget(event.id);
    const local = this.local(event.id);
    if (event.type === 'document') {
      // The stream may tell of our own edit while its answer is lost; what follows then lies on top of it.
      if (event.opId && this.ownOps.has(event.opId))
        return local && event.version === local.version + 1 ? this.acknowledge(event.id, event.opId, event.version) : undefined;
      if (!local || event.version <= local.version) return;
      if (event.version === local.version + 1)
        this.put(this.rebase({ ...local, version: event.version, server: applyPatch(local.server, event.patch) }));
      else await this.refresh(event.id);
      if (this.histories().has(event.id)) this.readHistory(event.id);
    } else if (!local) await this.refresh(event.id);
  }

  private forget(id: string): void {
    this.kept.update((m) => {
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
    const known = this.local(stored.id);
    if (known && known.version > stored.version) return;
    this.put(this.rebase({ id: stored.id, kind: stored.kind, version: stored.version, server: stored.body, pending: known?.pending ?? [] }));
  }

  async create(body: AnyDocument, label: string): Promise<string> {
    const stored = await this.api.post<StoredDocument>('/documents', { body, label, opId: newId() });
    this.take(stored);
    return stored.id;
  }

  /** Removes a document, with a way back for a few seconds. */
  async remove(id: string): Promise<void> {
    const name = this.local(id)?.body.name ?? 'Document';
    try {
      await this.api.delete(`/documents/${id}`);
      this.forget(id);
      if (await this.notices.offer(`${name} was removed`, 'Bring back')) this.take(await this.api.post<StoredDocument>(`/documents/${id}/restore`));
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** Reads the newest named steps of a document and keeps them up to date from then on: one reading at a time, and one after the last edit. */
  readHistory(id: string): void {
    let reading = this.readings.get(id);
    if (!reading)
      this.readings.set(
        id,
        (reading = new Latest<History>(
          (history) => this.histories.update((m) => new Map(m).set(id, history)),
          () => this.histories.update((m) => (m.has(id) ? m : new Map(m).set(id, EMPTY))),
        )),
      );
    reading.ask(() => this.api.get<History>(`/documents/${id}/history`));
  }
  private readonly readings = new Map<string, Latest<History>>();

  /** Reads the steps before those that are known. */
  async readOlder(id: string): Promise<void> {
    const known = this.history(id);
    if (known.more === null) return;
    try {
      const { steps, more } = await this.api.get<History>(`/documents/${id}/history?before=${known.more}`);
      // Where another reading came between and its page ends elsewhere, it is asked again.
      const now = this.history(id);
      if (now.more === known.more) this.histories.update((m) => new Map(m).set(id, { ...now, steps: [...steps, ...now.steps], more }));
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** Takes back or does again `times` steps, newest first. */
  async turn(id: string, turn: 'undo' | 'redo', times = 1): Promise<void> {
    this.dropDraft(id);
    try {
      for (let i = 0; i < times; i++) {
        const opId = newId();
        this.ownOps.add(opId);
        this.take(await this.api.post<StoredDocument>(`/documents/${id}/${turn}`, { opId }));
      }
    } catch (error) {
      if (!(error instanceof ApiError && error.problem.code.startsWith('nothing-to'))) this.notices.error(error);
    }
    this.readHistory(id);
  }
}
