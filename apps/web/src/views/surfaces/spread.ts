import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

const WIDTH = 92;
const HEIGHT = 18;

/** A histogram of a map in a line of text: one outline for each channel, the root of the shares so that rare values show. */
@Component({
  selector: 'pb-spread',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.viewBox]="'0 0 ' + width + ' ' + height" [attr.width]="width" [attr.height]="height" role="img" [attr.aria-label]="about()">
      @for (path of paths(); track $index) {
        <path [attr.d]="path" [style.stroke]="paths().length > 1 ? colours[$index] : 'var(--ink)'" />
      }
    </svg>
  `,
  styles: `
    svg {
      display: block;
      border-bottom: 1px solid var(--edge);
    }
    path {
      fill: none;
      stroke-width: 1.2;
    }
  `,
})
export class Spread {
  readonly spread = input<readonly number[][] | undefined>();
  readonly label = input('');
  readonly width = WIDTH;
  readonly height = HEIGHT;
  readonly colours = ['#b3402f', '#4f7d2c', '#3d6fb4', 'var(--quiet)'];
  readonly paths = computed(() => {
    const all = this.spread() ?? [];
    const most = Math.sqrt(Math.max(1e-9, ...all.flat()));
    const y = (v: number) => (HEIGHT - 1 - (Math.sqrt(v) / most) * (HEIGHT - 2)).toFixed(1);
    return all.map((bins) => `M${bins.map((v, i) => `${((i / (bins.length - 1)) * WIDTH).toFixed(1)} ${y(v)}`).join('L')}`);
  });
  readonly about = computed(() => {
    const first = this.spread()?.[0];
    if (!first) return `${this.label()}: histogram not read yet`;
    const held = first.map((v, i) => (v > 0.001 ? i : -1)).filter((i) => i >= 0);
    return `${this.label()}: values from ${(held[0] / first.length).toFixed(2)} to ${((held[held.length - 1] + 1) / first.length).toFixed(2)}`;
  });
}
