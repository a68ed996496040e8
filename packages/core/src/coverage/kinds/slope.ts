import { degreesFrom } from './angles';
import { OVER, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Degrees from level. */
export interface SlopeCue {
  kind: 'slope';
}

export const slope: CueKindSpec<SlopeCue> = {
  kind: 'slope',
  ...facts('slope', 'degrees from level', '°', 0, 180),
  usual: { input: { kind: 'slope' }, centre: 35, width: 16, inverted: true },
  ramped: true,
  input: (_, { b }) => degreesFrom(b, b.constant(0, 1, 0)),
  words: (cue) => `slope ${sideWord(OVER, cue)}`,
  starts: [{ phrase: 'slope', read: (r) => sideAndRamp(r, OVER, '°') }],
  controls: [],
  preview: true,
};
