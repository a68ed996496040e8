import type { Cue, CueUnit } from '@pebble/core';
import { CUES, makeCue } from '@pebble/core';
import type { NumberField } from '../../ui/field';

/** A number of a cue, as a field of its token. */
export interface CueField extends NumberField {
  /** Word that stands before it in the sentence. */
  before: string;
  get: (cue: Cue) => number;
  set: (cue: Cue, value: number) => void;
}

type Shown = Required<Pick<NumberField, 'unit' | 'factor' | 'step' | 'decimals'>>;
const UNITS: Record<CueUnit, Shown> = {
  '': { unit: '', factor: 1, step: 0.005, decimals: 2 },
  m: { unit: 'm', factor: 1, step: 0.005, decimals: 2 },
  '°': { unit: '°', factor: 1, step: 0.25, decimals: 1 },
  '1/m': { unit: '/m', factor: 1, step: 0.25, decimals: 2 },
};
const MILLIMETRES: Shown = { unit: 'mm', factor: 0.001, step: 0.0001, decimals: 1 };
const PERCENT: Shown = { unit: '%', factor: 0.01, step: 0.005, decimals: 0 };
const METRES: Shown = { unit: 'm', factor: 1, step: 0.005, decimals: 2 };
const DEGREES: Shown = UNITS['°'];
const COUNT: Shown = { unit: '×', factor: 1, step: 0.02, decimals: 2 };

/** A field for a number that only some kinds of cues have; `key` is one of theirs. */
function own(cue: Cue, key: string, label: string, before: string, shown: Shown, min: number, max: number, whole = false): CueField {
  const of = (c: Cue) => c as unknown as Record<string, number>;
  return {
    label,
    before,
    ...shown,
    min,
    max,
    whole,
    get: (c) => of(c)[key],
    set: (c, v) => void (of(c)[key] = v),
    initial: of(makeCue(cue.kind))[key],
  };
}

/** Centre and half width, in the unit of the cue; none where a cue has no ramp. */
function ramp(cue: Cue): CueField[] {
  const { unit, least, most } = CUES[cue.kind];
  if (cue.kind === 'part' || cue.kind === 'constant') return [];
  const shown = cue.kind === 'low' ? MILLIMETRES : UNITS[unit];
  const usual = makeCue(cue.kind);
  const far = (most - least) * (unit === '' ? 1 : 100);
  return [
    {
      label: 'Centre',
      before: '',
      ...shown,
      min: least - far,
      max: most + far,
      get: (c) => c.centre,
      set: (c, v) => void (c.centre = v),
      initial: usual.centre,
    },
    {
      label: 'Half width',
      before: '±',
      ...shown,
      unit: '',
      min: 0,
      max: far,
      get: (c) => c.width / 2,
      set: (c, v) => void (c.width = v * 2),
      initial: usual.width / 2,
    },
  ];
}

/** The numbers that a sentence shows, in its order. */
export function lineFields(cue: Cue): CueField[] {
  const more: CueField[] = [];
  if (cue.kind === 'constant') return [own(cue, 'value', 'Coverage in per cent', '', PERCENT, 0, 1)];
  if (cue.kind === 'mask') more.push(own(cue, 'repeats', 'Repetitions over the extent', '', COUNT, 0.01, 1000));
  if (cue.kind === 'noise') more.push(own(cue, 'sizeM', 'Size in metres', 'at', METRES, 0.01, 1000));
  if (cue.kind === 'stripes' || cue.kind === 'grid') more.push(own(cue, 'sizeM', 'Distance in metres', 'each', METRES, 0.005, 1000));
  return [...ramp(cue), ...more];
}

/** What else can be set of a cue, in its card. */
export function moreFields(cue: Cue): CueField[] {
  const fields: CueField[] = [];
  if (cue.kind === 'noise' && cue.noise === 'fractal')
    fields.push(own(cue, 'octaves', 'Octaves', '', { unit: '', factor: 1, step: 0.1, decimals: 0 }, 1, 8, true));
  if (cue.kind === 'direction')
    fields.push(own(cue, 'bearing', 'Bearing in degrees', '', DEGREES, -360, 360), own(cue, 'rise', 'Raised by degrees', '', DEGREES, -90, 90));
  if (cue.kind === 'stripes') fields.push(own(cue, 'bearing', 'Turned by degrees', '', DEGREES, -360, 360));
  return [
    ...fields,
    { label: 'Amount in per cent', before: '', ...PERCENT, min: 0, max: 1, get: (c) => c.amount, set: (c, v) => void (c.amount = v), initial: 1 },
  ];
}

/** What a cue looked at, for people. */
export function inUnit(cue: Cue, v: number): string {
  const { unit } = CUES[cue.kind];
  if (unit === 'm' && Math.abs(v) < 0.1) return `${(v * 1000).toFixed(1)} mm`;
  return `${+v.toPrecision(3)}${{ m: ' m', '°': '°', '1/m': ' per m', '': '' }[unit]}`;
}
