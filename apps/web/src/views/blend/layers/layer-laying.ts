import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Extra, Layer, LayerLaying } from '@pebble/core';
import { DEFAULT_FAR } from '@pebble/core';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { BlendModel } from '../blend-model';
import { Prices } from '../prices';
import { Repeats, usualTurns } from '../stage/repeats';
import type { LayerField } from './layer-fields';
import { FAR_FIELDS, TURNS_FIELD } from './layer-fields';
import { LayerToken } from './layer-token';

/** One way of lying: how it is called, what is said of it, its numbers once it is used. */
interface Way {
  key: Extra & keyof LayerLaying;
  name: string;
  fields: readonly LayerField[];
}
const WAYS: readonly Way[] = [
  { key: 'turns', name: 'takes turns with itself', fields: [TURNS_FIELD] },
  { key: 'far', name: 'larger from afar', fields: FAR_FIELDS },
  { key: 'sides', name: 'from the sides where steep', fields: [] },
];

/** How the surface of a layer hides that it repeats, or is stretched, each with its price and what it makes of that. */
@Component({
  selector: 'pb-layer-laying',
  imports: [LayerToken],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h4>Hides that it repeats</h4>
    @if (repeats.chosen(); as found) {
      <p class="quiet" data-testid="repeats">
        Seen from 2 m it repeats {{ score(found.plain) }}{{ layer().laying?.turns ? ', now ' + score(found.turned) : '' }}; up to 0.25 goes unnoticed.
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
              @if (way.key === 'turns' && repeats.chosen(); as found) {
                <span class="tag">repeats {{ score(found.plain) }} → {{ score(found.turned) }}</span>
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
  private readonly specimen = inject(StageSpecimen);
  readonly ways = WAYS;
  readonly score = (v: number | null): string => (v === null ? '…' : v.toFixed(2));

  /** Metres of one repetition, as the layer lies. */
  private readonly sizeM = computed(() => {
    const { shows, look } = this.layer();
    return ((shows.kind === 'surface' ? this.model.surfaces()[shows.surface]?.sizeM : undefined) ?? 1) * look.scale;
  });
  private usual(): Required<LayerLaying> {
    // Where the extent comes again itself, patches over it would show just that.
    const over = this.specimen.terrain() ? { over: 'world' as const } : {};
    return { turns: { ...usualTurns(this.sizeM()), ...over }, far: { ...DEFAULT_FAR }, sides: true };
  }
  set({ key, name }: Way, on: boolean): void {
    const id = this.model.selectedId();
    if (id === null) return;
    const usual = this.usual();
    this.model.edit(`${this.layer().name}: ${on ? name : `not ${name}`}`, (d) => {
      const laying: LayerLaying = { ...d.layers[id].laying, ...(on ? { [key]: usual[key] } : {}) };
      if (!on) delete laying[key];
      if (Object.keys(laying).length) d.layers[id].laying = laying;
      else delete d.layers[id].laying;
    });
  }
}
