import { Injectable, computed, inject, signal } from '@angular/core';
import { flatAt, flatTo } from '@pebble/stage';
import { clicked, follow } from '../../../ui/follow';
import { Accounts } from '../../../stage/accounts';
import { BlendModel } from '../blend-model';
import { StageScene } from '../../../stage/stage-scene';
import { MaskPainting } from '../brush/mask-painting';
import { StageCut, alongCut } from './stage-cut';

/** How far its middle goes, and how much of it is seen. */
const REACH = [-0.4, 1.4] as const;
const SPANS = [0.02, 2] as const;
/** Share of what is seen that an arrow key moves it by. */
const STEP = 0.05;
const held = (v: number, [least, most]: readonly [number, number]): number => Math.min(most, Math.max(least, v));

/** The flat beside the specimen: what of it is seen, and what the pointer and keys do on it. */
@Injectable()
export class FlatPane {
  private readonly model = inject(BlendModel);
  private readonly accounts = inject(Accounts);
  private readonly cut = inject(StageCut);
  private readonly masks = inject(MaskPainting);
  private readonly scene = inject(StageScene);
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
  private place(event: PointerEvent | WheelEvent, box: DOMRect): [number, number] {
    return flatAt(this.view(), this.aspect(), (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  }
  private readonly boxOf = (event: Event): DOMRect => (event.currentTarget as HTMLElement).getBoundingClientRect();

  readonly cutLine = computed(() => this.cut.line((u, v) => this.to(u, v)));
  /** The brush on a mask, at its true size; null while there is none. */
  readonly ring = computed(() => {
    const [at, extent] = [this.model.pointer(), this.model.blend()?.extentM];
    if (!this.masks.active() || !at || !extent) return null;
    return { ...this.to(at.u, at.v), r: this.masks.brush().radiusM / extent / this.perPixel() };
  });

  private move(du: number, dv: number): void {
    this.view.update((f) => ({ ...f, u: held(f.u + du, REACH), v: held(f.v + dv, REACH) }));
    this.scene.look(true);
  }

  /** A press paints on the mask that is open, else it moves the flat; a click asks why a place looks as it does. */
  press(event: PointerEvent): void {
    const box = this.boxOf(event);
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    if (this.masks.active() && event.button === 0 && !event.shiftKey)
      return this.masks.press(event, (e) => {
        const [u, v] = this.place(e, box);
        return { u, v };
      });
    const [u, v] = this.place(event, box);
    clicked(event, () => this.accounts.onFlat(u, v, this.perPixel()));
    follow(event, (dx, dy) => this.move(-dx * this.perPixel(), -dy * this.perPixel()));
  }
  point(event: PointerEvent): void {
    const [u, v] = this.place(event, this.boxOf(event));
    this.model.pointer.set({ u, v });
    this.model.along.set(alongCut(this.model.cut(), u, v));
  }
  leave(): void {
    this.model.pointer.set(null);
    this.model.along.set(null);
  }
  zoom(event: WheelEvent): void {
    event.preventDefault();
    const [u, v] = this.place(event, this.boxOf(event));
    this.view.update((f) => {
      const span = held(f.span * Math.exp(event.deltaY * 0.001), SPANS);
      const k = span / f.span;
      return { u: u + (f.u - u) * k, v: v + (f.v - v) * k, span };
    });
    this.scene.look(true);
  }
  /** Arrow keys move it; Enter paints in the middle of what is seen. */
  key(event: KeyboardEvent): void {
    const step = this.view().span * STEP;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    const dab = event.key === 'Enter' && this.masks.active();
    // The ends of the cut lie in it and have keys of their own.
    if (event.target !== event.currentTarget || (!by && !dab)) return;
    event.preventDefault();
    if (by) return this.move(by[0], by[1]);
    const { u, v } = this.view();
    void this.masks.dab({ u, v });
  }
  /** Drags an end of the cut, or the whole of it. */
  dragCut(event: PointerEvent, end: 'a' | 'b' | 'both'): void {
    // Under the brush the line lies in the way.
    if (this.masks.active()) return;
    event.stopPropagation();
    this.cut.drag(event, end, this.perPixel());
  }
}
