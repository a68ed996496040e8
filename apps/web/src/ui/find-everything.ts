import { A11yModule } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { Router } from '@angular/router';
import { inOrder, matchScore } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { ACTIONS, ACTION_IDS, Actions } from './actions';
import { WORDS } from './words';
import { closedByEscape } from './escape';
import type { PlacedKind } from './places';
import { PLACED_KINDS, placeOf } from './places';

/** Something that can be gone to, done or read. */
interface Hit {
  key: string;
  name: string;
  kind: string;
  more: string;
  score: number;
  take: () => void;
}
const MOST = 40;

/** One search over views, documents, layers, actions with their keys, and what short words mean. */
@Component({
  selector: 'pb-find',
  imports: [A11yModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="popover"
      role="dialog"
      aria-label="Search everything"
      aria-modal="true"
      cdkTrapFocus
      cdkTrapFocusAutoCapture
      (click)="$event.stopPropagation()"
      (keydown)="key($event)"
    >
      <input
        class="field"
        cdkFocusInitial
        role="combobox"
        aria-controls="found"
        aria-expanded="true"
        aria-label="Search everything"
        placeholder="A document, a layer, an action, a word"
        [attr.aria-activedescendant]="hits().length ? 'found-' + at() : null"
        (input)="query.set($any($event.target).value)"
        data-testid="find"
      />
      <div id="found" role="listbox" aria-label="Found">
        @for (hit of hits(); track hit.key; let i = $index) {
          <button role="option" tabindex="-1" [id]="'found-' + i" [class.on]="i === at()" [attr.aria-selected]="i === at()" (click)="take(hit)">
            <b>{{ hit.name }}</b> <span class="tag">{{ hit.kind }}</span>
            @if (hit.more) {
              <small>{{ hit.more }}</small>
            }
          </button>
        }
      </div>
      @if (!hits().length) {
        <p class="quiet">Nothing is called so. Try a part of a name, or what it does.</p>
      }
    </div>
  `,
  styles: `
    .popover {
      width: min(520px, 92vw);
      max-height: 70vh;
      display: flex;
      flex-direction: column;
      gap: 6px;
      padding: 10px;
    }
    #found {
      overflow: auto;
    }
    button {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto;
      gap: 0 8px;
      width: 100%;
      text-align: left;
      padding: 4px 8px;
      border-radius: 8px;
    }
    b {
      font-weight: 550;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    small {
      grid-column: 1 / 3;
      color: var(--quiet);
    }
    button.on,
    button:hover {
      background: var(--glaze-soft);
    }
  `,
})
export class FindEverything {
  private readonly documents = inject(DocumentsService);
  private readonly actions = inject(Actions);
  private readonly router = inject(Router);
  readonly closed = output<void>();
  constructor() {
    closedByEscape(() => this.closed.emit());
  }
  readonly query = signal('');
  private readonly chosen = signal(0);
  private readonly lists = PLACED_KINDS.map((kind) => ({ kind, list: this.documents.list(kind) }));

  private readonly all = computed<Omit<Hit, 'score'>[]>(() => {
    const goes =
      (kind: PlacedKind, id: string, more: Record<string, string> = {}) =>
      () => {
        const place = placeOf(kind, id);
        if (place) void this.router.navigate(place.path, { queryParams: { ...place.query, ...more } });
      };
    const actions = ACTION_IDS.flatMap((id) => {
      const handler = this.actions.handler(id);
      // What works while a key is held cannot be chosen from a list.
      if (!handler || id === 'find') return [];
      const held = 'held' in ACTIONS[id];
      return [
        {
          key: `a ${id}`,
          name: ACTIONS[id].label,
          kind: this.actions.text(id),
          more: held ? 'while the key is held' : '',
          take: () => void (held || handler.down()),
        },
      ];
    });
    const documents = this.lists.flatMap(({ kind, list }) =>
      list().map(({ id, body }) => ({ key: id, name: body.name, kind, more: '', take: goes(kind, id) })),
    );
    const layers = this.lists.flatMap(({ kind, list }) =>
      kind !== 'blend'
        ? []
        : list().flatMap(({ id, body }) =>
            body.kind === 'blend'
              ? inOrder(body.layers).map((l) => ({
                  key: `${id} ${l.id}`,
                  name: l.name,
                  kind: 'layer',
                  more: `in ${body.name}`,
                  take: goes('blend', id, { layer: l.id }),
                }))
              : [],
          ),
    );
    const words = Object.entries(WORDS).map(([id, { word, means }]) => ({
      key: `w ${id}`,
      name: word,
      kind: 'word',
      more: means,
      take: () => undefined,
    }));
    return [...actions, ...documents, ...layers, ...words];
  });
  readonly hits = computed<Hit[]>(() => {
    const text = this.query().trim();
    if (!text)
      return this.all()
        .slice(0, MOST)
        .map((hit) => ({ ...hit, score: 0 }));
    return this.all()
      .map((hit) => ({ ...hit, score: Math.max(matchScore(text, hit.name), 0.5 * matchScore(text, hit.more), 0.4 * matchScore(text, hit.kind)) }))
      .filter((hit) => hit.score > 0)
      .sort((a, b) => b.score - a.score)
      .slice(0, MOST);
  });
  readonly at = computed(() => Math.min(this.chosen(), Math.max(0, this.hits().length - 1)));

  key(event: KeyboardEvent): void {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by) this.chosen.set(Math.max(0, Math.min(this.hits().length - 1, this.at() + by)));
    else if (event.key === 'Enter') this.take(this.hits()[this.at()]);
    else return void (event.key.length === 1 && this.chosen.set(0));
    event.preventDefault();
    document.getElementById(`found-${this.at()}`)?.scrollIntoView({ block: 'nearest' });
  }
  take(hit: Hit | undefined): void {
    // A word says what it means where it stands.
    if (!hit || hit.kind === 'word') return;
    this.closed.emit();
    hit.take();
  }
}
