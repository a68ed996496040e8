import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { Mark } from './specimen-marks';

/** Over a picture: the cut where it is seen, places whose accounts are open, and where the pointer is elsewhere. */
@Component({
  selector: 'pb-marks',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg aria-hidden="true">
      @if (cut(); as path) {
        <path class="halo" [attr.d]="path" />
        <path class="line" [attr.d]="path" />
      }
      @for (m of marks(); track $index) {
        <g [attr.transform]="'translate(' + m.x + ' ' + m.y + ')'">
          @if (m.number === null) {
            <circle class="pointer" r="5" />
          } @else {
            <circle class="place" r="8" />
            <text>{{ m.number }}</text>
          }
        </g>
      }
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
    path {
      fill: none;
    }
    .halo {
      stroke: #0008;
      stroke-width: 4;
    }
    .line {
      stroke: #fff;
      stroke-width: 2;
      stroke-dasharray: 7 5;
    }
    .pointer {
      fill: var(--glaze);
      stroke: #fff;
      stroke-width: 1.5;
    }
    .place {
      fill: #000a;
      stroke: #fff;
      stroke-width: 1.5;
    }
    text {
      fill: #fff;
      font: 600 10px/1 var(--mono);
      text-anchor: middle;
      dominant-baseline: central;
    }
  `,
})
export class MarksLayer {
  readonly marks = input.required<readonly Mark[]>();
  /** Path of the cut, in pixels. */
  readonly cut = input('');
}
