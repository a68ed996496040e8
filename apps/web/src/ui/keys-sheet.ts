import { A11yModule } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import type { ActionId } from './actions';
import { ACTIONS, ACTION_IDS, Actions, GESTURES } from './actions';
import { closedByEscape } from './escape';

const PLACES = [...new Set(ACTION_IDS.map((id) => ACTIONS[id].place))];

/** All keys, and a way to change each. */
@Component({
  selector: 'pb-keys',
  imports: [A11yModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="popover sheet"
      role="dialog"
      aria-label="Keys"
      aria-modal="true"
      cdkTrapFocus
      cdkTrapFocusAutoCapture
      (click)="$event.stopPropagation()"
      (keydown)="down($event)"
    >
      <h3>Keys</h3>
      <div class="columns">
        @for (place of places; track place.name) {
          <section>
            <h4>{{ place.name }}</h4>
            <dl>
              @for (id of place.ids; track id) {
                <dt>
                  <button
                    class="key"
                    [class.own]="actions.changed(id)"
                    [class.waits]="setting() === id"
                    [attr.aria-label]="'Key of “' + facts[id].label + '”: ' + actions.text(id) + '. Change it'"
                    (click)="ask(id)"
                  >
                    {{ setting() === id ? 'press a key' : actions.text(id) }}
                  </button>
                </dt>
                <dd>
                  {{ facts[id].label }}
                  @if (held(id)) {
                    <span class="quiet">while held</span>
                  }
                  @if (actions.changed(id)) {
                    <button class="link" (click)="actions.reset(id)">as it was</button>
                  }
                </dd>
              }
            </dl>
          </section>
        }
        <section>
          <h4>By hand</h4>
          <dl>
            @for (g of gestures; track g.keys) {
              <dt class="quiet">{{ g.keys }}</dt>
              <dd>{{ g.does }}</dd>
            }
          </dl>
        </section>
      </div>
      <p class="quiet" role="status">{{ problem() || 'A click on a key changes it. Escape leaves it as it is.' }}</p>
      <button class="button" (click)="closed.emit()">Close</button>
    </div>
  `,
  styles: `
    .sheet {
      width: min(820px, 94vw);
      max-height: 88vh;
      overflow: auto;
      display: grid;
      gap: 10px;
      justify-items: start;
    }
    .columns {
      columns: 2;
      column-gap: 28px;
      width: 100%;
    }
    section {
      break-inside: avoid;
      margin-bottom: 10px;
    }
    h4 {
      margin: 0 0 4px;
      font-size: 12px;
      color: var(--quiet);
    }
    dl {
      display: grid;
      grid-template-columns: 116px 1fr;
      gap: 3px 10px;
      margin: 0;
      align-items: center;
    }
    dt {
      font: 12px/18px var(--mono);
    }
    dd {
      margin: 0;
    }
    .key {
      font: 12px/18px var(--mono);
      border: 1px solid var(--edge);
      border-radius: 5px;
      padding: 0 7px;
      min-width: 24px;
    }
    .key.own {
      font-weight: 500;
      border-color: var(--ink);
    }
    .key.waits {
      background: var(--glaze-soft);
      border-color: var(--glaze);
    }
    .link {
      color: var(--glaze);
      text-decoration: underline;
      margin-left: 6px;
    }
  `,
})
export class KeysSheet {
  readonly actions = inject(Actions);
  readonly closed = output<void>();
  readonly facts = ACTIONS;
  readonly gestures = GESTURES;
  readonly places = PLACES.map((name) => ({ name, ids: ACTION_IDS.filter((id) => ACTIONS[id].place === name) }));
  readonly setting = signal<ActionId | null>(null);
  readonly problem = signal('');

  constructor() {
    closedByEscape(() => this.closed.emit());
    closedByEscape(
      () => this.done(),
      () => this.setting() !== null,
    );
  }

  held = (id: ActionId): boolean => 'held' in ACTIONS[id];
  ask(id: ActionId): void {
    this.problem.set('');
    this.setting.set(id);
    this.actions.taking.set(true);
  }
  private done(): void {
    this.setting.set(null);
    this.actions.taking.set(false);
  }
  down(event: KeyboardEvent): void {
    const id = this.setting();
    if (!id || event.key === 'Escape') return;
    event.preventDefault();
    event.stopPropagation();
    const problem = this.actions.set(id, event);
    if (problem === '') return;
    this.problem.set(problem ? `${problem}.` : '');
    this.done();
  }
}
