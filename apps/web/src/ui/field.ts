import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { showQuantity } from './quantity';
import { ScrubField } from './scrub-field';

/** How a number is shown and bounded, wherever it stands. */
export interface NumberField {
  label: string;
  min: number;
  max: number;
  /** Change a pixel of dragging, in the stored unit. */
  step: number;
  /** What one shown unit is worth in the stored one. */
  factor?: number;
  unit?: string;
  decimals?: number;
  whole?: boolean;
  initial: number;
}

/** A change as a step of undo is called: `lift 3.0 → 8.0 mm`. */
export function changeText(field: NumberField & { what: string }, before: number, after: number): string {
  const quantity = { factor: field.factor ?? 1, unit: field.unit ?? '', decimals: field.whole ? 0 : (field.decimals ?? 2) };
  const show = (value: number) => showQuantity(value, quantity);
  return `${field.what} ${show(before)} → ${show(after)}${field.unit ? ` ${field.unit}` : ''}`;
}

/** A scrub field by its description. */
@Component({
  selector: 'pb-field',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <pb-scrub
      [label]="field().label"
      [value]="value()"
      [min]="field().min"
      [max]="field().max"
      [step]="field().step"
      [factor]="field().factor ?? 1"
      [unit]="field().unit ?? ''"
      [decimals]="field().decimals ?? 2"
      [whole]="field().whole ?? false"
      [initial]="field().initial"
      (live)="live.emit($event)"
      (done)="done.emit($event)"
    />
  `,
  styles: ':host { display: inline-flex; }',
})
export class Field {
  readonly field = input.required<NumberField>();
  readonly value = input.required<number>();
  readonly live = output<number>();
  readonly done = output<number>();
}
