import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { Actions } from '../../../ui/actions';
import { Field } from '../../../ui/field';
import { STAMP_FIELDS, StampBrush } from './stamp-brush';

/** How a stamp lies, and how those of a drag differ. */
@Component({
  selector: 'pb-stamp-values',
  imports: [Field],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let v = brush.values();
    <h3>
      Each stamp
      <span class="quiet"
        ><kbd>{{ actions.text('smaller') }}</kbd> and <kbd>{{ actions.text('larger') }}</kbd> change the radius</span
      >
    </h3>
    <dl>
      @for (row of rows; track row.key) {
        <dt [title]="row.means">{{ row.name }}</dt>
        <dd class="token">
          <pb-field [field]="fields[row.key]" [value]="v[row.key]" (live)="brush.put(row.key, $event)" (done)="brush.put(row.key, $event)" />
        </dd>
      }
      <dt title="Colours are multiplied by it">Tint</dt>
      <dd><input type="color" aria-label="Tint" [value]="v.tint" (input)="brush.set({ tint: $any($event.target).value })" /></dd>
      <dt title="Which way its up points">Up</dt>
      <dd class="ways" role="radiogroup" aria-label="Which way is up for it">
        <button class="pill" role="radio" [class.on]="!v.follows" [attr.aria-checked]="!v.follows" (click)="brush.set({ follows: false })">
          the mesh
        </button>
        <button class="pill" role="radio" [class.on]="v.follows" [attr.aria-checked]="v.follows" (click)="brush.set({ follows: true })">
          the view
        </button>
      </dd>
    </dl>
    <h3>By chance, along a drag</h3>
    <dl>
      @for (row of chance; track row.key) {
        <dt>{{ row.name }}</dt>
        <dd class="token">
          <pb-field
            [field]="fields[row.field]"
            [value]="v.scatter[row.key]"
            (live)="brush.scatter(row.key, $event)"
            (done)="brush.scatter(row.key, $event)"
          />
        </dd>
      }
      <dt>One every</dt>
      <dd class="token">
        <pb-field [field]="fields.spacing" [value]="v.spacing" (live)="brush.set({ spacing: $event })" (done)="brush.set({ spacing: $event })" />
      </dd>
    </dl>
  `,
  styleUrl: './stamp-values.scss',
})
export class StampValues {
  readonly actions = inject(Actions);
  readonly brush = inject(StampBrush);
  readonly fields = STAMP_FIELDS;
  readonly rows = [
    { key: 'radiusM', name: 'Radius', means: 'Metres on the surface' },
    { key: 'scale', name: 'Size', means: 'Times the true size of the surface' },
    { key: 'strength', name: 'Strength', means: 'How far it covers what is there; a pen presses less' },
    { key: 'falloff', name: 'Falloff', means: 'Share of the radius over which it fades' },
    { key: 'byHeight', name: 'By height', means: 'What stands higher lies on top within the fading' },
    { key: 'turn', name: 'Turned', means: 'Degrees to the right' },
  ] as const;
  readonly chance = [
    { key: 'turn', field: 'turnBy', name: 'turned ±' },
    { key: 'scale', field: 'scaleBy', name: 'size ±' },
    { key: 'tint', field: 'tintBy', name: 'darker' },
  ] as const;
}
