import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { Brush } from '@pebble/core';
import { DEFAULT_BRUSH } from '@pebble/core';
import { Actions } from '../../../ui/actions';
import type { NumberField } from '../../../ui/field';
import { Field } from '../../../ui/field';
import { newSeed } from '../../../ui/new';
import { PaintRules } from './paint-rules';
import { Painting } from './painting';

const RADIUS: NumberField = { label: 'Radius in metres', min: 0.001, max: 200, step: 0.002, unit: 'm', decimals: 3, initial: DEFAULT_BRUSH.radiusM };
const share = (label: string, initial: number): NumberField => ({ label, min: 0, max: 1, step: 0.01, factor: 0.01, unit: '%', decimals: 0, initial });
const PATCHES: NumberField = {
  label: 'Size of the patches in millimetres',
  min: 0.001,
  max: 10,
  step: 0.001,
  factor: 0.001,
  unit: 'mm',
  decimals: 0,
  initial: DEFAULT_BRUSH.broken.atM,
};

/** How the brush is, and where it paints at all. */
@Component({
  selector: 'pb-brush-values',
  imports: [Field, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './brush-values.html',
  styleUrl: './brush-values.scss',
})
export class BrushValues {
  readonly actions = inject(Actions);
  readonly painting = inject(Painting);
  readonly rules = inject(PaintRules);
  readonly fields = {
    radius: RADIUS,
    strength: share('Strength in per cent', 1),
    falloff: share('Falloff in per cent of the radius', DEFAULT_BRUSH.falloff),
    broken: share('Broken up by noise, in per cent', 0),
    patches: PATCHES,
    value: share('Value that a stroke sets, in per cent', DEFAULT_BRUSH.value),
  };
  readonly aims = [
    { id: 'add', name: 'add', means: 'Toward 100 %' },
    { id: 'erase', name: 'erase', means: 'Toward 0 %' },
    { id: 'set', name: 'set', means: 'Toward a value' },
    { id: 'smooth', name: 'smooth', means: 'Toward what lies around' },
  ] as const;
  readonly mirrors = [
    { id: null, name: 'no' },
    { id: 'x', name: 'in x' },
    { id: 'z', name: 'in z' },
  ] as const;

  setBroken = (change: Partial<Brush['broken']>): void => this.painting.setBrush({ broken: { ...this.painting.brush().broken, ...change } });
  reroll = (): void => this.setBroken({ seed: newSeed() });
}
