import type { Cue, CueControl, CueUnit, Shown } from '@pebble/core';
import { cueKind, makeCue } from '@pebble/core';
import type { NumberField } from '../../../ui/field';

/** A number of a cue, as a field of its token. */
export interface CueField extends NumberField {
  /** Word that stands before it in the sentence. */
  before: string;
  /** Where it stands in the cue. */
  path: string;
  get: (cue: Cue) => number;
  set: (cue: Cue, value: number) => void;
}

type Look = Required<Pick<NumberField, 'unit' | 'factor' | 'step' | 'decimals'>>;
const LOOKS: Record<Shown, Look> = {
  plain: { unit: '', factor: 1, step: 0.005, decimals: 2 },
  percent: { unit: '%', factor: 0.01, step: 0.005, decimals: 0 },
  metres: { unit: 'm', factor: 1, step: 0.005, decimals: 2 },
  millimetres: { unit: 'mm', factor: 0.001, step: 0.0001, decimals: 1 },
  degrees: { unit: '°', factor: 1, step: 0.25, decimals: 1 },
  perMetre: { unit: '/m', factor: 1, step: 0.25, decimals: 2 },
  times: { unit: '×', factor: 1, step: 0.02, decimals: 2 },
  whole: { unit: '', factor: 1, step: 0.1, decimals: 0 },
};
const OF_UNITS: Record<CueUnit, Shown> = { '': 'plain', m: 'metres', '°': 'degrees', '1/m': 'perMetre' };

/** A field for a number that only some kinds of cues have. */
function own(cue: Cue, { key, label, before = '', shown, least, most }: Extract<CueControl, { as: 'number' }>): CueField {
  const of = (c: Cue) => c as unknown as Record<string, number>;
  return {
    label,
    before,
    path: key,
    ...LOOKS[shown],
    min: least,
    max: most,
    whole: shown === 'whole',
    get: (c) => of(c)[key],
    set: (c, v) => void (of(c)[key] = v),
    initial: of(makeCue(cue.kind))[key],
  };
}

/** Centre and half width, in the unit of the cue; none where its numbers are others. */
function ramp(cue: Cue): CueField[] {
  const { unit, least, most, small, numbers } = cueKind(cue.kind);
  if (numbers) return [];
  const look = LOOKS[small ? 'millimetres' : OF_UNITS[unit]];
  const usual = makeCue(cue.kind);
  const far = (most - least) * (unit === '' ? 1 : 100);
  return [
    {
      label: 'Centre',
      path: 'centre',
      before: '',
      ...look,
      min: least - far,
      max: most + far,
      get: (c) => c.centre,
      set: (c, v) => void (c.centre = v),
      initial: usual.centre,
    },
    {
      label: 'Half width',
      path: 'width',
      before: '±',
      ...look,
      unit: '',
      min: 0,
      max: far,
      get: (c) => c.width / 2,
      set: (c, v) => void (c.width = v * 2),
      initial: usual.width / 2,
    },
  ];
}

/** Controls of a cue as it is. */
export const controlsOf = (cue: Cue): CueControl[] => cueKind(cue.kind).controls.filter((c) => c.when?.(cue) ?? true);
const numbersAt = (cue: Cue, at: 'sentence' | 'card'): CueField[] =>
  controlsOf(cue).flatMap((c) => (c.as === 'number' && c.at === at ? [own(cue, c)] : []));

/** The numbers that a sentence shows, in its order. */
export const lineFields = (cue: Cue): CueField[] => [...ramp(cue), ...numbersAt(cue, 'sentence')];

/** What else can be set of a cue, in its card. */
export const moreFields = (cue: Cue): CueField[] => [
  ...numbersAt(cue, 'card'),
  {
    label: 'Amount in per cent',
    path: 'amount',
    before: '',
    ...LOOKS.percent,
    min: 0,
    max: 1,
    get: (c) => c.amount,
    set: (c, v) => void (c.amount = v),
    initial: 1,
  },
];

/** What a cue looked at, for people. */
export function inUnit(cue: Cue, v: number): string {
  const { unit } = cueKind(cue.kind);
  if (unit === 'm' && Math.abs(v) < 0.1) return `${(v * 1000).toFixed(1)} mm`;
  return `${+v.toPrecision(3)}${{ m: ' m', '°': '°', '1/m': ' per m', '': '' }[unit]}`;
}
