import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Layer } from '@pebble/core';
import { Field, changeText } from '../../../ui/field';
import { BlendModel } from '../blend-model';
import { ToParameter } from '../to-parameter';
import type { LayerField } from './layer-fields';

/** A number of the chosen layer that is dragged or typed. */
@Component({
  selector: 'pb-layer-token',
  imports: [Field, ToParameter],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template:
    '<pb-field [field]="field()" [value]="field().get(layer())" (live)="draft($event)" (done)="done($event)" /><pb-to-parameter [path]="path()" [called]="field().what" />',
  styles: ':host { display: inline-flex; }',
})
export class LayerToken {
  private readonly model = inject(BlendModel);
  readonly field = input.required<LayerField>();
  readonly layer = input.required<Layer>();

  readonly path = computed(() => `layers.${this.model.selectedId()}.${this.field().path}`);

  /** The value before the gesture that goes on. */
  private from: number | null = null;

  draft(value: number): void {
    this.from ??= this.field().get(this.layer());
    const id = this.model.selectedId() as string;
    this.model.draft((d) => this.field().set(d.layers[id], value));
  }
  done(value: number): void {
    this.draft(value);
    this.model.commit(`${this.layer().name}: ${changeText(this.field(), this.from ?? value, value)}`);
    this.from = null;
  }
}
