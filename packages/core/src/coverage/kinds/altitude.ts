import { BEFORE_NUMBERS, OVER, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Metres above sea level, or above the origin of the object. */
export interface AltitudeCue {
  kind: 'altitude';
  from: 'world' | 'object';
}

export const altitude: CueKindSpec<AltitudeCue> = {
  kind: 'altitude',
  ...facts('altitude', 'metres above the sea, or above the origin of the object', 'm', -10, 10),
  usual: { input: { kind: 'altitude', from: 'object' }, centre: 0.5, width: 0.3 },
  ramped: true,
  input: (_, { b, value }) => b.add(b.extract(b.node('position'), 1), value('above')),
  values: ({ from }, { standsAtM }) => ({ above: [from === 'world' ? standsAtM : 0] }),
  words: (cue) => `${cue.from === 'world' ? 'altitude' : 'height'} ${sideWord(OVER, cue)}`,
  starts: [
    { phrase: 'altitude', read: (r) => ({ from: 'world', ...sideAndRamp(r, OVER, 'm') }) },
    { phrase: 'height', before: BEFORE_NUMBERS, read: (r) => ({ from: 'object', ...sideAndRamp(r, OVER, 'm') }) },
  ],
  controls: [
    {
      as: 'choice',
      key: 'from',
      label: 'Measured from',
      title: 'From',
      of: [
        { value: 'object', word: 'the object’s origin' },
        { value: 'world', word: 'the sea' },
      ],
    },
  ],
  preview: true,
};
