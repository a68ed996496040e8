import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Extra, Layer, LayerLaying } from '@pebble/core';
import { BlendModel } from '../blend-model';
import { Prices } from '../prices';
import type { Chosen, Scores } from '../stage/repeats';
import { Repeats } from '../stage/repeats';
import type { LayerField } from './layer-fields';
import { CELLS_FIELDS, FAR_FIELDS, MACRO_FIELDS, TURNS_FIELDS } from './layer-fields';
import { LayerToken } from './layer-token';

/** One way of lying: how it is called, what is said of it, its numbers once it is used. */
interface Way {
  key: Extra & keyof LayerLaying;
  name: string;
  fields: readonly LayerField[];
}
const WAYS: readonly Way[] = [
  { key: 'turns', name: 'takes turns with itself', fields: TURNS_FIELDS },
  { key: 'cells', name: 'in cells turned by chance', fields: CELLS_FIELDS },
  { key: 'macro', name: 'lighter and darker in patches', fields: MACRO_FIELDS },
  { key: 'far', name: 'larger from afar', fields: FAR_FIELDS },
  { key: 'sides', name: 'from the sides where steep', fields: [] },
];

/** Less than this is not worth saying. */
const LEAST_GAIN = 0.01;

/** How the surface of a layer hides that it repeats, or is stretched, each with its price and what it makes of that. */
@Component({
  selector: 'pb-layer-laying',
  imports: [LayerToken],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h4>Hides that it repeats</h4>
    @if (repeats.chosen(); as found) {
      <p class="quiet" data-testid="repeats">
        Seen from {{ metres(found) }} m it repeats {{ scores(found, found.plain) }}{{ hides() ? ', now ' + scores(found, found.now) : '' }}; up to
        0.25 goes unnoticed.
      </p>
    }
    @for (way of ways; track way.key) {
      @let used = layer().laying?.[way.key];
      <label class="check">
        <input type="checkbox" [checked]="!!used" (change)="set(way, $any($event.target).checked)" />
        <span
          >{{ way.name }}
          @if (!used) {
            <span class="costs">
              <span class="tag">{{ prices.extra(way.key) }}</span>
              @if (would(way.key); as text) {
                <span class="tag">{{ text }}</span>
              }
            </span>
          }
        </span>
      </label>
      @if (used) {
        @for (field of way.fields; track field.label) {
          <label class="number"
            >{{ field.word }} <span class="token"><pb-layer-token [field]="field" [layer]="layer()" /></span
          ></label>
        }
      }
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: minmax(0, 1fr);
      gap: 6px;
    }
    h4 {
      margin: 2px 0 0;
      font-size: 12px;
      color: var(--quiet);
      font-weight: 600;
    }
    p {
      margin: 0;
      font-size: 12px;
    }
    label {
      display: flex;
      align-items: center;
      gap: 10px;
    }
    .check {
      align-items: flex-start;
    }
    .costs {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
    }
    .number {
      justify-content: space-between;
      padding-left: 24px;
    }
  `,
})
export class LayerLayingCard {
  readonly layer = input.required<Layer>();
  readonly repeats = inject(Repeats);
  private readonly model = inject(BlendModel);
  readonly prices = inject(Prices);
  readonly ways = WAYS;
  private readonly score = (v: number | null | undefined): string => (v === null || v === undefined ? '…' : v.toFixed(2));
  readonly metres = ({ distances }: Chosen): string => distances.join(' · ');
  readonly scores = ({ distances }: Chosen, of: Scores): string => distances.map((d) => this.score(of[d])).join(' · ');
  /** Whether it hides already that it repeats. */
  readonly hides = computed(() => WAYS.some(({ key }) => key !== 'sides' && this.layer().laying?.[key]));
  /** What one more way would make of it, from where it is noticed most; nothing where it changes nothing. */
  would(key: Way['key']): string | null {
    const found = this.repeats.chosen();
    const of = found?.would[key];
    if (!found || !of) return null;
    const gain = (d: number) => (found.now[d] ?? 0) - (of[d] ?? found.now[d] ?? 0);
    const at = found.distances.reduce((best, d) => (gain(d) > gain(best) ? d : best));
    if (Math.abs(gain(at)) < LEAST_GAIN) return null;
    return `${found.distances.length > 1 ? `from ${at} m ` : 'repeats '}${this.score(found.now[at])} → ${this.score(of[at])}`;
  }
  set({ key, name }: Way, on: boolean): void {
    const id = this.model.selectedId();
    if (id === null) return;
    const usual = this.repeats.usual(this.layer());
    this.model.edit(`${this.layer().name}: ${on ? name : `not ${name}`}`, (d) => {
      const laying: LayerLaying = { ...d.layers[id].laying, ...(on ? { [key]: usual[key] } : {}) };
      if (!on) delete laying[key];
      if (Object.keys(laying).length) d.layers[id].laying = laying;
      else delete d.layers[id].laying;
    });
  }
}
