import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { MaskDepth } from '@pebble/core';
import { MASK_SIDES } from '@pebble/core';
import { bytesText } from '../../ui/bytes';
import { Field } from '../../ui/field';
import { BlendModel } from '../blend/blend-model';
import { MaskMaking } from '../blend/brush/mask-making';
import { MaskPainting } from '../blend/brush/mask-painting';
import { Painting } from '../blend/brush/painting';

/** What is done to all of what is painted, and how fine it is. */
@Component({
  selector: 'pb-mask-actions',
  imports: [Field],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row">
      <button class="pill" [disabled]="of().waiting()" (click)="fill()">fill</button>
      <span class="token"><pb-field [field]="fillField" [value]="fillWith()" (live)="fillWith.set($event)" (done)="fillWith.set($event)" /></span>
      <button class="pill" [disabled]="of().waiting()" (click)="invert()">invert</button>
      @if (masks.active() && others()) {
        <button
          class="pill"
          [disabled]="masks.waiting()"
          (click)="making.copyRule()"
          title="What the sentence says is put into the mask, and the sentence goes"
        >
          rule into paint
        </button>
      }
    </div>
    @if (masks.active() && masks.size(); as size) {
      <div class="row">
        <select class="pill" aria-label="Pixels of the mask" (change)="side(+$any($event.target).value)">
          @if (!known(size.width)) {
            <option selected [value]="size.width">{{ size.width }} × {{ size.height }}</option>
          }
          @for (s of sides; track s) {
            <option [value]="s" [selected]="s === size.width">{{ s }}²</option>
          }
        </select>
        <select class="pill" aria-label="Bits of the mask" (change)="depth(+$any($event.target).value)">
          @for (d of depths; track d) {
            <option [value]="d" [selected]="d === size.depth">{{ d }} bit</option>
          }
        </select>
        <span class="tag" title="In memory, with smaller levels">{{ bytes() }}</span>
        @if (masks.well()?.cue?.picture; as picture) {
          <a class="link" [href]="'/api/blobs/' + picture + '?name=mask.png'">save .png</a>
        }
      </div>
    }
    <p class="quiet" [class.amiss]="!density().enough">{{ density().say }}</p>
    <p class="quiet state">{{ state() }}</p>
  `,
  styles: `
    :host {
      display: grid;
      gap: 4px;
    }
    .row {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px;
    }
    .pill {
      height: 24px;
      min-height: 0;
    }
    select.pill {
      background: transparent;
      border: 0;
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    .token {
      height: 24px;
    }
    p {
      margin: 0;
      font-size: 12px;
    }
    .amiss {
      color: var(--warn);
    }
    .link {
      color: var(--glaze);
      text-decoration: underline;
      font-size: 12px;
    }
  `,
})
export class MaskActions {
  readonly masks = inject(MaskPainting);
  readonly making = inject(MaskMaking);
  readonly painting = inject(Painting);
  private readonly model = inject(BlendModel);
  readonly sides = MASK_SIDES;
  readonly depths: readonly MaskDepth[] = [8, 16];
  readonly fillWith = signal(1);
  readonly fillField = { label: 'Fill with, in per cent', min: 0, max: 1, step: 0.01, factor: 0.01, unit: '%', decimals: 0, initial: 1 } as const;
  readonly of = computed(() => (this.masks.active() ? this.masks : this.painting));
  readonly density = computed(() => this.of().density());
  readonly known = (side: number): boolean => (MASK_SIDES as readonly number[]).includes(side);
  /** Whether the sentence that the mask stands in says more than it. */
  readonly others = computed(() => {
    const [well, blend] = [this.masks.well(), this.model.blend()];
    return well && blend ? Object.keys(blend[well.path.of][well.path.id]?.coverage ?? {}).length > 1 : false;
  });
  readonly bytes = computed(() => {
    const size = this.masks.size();
    return size ? bytesText(Math.round((size.width * size.height * 4) / 3)) : '';
  });
  readonly state = computed(() => {
    if (!this.painting.on()) return 'The brush is put away: a drag turns the picture.';
    if (this.of().waiting()) return 'Getting it ready …';
    if (this.of().keeping()) return 'Keeping the stroke …';
    return this.masks.onFlat() ? 'Drag on the flat to paint, with Shift to move it.' : 'Drag on it to paint, beside it to turn it.';
  });

  fill(): void {
    const value = this.fillWith();
    void (this.masks.active()
      ? this.masks.whole({ what: 'fill', value })
      : this.painting.whole({ what: 'fill', channel: this.painting.channel(), value }));
  }
  invert(): void {
    void (this.masks.active() ? this.masks.whole({ what: 'invert' }) : this.painting.whole({ what: 'invert', channel: this.painting.channel() }));
  }
  side = (side: number): void => void this.masks.resize({ side });
  depth = (depth: number): void => void this.masks.resize({ depth: depth === 16 ? 16 : 8 });
}
