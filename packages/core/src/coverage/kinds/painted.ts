import { quoted, setWords } from '../text/words';
import { ABOVE, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec, UvSet } from './kind';

/** A mask painted over the extent, or on the mesh over a set of its own coordinates: a grey PNG; null while nothing is painted. */
export interface PaintedCue {
  kind: 'painted';
  picture: string | null;
  set?: UvSet;
}

export const painted: CueKindSpec<PaintedCue> = {
  kind: 'painted',
  ...facts('painted mask', 'painted over the extent or on the mesh', '', 0, 1),
  usual: { input: { kind: 'painted', picture: null }, centre: 0.5, width: 1 },
  ramped: true,
  input: ({ set }, { sampled, laidBy }) => sampled('mask', laidBy(set)),
  shape: ({ set }) => String(set ?? ''),
  picture: ({ picture }) => (picture ? { kind: 'painted', picture } : null),
  words: (cue) => `painted mask ${sideWord(ABOVE, cue)}`,
  tail: ({ set }) => setWords(set),
  tailWords: ({ set }) => setWords(set),
  aside: ({ picture }) => (picture === null ? '' : ` (picture ${quoted(picture)})`),
  starts: [
    {
      phrase: 'painted mask',
      read(r) {
        const common = { ...sideAndRamp(r, ABOVE, ''), ...r.set() };
        if (!r.take('( picture')) return { ...common, picture: null };
        const picture = r.hash();
        if (!r.take(')')) r.fail('")"');
        return { ...common, picture };
      },
    },
  ],
  controls: [
    { as: 'laidBy', label: 'What it is painted over' },
    { as: 'picture', label: 'Picture' },
  ],
  priced: { picture: '0'.repeat(64) },
  preview: false,
};
