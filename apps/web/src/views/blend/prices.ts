import { Injectable, computed, inject, signal, untracked } from '@angular/core';
import type { CueKind, Extra, Layer, LayerContent, Price, WeatheringName } from '@pebble/core';
import { EditPrices } from '@pebble/core';
import { breathe } from '../../ui/breathe';
import { BlendModel } from './blend-model';
import { CoverageTarget } from './coverage-target';

export const priceText = ({ samples, operations }: Price): string =>
  [signed(samples, samples === 1 || samples === -1 ? 'sample' : 'samples'), signed(operations, 'ops')].filter(Boolean).join(', ') || 'free';
const signed = (n: number, of: string) => (n ? `${n > 0 ? '+' : '−'}${Math.abs(n)} ${of}` : '');

/** What is said while a price is worked out. */
const SOON = '…';

/** What changes of the open blend would cost: the difference that each makes on this stack, worked out between other things. */
@Injectable()
export class Prices {
  private readonly model = inject(BlendModel);
  private readonly target = inject(CoverageTarget);
  /** Prices of another shape, or of another layer, are others. */
  private readonly of = computed(() => `${this.model.shape()} ${this.model.selectedId()} ${this.target.groupId()}`);
  private readonly told = signal<{ of: string; texts: ReadonlyMap<string, string> }>({ of: '', texts: new Map() });
  private readonly waiting = new Map<string, (prices: EditPrices) => Price>();
  private running = false;

  /** One more cue of a kind in the coverage that is edited. */
  cue = (kind: CueKind): string => this.text(`cue ${kind}`, (prices) => prices.cue(kind, (blend) => this.target.within(blend)));
  /** What a weathering brings into the coverage that is edited. */
  weathering = (name: WeatheringName): string =>
    this.text(`weathering ${name}`, (prices) => prices.weathering(name, (blend) => this.target.within(blend)));
  /** Something else shown by a layer. */
  shows = (layer: string, key: string, content: LayerContent): string => this.text(`shows ${layer} ${key}`, (prices) => prices.shows(layer, content));
  /** One more layer on top. `key` tells it from others. */
  layer = (key: string, layer: () => Layer): string => this.text(`layer ${key}`, (prices) => prices.layer(layer()));
  /** An extra of the chosen layer, once it is used. */
  extra = (extra: Extra): string => this.text(extra, (prices) => prices.extra(extra, this.model.selectedId() ?? ''));

  /** Called within a computation or a template. */
  private text(key: string, price: (prices: EditPrices) => Price): string {
    const [{ of, texts }, now] = [this.told(), this.of()];
    const found = of === now ? texts.get(key) : undefined;
    if (found !== undefined) return found;
    this.waiting.set(key, price);
    if (!this.running) void this.work();
    return SOON;
  }

  private async work(): Promise<void> {
    this.running = true;
    await breathe();
    let [shape, prices]: [string, EditPrices | null] = ['', null];
    for (let next = this.next(); next; next = this.next()) {
      const [key, price] = next;
      const [now, blend] = [untracked(this.of), untracked(this.model.blend)];
      if (blend && (now !== shape || !prices))
        [shape, prices] = [now, new EditPrices(blend, untracked(this.model.known), untracked(this.model.blends))];
      if (prices) {
        const text = priceText(untracked(() => price(prices as EditPrices)));
        this.told.update(({ of, texts }) => ({ of: shape, texts: new Map([...(of === shape ? texts : []), [key, text]]) }));
      }
      await breathe();
    }
    this.running = false;
  }
  private next(): [string, (prices: EditPrices) => Price] | null {
    const [first] = this.waiting;
    if (first) this.waiting.delete(first[0]);
    return first ?? null;
  }
}
