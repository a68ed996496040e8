import { Injectable, computed, inject, signal } from '@angular/core';
import { flatTo } from '@pebble/stage';
import { clicked, follow } from '../../../ui/follow';
import { Accounts } from '../../../stage/accounts';
import { BlendModel } from '../blend-model';
import { StageScene } from '../../../stage/stage-scene';
import { MaskPainting } from '../brush/mask-painting';
import type { Mark } from './specimen-marks';
import { SpecimenMarks } from './specimen-marks';
import { StageCut, alongCut } from './stage-cut';

/** The flat beside the specimen: what of it is seen, and what the pointer and keys do on it. */
@Injectable()
export class FlatPane {
  private readonly model = inject(BlendModel);
  private readonly accounts = inject(Accounts);
  private readonly cut = inject(StageCut);
  private readonly masks = inject(MaskPainting);
  private readonly scene = inject(StageScene);
  private readonly onSpecimen = inject(SpecimenMarks);
  readonly view = this.scene.flat;
  /** Pixels of the pane. */
  readonly size = signal({ width: 1, height: 1 });
  readonly aspect = computed(() => this.size().width / Math.max(1, this.size().height));

  /** Where a place of the extent is seen, in pixels. */
  private to(u: number, v: number): { x: number; y: number } {
    const { width, height } = this.size();
    const [x, y] = flatTo(this.view(), this.aspect(), u, v);
    return { x: x * width, y: y * height };
  }
  private readonly perPixel = (): number => this.view().span / this.size().width;

  readonly cutLine = computed(() => this.cut.line((u, v) => this.to(u, v)));
  /** Where a place is seen that may lie after whole repetitions, as what is flat does repeat. */
  private seen(u: number, v: number): { x: number; y: number } {
    const at = this.to(u, v);
    const { width, height } = this.size();
    return at.x >= 0 && at.y >= 0 && at.x <= width && at.y <= height ? at : this.to(u - Math.floor(u), v - Math.floor(v));
  }
  /** Places whose accounts are open, and where the pointer is on the specimen. */
  readonly marks = computed<Mark[]>(() => {
    const at = this.onSpecimen.pointing() ? this.model.pointer() : null;
    const accounts = this.accounts.shown().map(({ places }, i) => ({ ...this.seen(places.texcoord[0], places.texcoord[1]), number: i + 1 }));
    return at ? [...accounts, { ...this.seen(at.u, at.v), number: null }] : accounts;
  });
  /** The brush on a mask, at its true size; null while there is none. */
  readonly ring = computed(() => {
    const [at, extent] = [this.model.pointer(), this.model.blend()?.extentM];
    if (!this.masks.onFlat() || !at || !extent) return null;
    return { ...this.to(at.u, at.v), r: this.masks.brush().radiusM / extent / this.perPixel() };
  });

  /** A press paints on the mask that is open, else it moves the flat; a click asks why a place looks as it does. */
  press(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    const box = pane.getBoundingClientRect();
    pane.focus({ preventScroll: true });
    if (this.masks.onFlat() && event.button === 0 && !event.shiftKey)
      return this.masks.press(event, (e) => {
        const [u, v] = this.scene.flatPlace(e, box);
        return { u, v };
      });
    const [u, v] = this.scene.flatPlace(event, box);
    clicked(event, () => this.accounts.onFlat(u, v, this.perPixel()));
    follow(event, (dx, dy) => this.scene.moveFlat(-dx * this.perPixel(), -dy * this.perPixel()));
  }
  point(event: PointerEvent): void {
    const [u, v] = this.scene.flatPlace(event);
    this.model.pointer.set({ u, v });
    this.model.along.set(alongCut(this.model.cut(), u, v));
  }
  leave(): void {
    this.model.pointer.set(null);
    this.model.along.set(null);
  }
  /** Arrow keys move it; Enter paints in the middle of what is seen. */
  key(event: KeyboardEvent): void {
    // The ends of the cut lie in it and have keys of their own.
    if (event.target !== event.currentTarget || this.scene.flatKey(event)) return;
    if (event.key !== 'Enter' || !this.masks.onFlat()) return;
    event.preventDefault();
    const { u, v } = this.view();
    void this.masks.dab({ u, v });
  }
  /** Drags an end of the cut, or the whole of it. */
  dragCut(event: PointerEvent, end: 'a' | 'b' | 'both'): void {
    // Under the brush the line lies in the way.
    if (this.masks.onFlat()) return;
    event.stopPropagation();
    this.cut.drag(event, end, this.perPixel());
  }
}
