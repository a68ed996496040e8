import { SHARPER, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** The negative of the mean curvature of the mesh in 1/m: positive in hollows. */
export interface ConcavityCue {
  kind: 'concavity';
}

export const concavity: CueKindSpec<ConcavityCue> = {
  kind: 'concavity',
  ...facts('hollows', 'how sharply the mesh bends inwards', '1/m', -100, 100),
  usual: { input: { kind: 'concavity' }, centre: 15, width: 20 },
  ramped: true,
  input: (_, { b }) => b.subtract(b.constant(0), b.node('curvature')),
  words: (cue) => `hollows ${sideWord(SHARPER, cue)}`,
  starts: [{ phrase: 'hollows', read: (r) => sideAndRamp(r, SHARPER, '1/m') }],
  controls: [],
  preview: true,
};
