import { length } from '../text/words';
import { ABOVE, SIZES, facts, noiseCells, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';
import { wave } from './stripes';

/** How near the middle of a grid line: 1 there, 0 half way to the next. */
export interface GridCue {
  kind: 'grid';
  sizeM: number;
}

export const grid: CueKindSpec<GridCue> = {
  kind: 'grid',
  ...facts('grid', 'crossing lines at even distances', '', 0, 1),
  usual: { input: { kind: 'grid', sizeM: 0.3 }, centre: 0.85, width: 0.1 },
  ramped: true,
  input(_, { b, uv, value }) {
    const across = b.multiply(uv, value('cells'));
    return b.max(wave(b, b.extract(across, 0)), wave(b, b.extract(across, 1)));
  },
  values: ({ sizeM }, { extentM }) => ({ cells: [noiseCells(extentM, sizeM)] }),
  words: (cue) => `grid lines ${sideWord(ABOVE, cue)}`,
  tail: ({ sizeM }) => ` each ${length(sizeM)}`,
  starts: [
    {
      phrase: 'grid lines',
      read(r) {
        const common = sideAndRamp(r, ABOVE, '');
        r.expect('each');
        return { ...common, sizeM: r.metres(SIZES) };
      },
    },
  ],
  controls: [{ as: 'number', key: 'sizeM', label: 'Distance in metres', before: 'each', shown: 'metres', ...SIZES, at: 'sentence' }],
  preview: true,
};
