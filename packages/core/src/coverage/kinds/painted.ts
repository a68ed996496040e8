import { quoted } from '../text/words';
import { ABOVE, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** A mask painted over the extent: a grey PNG; null while nothing is painted. */
export interface PaintedCue {
  kind: 'painted';
  picture: string | null;
}

export const painted: CueKindSpec<PaintedCue> = {
  kind: 'painted',
  ...facts('painted mask', 'painted over the extent', '', 0, 1),
  usual: { input: { kind: 'painted', picture: null }, centre: 0.5, width: 1 },
  ramped: true,
  input: (_, { sampled, uv }) => sampled('mask', uv),
  picture: ({ picture }) => (picture ? { kind: 'painted', picture } : null),
  words: (cue) => `painted mask ${sideWord(ABOVE, cue)}`,
  aside: ({ picture }) => (picture === null ? '' : ` (picture ${quoted(picture)})`),
  starts: [
    {
      phrase: 'painted mask',
      read(r) {
        const common = sideAndRamp(r, ABOVE, '');
        if (!r.take('( picture')) return { ...common, picture: null };
        const picture = r.hash();
        if (!r.take(')')) r.fail('")"');
        return { ...common, picture };
      },
    },
  ],
  controls: [{ as: 'picture', label: 'Picture' }],
  priced: { picture: '0'.repeat(64) },
  preview: false,
};
