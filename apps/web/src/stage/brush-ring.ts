import { ChangeDetectionStrategy, Component, input } from '@angular/core';

/** How far a brush reaches where the pointer is, in pixels of what it lies over; dark and light, for any picture. */
@Component({
  selector: 'pb-brush-ring',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg aria-hidden="true">
      <circle class="under" [attr.cx]="at().x" [attr.cy]="at().y" [attr.r]="at().r" />
      <circle [attr.cx]="at().x" [attr.cy]="at().y" [attr.r]="at().r" />
    </svg>
  `,
  styles: `
    :host,
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      pointer-events: none;
    }
    circle {
      fill: none;
      stroke: #fff;
      stroke-width: 1.5;
    }
    .under {
      stroke: #000a;
      stroke-width: 3.5;
    }
  `,
})
export class BrushRing {
  readonly at = input.required<{ x: number; y: number; r: number }>();
}
