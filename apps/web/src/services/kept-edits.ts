import { Injectable } from '@angular/core';
import type { Edit } from '@pebble/core';
import { newId } from '../ui/new';

export interface PendingEdit extends Edit {
  opId: string;
}

const PREFIX = 'pebble-edit:';
const TAB = 'pebble-tab';
/** How they were kept before: all of all windows under one key. */
const ALL_IN_ONE = 'pebble-pending-edits';
const LOCKS = navigator.locks as LockManager | undefined;
const newTab = (): string => newId().slice(0, 8);
const lockOf = (tab: string): string => `pebble-tab-${tab}`;

interface Kept {
  /** Of which data the document is; empty where that was not told yet. */
  data: string;
  document: string;
  edit: PendingEdit;
}

/**
 * Edits that the server has not acknowledged, in the browser: one record each, `pebble-edit:TAB:NUMBER`, owned by its tab. A
 * tab holds a lock as long as it lives; records of one that is gone are taken over by another.
 */
@Injectable({ providedIn: 'root' })
export class KeptEdits {
  private tab = '';
  private readonly keys = new Map<string, { document: string; key: string }>();
  private number = 0;
  private release: () => void = () => undefined;
  private readonly begun = this.begin();

  /** Who this tab is: the same after a reload, another where it was duplicated. */
  private async begin(): Promise<void> {
    const before = sessionStorage.getItem(TAB);
    this.tab = before && (await this.hold(before)) ? before : newTab();
    if (this.tab !== before) await this.hold(this.tab);
    try {
      sessionStorage.setItem(TAB, this.tab);
    } catch {
      // Another after a reload, which takes over what this one kept.
    }
  }
  /** Holds the lock of a tab; false where another has it. */
  private hold(tab: string): Promise<boolean> {
    // Without locks, as on pages that are not secure, a tab knows of itself alone.
    if (!LOCKS) return Promise.resolve(true);
    return new Promise((resolve) => {
      void LOCKS.request(lockOf(tab), { ifAvailable: true }, (lock) => {
        resolve(lock !== null);
        return lock ? new Promise<void>((done) => (this.release = done)) : undefined;
      });
    });
  }
  /** Lets go of the lock, as a tab does that is closed. */
  end = (): void => this.release();

  /** Keeps what waits of a document, and nothing else of it. @throws DOMException where the browser has no room */
  set(data: string, document: string, edits: readonly PendingEdit[]): void {
    const waiting = new Set(edits.map((e) => e.opId));
    for (const [opId, { document: of, key }] of this.keys)
      if (of === document && !waiting.has(opId)) {
        localStorage.removeItem(key);
        this.keys.delete(opId);
      }
    for (const edit of edits) if (!this.keys.has(edit.opId)) this.write({ data, document, edit });
  }
  /** The server stands on other data now: what waits stays kept, for when the data comes back. */
  aside = (): void => this.keys.clear();

  private write(kept: Kept): void {
    const { document, edit } = kept;
    // Numbers of a later life of this tab come after those of an earlier one.
    this.number = Math.max(this.number + 1, Date.now() * 1000);
    const key = `${PREFIX}${this.tab}:${String(this.number).padStart(17, '0')}`;
    localStorage.setItem(key, JSON.stringify(kept));
    this.keys.set(edit.opId, { document, key });
  }

  /** What this tab kept in an earlier life, and what tabs kept that are gone, by document in the order in which it was made. */
  async take(data: string): Promise<ReadonlyMap<string, readonly PendingEdit[]>> {
    await this.begun;
    if (!LOCKS) return this.takeFrom((tab) => tab === this.tab, data);
    return LOCKS.request('pebble-take-over', async () => {
      const alive = new Set((await LOCKS.query()).held?.map((l) => l.name));
      return this.takeFrom((tab) => tab === this.tab || !alive.has(lockOf(tab)), data);
    });
  }
  private takeFrom(mayTake: (tab: string) => boolean, data: string): ReadonlyMap<string, readonly PendingEdit[]> {
    const mine = new Set([...this.keys.values()].map((k) => k.key));
    const found = Object.keys(localStorage)
      .filter((key) => key.startsWith(PREFIX) && !mine.has(key))
      .map((key) => ({ key, tab: key.slice(PREFIX.length).split(':')[0], at: key.slice(key.lastIndexOf(':')) }))
      .filter(({ tab }) => mayTake(tab))
      .flatMap(({ key, at }) => {
        const kept = this.read(key);
        return kept && (kept.data === data || !kept.data) ? [{ key, at, kept }] : [];
      })
      .sort((a, b) => (a.at < b.at ? -1 : 1));
    const taken = [...this.allInOne(data), ...found.map(({ kept }) => kept)];
    const by = new Map<string, PendingEdit[]>();
    for (const kept of taken) {
      by.set(kept.document, [...(by.get(kept.document) ?? []), kept.edit]);
      if (this.keys.has(kept.edit.opId)) continue;
      try {
        this.write(kept);
      } catch {
        // No room for a second one: the first stays until it is sent.
        this.keys.set(kept.edit.opId, { document: kept.document, key: found.find((f) => f.kept === kept)?.key ?? '' });
      }
    }
    const now = new Set([...this.keys.values()].map((k) => k.key));
    for (const { key } of found) if (!now.has(key)) localStorage.removeItem(key);
    localStorage.removeItem(ALL_IN_ONE);
    return by;
  }
  private read(key: string): Kept | null {
    try {
      const kept = JSON.parse(localStorage.getItem(key) ?? 'null') as Kept | null;
      return kept?.edit.opId && kept.document ? kept : null;
    } catch {
      return null;
    }
  }
  private allInOne(data: string): Kept[] {
    try {
      const all = JSON.parse(localStorage.getItem(ALL_IN_ONE) ?? '{}') as Record<string, PendingEdit[]>;
      return Object.entries(all).flatMap(([document, edits]) => edits.map((edit) => ({ data, document, edit })));
    } catch {
      return [];
    }
  }
}
