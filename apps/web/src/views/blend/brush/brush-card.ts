import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Component as Channel } from '@pebble/core';
import type { NumberField } from '../../../ui/field';
import { Field } from '../../../ui/field';
import { BlendModel } from '../blend-model';
import { BrushValues } from './brush-values';
import { MaskPainting } from './mask-painting';
import { CHANNELS, Painting } from './painting';

/** The brush: where it paints, how it is, whether the mesh is fine enough for it. */
@Component({
  selector: 'pb-brush-card',
  imports: [Field, BrushValues],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './brush-card.html',
  styleUrl: './brush-card.scss',
})
export class BrushCard {
  readonly painting = inject(Painting);
  readonly masks = inject(MaskPainting);
  readonly model = inject(BlendModel);
  readonly channels = CHANNELS;
  readonly views = [
    { id: 'look', name: 'the blend' },
    { id: 'channel', name: 'channel' },
    { id: 'all', name: 'all channels' },
  ] as const;
  /** Whether nothing looks at the chosen channel. */
  readonly idle = computed(() => !this.masks.active() && !this.painting.wells().find((w) => w.id === this.painting.channel())?.feeds.length);
  readonly fillWith = signal(1);
  readonly fillField: NumberField = { label: 'Fill with, in per cent', min: 0, max: 1, step: 0.01, factor: 0.01, unit: '%', decimals: 0, initial: 1 };

  readonly density = computed(() => (this.masks.active() ? { ...this.masks.density(), price: null } : this.painting.density()));
  readonly state = computed(() => {
    const of = this.masks.active() ? this.masks : this.painting;
    if (this.painting.refining()) return 'Making it finer …';
    if (of.waiting()) return this.masks.active() ? 'Getting the mask ready …' : 'Getting the mesh ready …';
    if (of.keeping()) return 'Keeping the stroke …';
    return this.masks.onFlat() ? 'Drag on the flat to paint, with Shift to move it.' : 'Drag on it to paint, beside it to turn it.';
  });

  /** Vertices from now on, or a mask. */
  take(channel: Channel): void {
    this.masks.path.set(null);
    this.painting.channel.set(channel);
  }
  fill(): void {
    const value = this.fillWith();
    void (this.masks.active()
      ? this.masks.whole({ what: 'fill', value })
      : this.painting.whole({ what: 'fill', channel: this.painting.channel(), value }));
  }
  invert(): void {
    void (this.masks.active() ? this.masks.whole({ what: 'invert' }) : this.painting.whole({ what: 'invert', channel: this.painting.channel() }));
  }
  swap(other: string): void {
    const channel = this.painting.channel();
    if (other && other !== channel) void this.painting.whole({ what: 'swap', channel, other: other as Channel });
  }
}
