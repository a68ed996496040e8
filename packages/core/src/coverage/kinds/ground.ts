import { AWAY, facts, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Metres above the lowest place of the specimen. */
export interface GroundCue {
  kind: 'ground';
}

const OF = 'of the ground';

export const ground: CueKindSpec<GroundCue> = {
  kind: 'ground',
  ...facts('distance from the ground', 'metres above the lowest place', 'm', 0, 10),
  usual: { input: { kind: 'ground' }, centre: 0.3, width: 0.3, inverted: true },
  ramped: true,
  input: (_, { b, value }) => b.add(b.extract(b.node('position'), 1), value('above')),
  values: (_, { groundM }) => ({ above: [-groundM] }),
  words: (cue) => sideWord(AWAY, cue),
  tail: () => ` ${OF}`,
  tailWords: () => ` ${OF}`,
  starts: AWAY.map((phrase) => ({
    phrase,
    read(r) {
      const numbers = r.ramp('m');
      r.expect(OF);
      return { inverted: phrase === AWAY[1], ...numbers };
    },
  })),
  controls: [],
  preview: true,
};
