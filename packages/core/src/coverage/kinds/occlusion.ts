import { ABOVE, BEFORE_NUMBERS, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** How much of the sky is open over the mesh: 1 all of it. */
export interface OcclusionCue {
  kind: 'occlusion';
}

export const occlusion: CueKindSpec<OcclusionCue> = {
  kind: 'occlusion',
  ...facts('occlusion', 'how much of the sky is open: 1 is all of it', '', 0, 1),
  usual: { input: { kind: 'occlusion' }, centre: 0.6, width: 0.4, inverted: true },
  ramped: true,
  input: (_, { b }) => b.node('occlusion'),
  words: (cue) => `occlusion ${sideWord(ABOVE, cue)}`,
  starts: [{ phrase: 'occlusion', before: BEFORE_NUMBERS, read: (r) => sideAndRamp(r, ABOVE, '') }],
  controls: [],
  preview: true,
};
