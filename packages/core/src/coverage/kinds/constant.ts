import { UNIT } from '../../compile';
import { percent } from '../text/words';
import { facts } from './common';
import type { CueKindSpec } from './kind';

/** The coverage itself. */
export interface ConstantCue {
  kind: 'constant';
  value: number;
}

const [SOME, ALL_BUT] = ['an even', 'all but an even'];

export const constant: CueKindSpec<ConstantCue> = {
  kind: 'constant',
  ...facts('even', 'the same everywhere', '', 0, 1),
  usual: { input: { kind: 'constant', value: 0.5 }, centre: 0.5, width: 0.5 },
  ramped: false,
  input: (_, { value }) => value('value', 'float', UNIT),
  values: ({ value }) => ({ value: [value] }),
  words: ({ inverted }) => (inverted ? ALL_BUT : SOME),
  numbers: ({ value }) => ` ${percent(value)}`,
  starts: [
    { phrase: ALL_BUT, read: (r) => ({ inverted: true, value: r.percent() }) },
    { phrase: SOME, read: (r) => ({ inverted: false, value: r.percent() }) },
  ],
  controls: [{ as: 'number', key: 'value', label: 'Coverage in per cent', shown: 'percent', least: 0, most: 1, at: 'sentence' }],
  preview: false,
};
