import { ChangeDetectionStrategy, Component, input } from '@angular/core';

/** A single-colour icon from the path of an icon set. */
@Component({
  selector: 'pb-icon',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg viewBox="0 0 24 24" [attr.width]="size()" [attr.height]="size()" aria-hidden="true">
    <path [attr.d]="path()" fill="currentColor" />
  </svg>`,
  styles: `
    :host {
      display: inline-grid;
      place-items: center;
    }
    svg {
      display: block;
    }
  `,
})
export class Icon {
  readonly path = input.required<string>();
  readonly size = input(18);
}
