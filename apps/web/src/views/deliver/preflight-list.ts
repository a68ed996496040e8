import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { PreflightFinding } from '@pebble/core';
import { blocks } from '@pebble/core';
import { Delivery } from './delivery';

const CALLED = { error: 'blocks', warning: 'warns', note: 'notes' } as const;

/** What was found before a delivery: each with its place, a mend where one click is enough, or a reason why it may leave so. */
@Component({
  selector: 'pb-preflight-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h3>
      Preflight <span [class.bad]="blocking()" [class.good]="!blocking()">{{ summary() }}</span>
    </h3>
    <ul tabindex="0" aria-label="Findings">
      @for (f of delivery.findings(); track f.key) {
        <li [class]="f.severity" [class.accepted]="f.accepted !== undefined">
          <span class="what" [title]="f.message"
            ><i aria-hidden="true"></i><span class="visually-hidden">It {{ called(f) }}: </span>{{ f.message }}</span
          >
          <span class="acts">
            @if (f.mend; as mend) {
              <button class="pill" (click)="delivery.mend(f)">{{ mend.label }}</button>
            }
            @if (f.accepted !== undefined) {
              <em>accepted: {{ f.accepted }}</em>
              <button class="pill" (click)="delivery.accept(f, null)">Take back</button>
            } @else if (f.severity === 'warning') {
              @if (reasonOf() === f.key) {
                <input
                  #reason
                  class="field"
                  aria-label="Why it may leave so"
                  maxlength="200"
                  placeholder="because …"
                  (keydown.enter)="accept(f, reason.value)"
                  (keydown.escape)="reasonOf.set(null); $event.preventDefault()"
                />
                <button class="pill" (click)="accept(f, reason.value)">Accept</button>
              } @else {
                <button class="pill" (click)="reasonOf.set(f.key)">Accept …</button>
              }
            }
          </span>
        </li>
      } @empty {
        <li class="quiet">{{ delivery.view() ? 'Nothing was found.' : (delivery.failed() ?? 'Looking …') }}</li>
      }
    </ul>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      padding: 10px 0 0 16px;
    }
    h3 span {
      font-weight: 400;
      margin-left: 6px;
    }
    .bad {
      color: var(--error);
    }
    .good {
      color: var(--lichen-ink, var(--quiet));
    }
    ul {
      flex: 1;
      min-height: 0;
      overflow: auto;
      list-style: none;
      margin: 6px 0 0;
      padding: 0 10px 8px 0;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 8px;
      align-items: baseline;
      justify-content: space-between;
      padding: 4px 0;
      border-bottom: 1px solid var(--line);
      line-height: 17px;
    }
    .what {
      flex: 1 1 60%;
      min-width: 0;
      overflow-wrap: anywhere;
    }
    i {
      display: inline-block;
      width: 8px;
      height: 8px;
      border-radius: 4px;
      margin-right: 7px;
      background: var(--edge);
    }
    .warning i {
      background: var(--warn);
      border-radius: 1px;
    }
    .error i {
      background: var(--error);
      border-radius: 0;
      transform: rotate(45deg);
    }
    .note,
    .accepted {
      color: var(--quiet);
    }
    .acts {
      display: flex;
      gap: 6px;
      align-items: center;
      flex-wrap: wrap;
    }
    .acts .pill {
      min-height: 22px;
    }
    input {
      width: 150px;
    }
  `,
})
export class PreflightList {
  readonly delivery = inject(Delivery);
  /** Key of the finding whose reason is being written. */
  readonly reasonOf = signal<string | null>(null);
  readonly blocking = computed(() => this.delivery.blocking().length > 0);
  readonly summary = computed(() => {
    const all = this.delivery.findings();
    const count = (severity: PreflightFinding['severity']) => all.filter((f) => f.severity === severity && f.accepted === undefined).length;
    const [errors, warnings, notes] = [count('error'), count('warning'), count('note')];
    const parts = [
      ...(errors ? [`${errors} ${errors === 1 ? 'error' : 'errors'}`] : []),
      ...(warnings ? [`${warnings} ${warnings === 1 ? 'warning' : 'warnings'}`] : []),
      ...(notes ? [`${notes} ${notes === 1 ? 'note' : 'notes'}`] : []),
    ];
    if (!this.delivery.view()) return '';
    return `${all.some(blocks) ? 'not yet' : 'clean'}${parts.length ? ` · ${parts.join(', ')}` : ''}`;
  });
  called = ({ severity }: PreflightFinding): string => CALLED[severity];

  accept(finding: PreflightFinding, reason: string): void {
    if (!reason.trim()) return;
    this.delivery.accept(finding, reason.trim().slice(0, 200));
    this.reasonOf.set(null);
  }
}
