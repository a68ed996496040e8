import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiDiceMultipleOutline } from '@mdi/js';
import type { SurfaceDocument } from '@pebble/core';
import { recipeOf } from '@pebble/core';
import { Icon } from '../../ui/icon';
import { ScrubField } from '../../ui/scrub-field';
import { SurfaceTrial } from './trial';

/** What a generated surface is made of: the strength of every structure, its seed, and the way to its variations. */
@Component({
  selector: 'pb-made-of',
  imports: [Icon, MatTooltipModule, ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h3>Made of</h3>
    <div class="grid">
      @for (s of structures(); track s.name) {
        <span class="label" [matTooltip]="s.help">{{ s.label }}</span>
        <span class="token" [class.own]="s.amount !== 1"
          ><pb-scrub
            [label]="s.label + ': strength'"
            [value]="s.amount"
            [min]="0"
            [max]="2"
            [step]="0.01"
            [initial]="1"
            (live)="turn(s.name, $event)"
            (done)="set(s.name, $event)"
        /></span>
      }
      <span class="label">Seed</span>
      <span class="token"
        ><pb-scrub
          label="Seed"
          [value]="seed()"
          [min]="0"
          [max]="16777215"
          [step]="1"
          [whole]="true"
          [decimals]="0"
          (live)="trial.turn(id(), { seed: $event })"
          (done)="reseed($event)" /><button (click)="roll()" aria-label="Draw again from another seed" matTooltip="Draw again from another seed">
          <pb-icon [path]="dice" [size]="16" /></button
      ></span>
    </div>
    <div class="row"><button class="pill" (click)="wanted.emit()">Fifty variations</button></div>
  `,
  styles: `
    .grid {
      display: grid;
      grid-template-columns: auto auto auto auto;
      gap: 2px 8px;
      align-items: center;
      justify-content: start;
      margin-top: 4px;
    }
    .label {
      color: var(--quiet);
    }
    .token {
      min-height: 26px;
      padding: 0 7px;
      justify-self: start;
      font-weight: 400;
    }
    .token.own {
      font-weight: 650;
      border-color: var(--ink);
    }
    .row {
      margin: 4px 0 0 -8px;
    }
  `,
})
export class MadeOf {
  readonly id = input.required<string>();
  readonly surface = input.required<SurfaceDocument>();
  readonly wanted = output();
  readonly trial = inject(SurfaceTrial);
  readonly dice = mdiDiceMultipleOutline;
  readonly structures = computed(() => {
    const surface = this.surface();
    const generator = surface.generator;
    if (!generator) return [];
    return Object.entries(recipeOf(generator.name).structures).map(([name, s]) => ({
      name,
      ...s,
      amount: this.trial.amount(this.id(), surface, name),
    }));
  });
  readonly seed = computed(() => this.trial.seed(this.id(), this.surface()));

  turn = (structure: string, amount: number): void => this.trial.turn(this.id(), { structure, amount });
  set(structure: string, amount: number): void {
    this.turn(structure, amount);
    void this.trial.keep();
  }
  reseed(seed: number): void {
    this.trial.turn(this.id(), { seed });
    void this.trial.keep();
  }
  roll = (): void => this.reseed(Math.floor(Math.random() * 0xffffff));
}
