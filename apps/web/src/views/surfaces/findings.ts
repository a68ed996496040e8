import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Finding, MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS } from '@pebble/core';
import type { MapChange, Mend } from './mends';
import { mendsFor } from './mends';

/** A mend and what it will be called in the list of undo. */
export interface MendOrder {
  label: string;
  changes: MapChange[];
}

/** What was found in the maps of a surface, with how sure it is and what can be done about it in one click. */
@Component({
  selector: 'pb-findings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h3>What we see in the pixels</h3>
    @for (item of items(); track $index) {
      <div class="finding" [class]="item.finding.severity">
        <b>{{ item.label }}</b> {{ item.text }} <span class="num">{{ (item.finding.confidence * 100).toFixed(0) }} %</span>
        @if (item.mends.length) {
          <span class="mends">
            @for (mend of item.mends; track mend.label) {
              <button class="pill" (click)="mended.emit({ label: mend.label + ': ' + item.label.toLowerCase(), changes: mend.changes })">
                {{ mend.label }}
              </button>
            }
          </span>
        }
      </div>
    }
    @for (note of surface().notes; track note) {
      <div class="finding info">{{ note }}</div>
    }
    @if (!items().length && !surface().notes.length) {
      <p class="quiet">Nothing doubtful: sizes agree, every map varies, no lossy normal.</p>
    }
    @if (origin(); as text) {
      <p class="quiet">{{ text }}</p>
    }
  `,
  styles: `
    .finding {
      padding: 6px 0 6px 10px;
      border-left: 3px solid var(--line);
      margin-top: 6px;
    }
    .finding.warning {
      border-color: var(--warn);
    }
    .finding.question {
      border-color: var(--error);
    }
    .num {
      color: var(--quiet);
    }
    .mends {
      display: flex;
      flex-wrap: wrap;
      margin-left: -10px;
    }
    .mends .pill {
      color: var(--glaze);
      font-weight: 600;
    }
  `,
})
export class Findings {
  readonly surface = input.required<SurfaceDocument>();
  readonly mended = output<MendOrder>();
  readonly items = computed(() =>
    ROLES.flatMap((role) => {
      const entry = this.surface().maps[role];
      return entry ? (entry.findings ?? []).map((finding) => item(role, entry, finding)) : [];
    }),
  );
  readonly origin = computed(() => {
    const { author, source, licence } = this.surface().origin ?? { author: '', source: '', licence: '' };
    return [author && `By ${author}`, source && `from ${source}`, licence].filter(Boolean).join(', ');
  });
}

function item(role: Role, entry: MapEntry, finding: Finding): { label: string; text: string; finding: Finding; mends: Mend[] } {
  const text = `${finding.message[0].toLowerCase()}${finding.message.slice(1)}${/[.?]$/.test(finding.message) ? '' : '.'}`;
  return { label: ROLE_FACTS[role].label, text, finding, mends: mendsFor(role, entry, finding) };
}
