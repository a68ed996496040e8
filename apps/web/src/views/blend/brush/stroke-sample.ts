import { ChangeDetectionStrategy, Component, ElementRef, effect, inject, input, viewChild } from '@angular/core';
import type { Brush } from '@pebble/core';
import { MaskPainter } from '@pebble/core';

/** As in the template: set later they would clear what is drawn. */
const SIDE = { width: 208, height: 52 };
/** Radii across the sample. */
const ACROSS = 7;

/** What a stroke of a brush looks like, pressed ever harder from left to right. */
@Component({
  selector: 'pb-stroke-sample',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: '<canvas #canvas width="208" height="52" role="img" aria-label="What a stroke looks like, pressed ever harder"></canvas>',
  styles: ':host { display: block; } canvas { display: block; width: 100%; height: 36px; border-radius: 8px; background: var(--grey); }',
})
export class StrokeSample {
  readonly brush = input.required<Brush>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);

  constructor() {
    effect(() => this.draw(this.brush()));
  }

  private draw(brush: Brush): void {
    const { width, height } = SIDE;
    const canvas = this.canvas().nativeElement;
    const context = canvas.getContext('2d');
    if (!context) return;
    // Square, for pixels of a mask are; what is above and below the sample is not shown.
    const painter = new MaskPainter(width, width, new Uint8Array(width * width));
    const extentM = brush.radiusM * ACROSS;
    painter.begin({ ...brush, mirror: null }, 'add', extentM);
    for (let k = 0; k <= 24; k++) {
      const t = k / 24;
      painter.to({ u: 0.14 + 0.72 * t, v: 0.5 + 0.035 * Math.sin(t * 6.28), pressure: 0.15 + 0.85 * t });
    }
    const ink = getComputedStyle(this.host.nativeElement).color.match(/\d+/g)?.map(Number) ?? [30, 30, 30];
    const image = context.createImageData(width, height);
    const top = (width - height) / 2;
    for (let i = 0; i < width * height; i++) {
      const value = painter.sheet.now[Math.floor(top) * width + i];
      image.data.set([ink[0], ink[1], ink[2], value], i * 4);
    }
    context.putImageData(image, 0, 0);
  }
}
