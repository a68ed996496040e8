import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, effect, input, viewChild } from '@angular/core';

/** A picture that was made in a worker, filling its box. */
@Component({
  selector: 'pb-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<canvas
    #canvas
    [attr.role]="label() ? 'img' : null"
    [attr.aria-label]="label() || null"
    [attr.aria-hidden]="label() ? null : true"
  ></canvas>`,
  styles: `
    :host {
      display: block;
    }
    canvas {
      display: block;
      width: 100%;
      height: 100%;
      object-fit: cover;
    }
  `,
})
export class Picture {
  readonly picture = input<ImageBitmap | null | undefined>(null);
  readonly label = input('');
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');

  constructor() {
    effect(() => {
      const picture = this.picture();
      const canvas = this.canvas().nativeElement;
      Object.assign(canvas, { width: picture?.width ?? 1, height: picture?.height ?? 1 });
      if (picture) canvas.getContext('2d')?.drawImage(picture, 0, 0);
    });
  }
}
