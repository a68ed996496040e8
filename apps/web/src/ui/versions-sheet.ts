import { A11yModule } from '@angular/cdk/a11y';
import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, effect, inject, output, signal, untracked } from '@angular/core';
import { Router } from '@angular/router';
import type { KeptState, StateDifference } from '@pebble/contracts';
import { NoticesService } from '../services/notices.service';
import { StatesService } from '../services/states.service';
import { closedByEscape } from './escape';
import { placeOf } from './places';

/** Named versions of the project: kept, compared, gone back to, let go. */
@Component({
  selector: 'pb-versions',
  imports: [A11yModule, DatePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="popover sheet"
      role="dialog"
      aria-label="Named versions"
      aria-modal="true"
      cdkTrapFocus
      cdkTrapFocusAutoCapture
      (click)="$event.stopPropagation()"
    >
      <h3>Named versions</h3>
      <form class="keep" (submit)="$event.preventDefault(); keep(name.value); name.value = ''">
        <input #name class="field" cdkFocusInitial maxlength="120" aria-label="Name of a version" placeholder="Name of what there is now" />
        <button class="button">Keep it</button>
      </form>
      <ul>
        @for (state of states.all(); track state.id) {
          <li [class.open]="opened() === state.id">
            <div class="line">
              <button class="name" [attr.aria-expanded]="opened() === state.id" (click)="open(state)">
                <b [title]="state.name">{{ state.name }}</b>
                <span class="quiet num">{{ state.at | date: 'd MMM, HH:mm' }}</span>
              </button>
              <button class="pill" (click)="asked.set(asked() === state.id ? '' : state.id)" [attr.aria-pressed]="asked() === state.id">
                go back …
              </button>
              <button
                class="round"
                [attr.aria-label]="'Let go of ' + state.name"
                title="Let go of this name; no document changes"
                (click)="letGo(state)"
              >
                ×
              </button>
            </div>
            @if (asked() === state.id) {
              <p class="ask">
                Every document becomes as it was then, what was made since is put away. What there is now is kept first, under “Before going back to
                {{ state.name }}”.
                <button class="button" [disabled]="busy()" (click)="goBack(state)">Go back</button>
              </p>
            }
            @if (opened() === state.id) {
              @if (differences(); as all) {
                <div class="differences">
                  @for (d of all; track d.id) {
                    <span class="how" [class]="d.how">{{ HOW[d.how] }}</span>
                    @if (d.how !== 'removed' && link(d); as go) {
                      <button class="link" (click)="go()">{{ d.name }}</button>
                    } @else {
                      <span>{{ d.name }}</span>
                    }
                    <span class="quiet">{{ d.kind }}</span>
                  } @empty {
                    <p class="quiet">Nothing is otherwise now.</p>
                  }
                </div>
              } @else {
                <p class="quiet">Comparing …</p>
              }
            }
          </li>
        } @empty {
          <li class="quiet none">
            {{ states.all() ? 'No version has a name yet. Give one to what there is now, before a change that you may regret.' : 'Reading …' }}
          </li>
        }
      </ul>
      <button class="button" (click)="closed.emit()">Close</button>
    </div>
  `,
  styles: `
    .sheet {
      width: min(560px, 94vw);
      max-height: 84vh;
      display: flex;
      flex-direction: column;
      gap: 12px;
      align-items: stretch;
    }
    .keep {
      display: grid;
      grid-template-columns: 1fr auto;
      gap: 8px;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
      overflow: auto;
      min-height: 0;
    }
    li {
      padding: 2px 0;
      border-top: 1px solid var(--line);
    }
    .none {
      padding: 10px 4px;
    }
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    .name {
      flex: 1;
      min-width: 0;
      display: flex;
      gap: 10px;
      align-items: baseline;
      text-align: left;
      padding: 8px 4px;
    }
    .name b {
      font-weight: 550;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .name span {
      white-space: nowrap;
    }
    .ask {
      margin: 0 0 8px;
      padding: 8px 12px;
      border-radius: 10px;
      background: var(--ground);
      line-height: 1.45;
    }
    .ask .button {
      display: block;
      margin-top: 8px;
    }
    .differences {
      display: grid;
      grid-template-columns: auto minmax(0, 1fr) auto;
      gap: 4px 10px;
      padding: 2px 4px 10px;
      align-items: baseline;
    }
    .differences > * {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      text-align: left;
    }
    .differences p {
      grid-column: 1 / 4;
      margin: 0;
    }
    .how {
      font-size: 12px;
      color: var(--quiet);
    }
    .link {
      text-decoration: underline;
      text-underline-offset: 2px;
    }
    .sheet > .button {
      align-self: start;
    }
  `,
})
export class VersionsSheet {
  readonly states = inject(StatesService);
  private readonly notices = inject(NoticesService);
  private readonly router = inject(Router);
  readonly closed = output<void>();
  readonly opened = signal('');
  readonly asked = signal('');
  readonly busy = signal(false);
  readonly differences = signal<readonly StateDifference[] | null>(null);
  readonly HOW = { changed: 'changed since', added: 'made since', removed: 'removed since' } as const;

  constructor() {
    closedByEscape(() => this.closed.emit());
    this.states.read();
    // What changes while it is looked at is compared anew.
    effect(() => {
      this.states.all();
      const id = this.opened();
      if (id) untracked(() => void this.compare(id));
    });
  }

  keep(name: string): void {
    if (name.trim()) void this.states.keep(name.trim());
  }
  open({ id }: KeptState): void {
    this.differences.set(null);
    this.opened.set(this.opened() === id ? '' : id);
  }
  private async compare(id: string): Promise<void> {
    try {
      const all = await this.states.differences(id);
      if (this.opened() === id) this.differences.set(all);
    } catch (error) {
      this.notices.error(error);
    }
  }
  async goBack(state: KeptState): Promise<void> {
    this.busy.set(true);
    const done = await this.states.goBack(state.id);
    this.busy.set(false);
    if (!done) return;
    this.asked.set('');
    this.notices.say(`Everything is as it was at ${state.name}; what there was is kept as a version of its own`);
  }
  async letGo({ id, name }: KeptState): Promise<void> {
    if (await this.states.letGo(id)) this.notices.say(`${name} is no version any more; no document was changed`);
  }
  link({ kind, id }: StateDifference): (() => void) | null {
    const place = placeOf(kind, id);
    if (!place) return null;
    return () => {
      this.closed.emit();
      void this.router.navigate(place.path, { queryParams: place.query });
    };
  }
}
