import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { MapRoute } from '@pebble/core';
import { ScrubField } from '../../ui/scrub-field';

export type Levels = NonNullable<MapRoute['levels']>;
export type LevelKey = keyof Levels;
const KEYS = ['low', 'high', 'mid'] as const satisfies readonly LevelKey[];
/** Levels that change nothing. */
const EVEN: Levels = { low: 0, high: 1, mid: 0.5 };
const STEP = 0.005;

/** Levels with one of them set; undefined where none changes anything, so that nothing is written. */
export function levelsWith(levels: Levels | undefined, key: LevelKey, value: number): Levels | undefined {
  const next = { ...(levels ?? EVEN), [key]: value };
  return KEYS.every((k) => next[k] === EVEN[k]) ? undefined : next;
}

/** One of the levels, as it is now turned. */
export interface LevelTurn {
  key: LevelKey;
  /** What it is called where it is turned. */
  word: string;
  value: number;
}

/** The levels of what feeds a channel: the range that is spread over 0 to 1, and what of it becomes one half. */
@Component({
  selector: 'pb-levels-row',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { role: 'group', 'aria-label': 'Levels' },
  template: `
    @for (f of fields(); track f.key) {
      <label class="token"
        >{{ f.label }}
        <pb-scrub
          [label]="f.about"
          [value]="f.value"
          [min]="f.min"
          [max]="f.max"
          [step]="step"
          [decimals]="3"
          [initial]="f.initial"
          (live)="live.emit({ key: f.key, word: f.label, value: $event })"
          (done)="done.emit({ key: f.key, word: f.label, value: $event })"
      /></label>
    }
  `,
  styles: `
    :host {
      display: flex;
      gap: 6px;
      align-items: center;
      flex-wrap: wrap;
    }
  `,
})
export class LevelsRow {
  readonly levels = input<Levels>();
  readonly live = output<LevelTurn>();
  readonly done = output<LevelTurn>();
  readonly step = STEP;
  /** The ends never meet: there would be nothing between them to spread. */
  readonly fields = computed(() => {
    const now = this.levels() ?? EVEN;
    return [
      { key: 'low', label: 'from', about: 'What becomes 0', min: 0, max: now.high - STEP },
      { key: 'high', label: 'to', about: 'What becomes 1', min: now.low + STEP, max: 1 },
      { key: 'mid', label: 'middle', about: 'What of the range becomes one half', min: 0.01, max: 0.99 },
    ].map((field) => {
      const key = field.key as LevelKey;
      return { ...field, key, value: now[key], initial: EVEN[key] };
    });
  });
}
