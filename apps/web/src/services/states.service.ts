import { Injectable, inject, signal } from '@angular/core';
import type { KeptState, StateDifference } from '@pebble/contracts';
import { Latest } from '../ui/latest';
import { newId } from '../ui/new';
import { ApiService } from './api.service';
import { LiveService } from './live.service';
import { NoticesService } from './notices.service';

/** Named versions of the project. Read when somebody looks at them, and again when they change. */
@Injectable({ providedIn: 'root' })
export class StatesService {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  /** Newest first; null until they were read. */
  readonly all = signal<readonly KeptState[] | null>(null);
  private readonly reading = new Latest<KeptState[]>(
    (states) => this.all.set(states),
    (error) => this.notices.error(error),
  );

  constructor() {
    const live = inject(LiveService);
    live.events.subscribe((event) => event.type === 'states' && this.all() && this.read());
    live.opened.subscribe(() => this.all() && this.read());
  }

  read = (): void => this.reading.ask(() => this.api.get<KeptState[]>('/states'));

  /** Those that hold a document, each with its version then. */
  async of(document: string): Promise<{ name: string; version: number }[]> {
    const states = await this.api.get<KeptState[]>(`/states?document=${document}`);
    return states.flatMap(({ name, version }) => (version ? [{ name, version }] : []));
  }

  differences = (id: string): Promise<StateDifference[]> => this.api.get<StateDifference[]>(`/states/${id}/differences`);

  /** Whether it was done; what went wrong is said. */
  keep = (name: string): Promise<boolean> => this.said(() => this.api.post('/states', { id: newId(), name }));
  goBack = (id: string): Promise<boolean> => this.said(() => this.api.post(`/states/${id}/back`, { keepAs: newId() }));
  letGo = (id: string): Promise<boolean> => this.said(() => this.api.delete(`/states/${id}`));

  private async said(work: () => Promise<unknown>): Promise<boolean> {
    try {
      await work();
      return true;
    } catch (error) {
      this.notices.error(error);
      return false;
    } finally {
      this.read();
    }
  }
}
