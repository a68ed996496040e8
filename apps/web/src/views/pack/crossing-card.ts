import { CdkTrapFocus } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { ChannelRoute, MapRoute } from '@pebble/core';
import { ROLE_FACTS } from '@pebble/core';
import { closedByEscape } from '../../ui/escape';
import { ScrubField } from '../../ui/scrub-field';
import type { LevelTurn } from './levels-row';
import { LevelsRow, levelsWith } from './levels-row';

/** A route as it is to be, and what the step is called. */
export interface RouteEdit {
  route: ChannelRoute;
  label: string;
}

/** Everything that is done to a map, or a constant, on its way into a channel. */
@Component({
  selector: 'pb-crossing-card',
  imports: [CdkTrapFocus, LevelsRow, ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="card-of" role="dialog" [attr.aria-label]="name()" cdkTrapFocus cdkTrapFocusAutoCapture>
      @if (route(); as r) {
        @if (r.from === 'map') {
          <div class="line">
            <button class="pill" [class.on]="r.invert" [attr.aria-pressed]="r.invert" (click)="invert(r)">Invert (1 − v)</button>
            <button class="pill" [class.on]="!!r.space" [attr.aria-pressed]="!!r.space" (click)="turnSpace(r)">{{ space() }}</button>
          </div>
          <div class="line">Levels <pb-levels-row [levels]="r.levels" (live)="level(r, $event, false)" (done)="level(r, $event, true)" /></div>
        } @else {
          <div class="line">
            Value
            <pb-scrub
              label="Constant"
              [value]="r.value"
              [min]="0"
              [max]="1"
              [step]="0.005"
              [decimals]="3"
              (live)="draft.emit({ route: { from: 'constant', value: $event }, label: '' })"
              (done)="done.emit({ route: { from: 'constant', value: $event }, label: 'Constant ' + $event.toFixed(3) })"
            />
          </div>
        }
      }
      @if (warning(); as text) {
        <p class="quiet">{{ text }}</p>
      }
      <div class="line end"><button class="pill" (click)="cleared.emit()">Clear this channel</button></div>
    </div>
  `,
  styles: `
    .card-of {
      display: grid;
      gap: 8px;
      padding: 10px 12px;
      max-width: 400px;
      background: var(--raise);
      border-radius: 12px;
      box-shadow: var(--shadow);
    }
    .line {
      display: flex;
      gap: 8px;
      align-items: center;
      flex-wrap: wrap;
    }
    .end {
      justify-content: flex-end;
    }
    p {
      margin: 0;
    }
  `,
})
export class CrossingCard {
  readonly name = input.required<string>();
  readonly route = input<ChannelRoute>();
  readonly warning = input<string | null>(null);
  /** As it is turned. */
  readonly draft = output<RouteEdit>();
  readonly done = output<RouteEdit>();
  readonly cleared = output<void>();
  readonly closed = output<void>();

  constructor() {
    closedByEscape(() => this.closed.emit());
  }

  private readonly colour = computed(() => {
    const route = this.route();
    return route?.from === 'map' && ROLE_FACTS[route.role].colourSpace === 'srgb';
  });
  readonly space = computed(() => (this.colour() ? 'As linear light' : 'Stored as sRGB'));

  invert = (r: MapRoute): void => this.done.emit({ route: { ...r, invert: !r.invert }, label: r.invert ? 'Not inverted' : 'Invert' });
  /** What is unset is taken away: it would not be written. */
  turnSpace(r: MapRoute): void {
    const { space, ...rest } = r;
    this.done.emit(
      space ? { route: rest, label: 'As it is stored' } : { route: { ...rest, space: this.colour() ? 'linear' : 'srgb' }, label: this.space() },
    );
  }
  level(r: MapRoute, { key, word, value }: LevelTurn, whole: boolean): void {
    const { levels, ...rest } = r;
    const next = levelsWith(levels, key, value);
    const edit = { route: next ? { ...rest, levels: next } : rest, label: `Levels ${word} ${value.toFixed(3)}` };
    if (whole) this.done.emit(edit);
    else this.draft.emit(edit);
  }
}
