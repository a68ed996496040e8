import type { Sides } from './common';
import { facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Metres by which what lies below is lower than its middle. */
export interface LowCue {
  kind: 'low';
}

const DEEPER: Sides = ['deeper than', 'shallower than'];

export const low: CueKindSpec<LowCue> = {
  kind: 'low',
  ...facts('low places', 'how far what lies below is under its middle', 'm', -0.1, 0.1),
  small: true,
  usual: { input: { kind: 'low' }, centre: 0.004, width: 0.008 },
  ramped: true,
  input: (_, { b, below }) => b.subtract(b.constant(0), below),
  words: (cue) => `low places ${sideWord(DEEPER, cue)}`,
  starts: [{ phrase: 'low places', read: (r) => sideAndRamp(r, DEEPER, 'm') }],
  controls: [],
  preview: true,
};
