import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { CardGraph, CardPlace, CardPlaces } from '@pebble/core';
import { cardsOf } from '@pebble/core';
import { MasterService } from '../../services/master.service';
import { NoticesService } from '../../services/notices.service';
import { Latest } from '../../ui/latest';
import { MasterModel } from './master-model';
import { keep } from '../../ui/keep';

const KEY = 'pebble-lanes-';

/** Cards where they lie, and a rail a link. */
export interface LaidGraph {
  graph: CardGraph;
  places: CardPlaces;
  rails: CardPlace[][];
}

/** Where cards lie: laid out in a worker, kept by document on this machine so that a graph looks as it did. */
@Injectable()
export class CardLayout {
  private readonly model = inject(MasterModel);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  /** All that was ever laid here: what is taken back comes back to its place. */
  private known: CardPlaces = {};
  private readFor: string | null = null;
  readonly laid = signal<LaidGraph | null>(null);
  private readonly graph = computed(
    () => {
      const master = this.model.master();
      return master ? cardsOf(master, this.model.context()) : null;
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  private readonly latest = new Latest<LaidGraph & { id: string | null }>(
    ({ id, graph, places, rails }) => {
      if (id !== this.model.id()) return;
      this.known = { ...this.known, ...places };
      this.laid.set({ graph, places, rails });
      keep(`${KEY}${id}`, JSON.stringify(places));
    },
    (error) => this.notices.error(error),
  );

  constructor() {
    effect(() => {
      const graph = this.graph();
      const id = this.model.id();
      untracked(() => this.lay(id, graph));
    });
  }

  private lay(id: string | null, graph: CardGraph | null): void {
    if (this.readFor !== id) {
      this.readFor = id;
      this.known = readPlaces(`${KEY}${id}`);
      this.laid.set(null);
    }
    if (!graph) return;
    const before = this.known;
    this.latest.ask(async () => ({ id, graph, ...(await this.service.run('layout', { graph, before })) }));
  }

  /** Lays everything anew. */
  tidy(): void {
    this.known = {};
    this.lay(this.model.id(), this.graph());
  }
}

function readPlaces(key: string): CardPlaces {
  try {
    return (JSON.parse(localStorage.getItem(key) ?? '{}') as CardPlaces | null) ?? {};
  } catch {
    return {};
  }
}
