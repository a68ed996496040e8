import { SHARPER, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Mean curvature of the mesh in 1/m: positive on edges. */
export interface ConvexityCue {
  kind: 'convexity';
}

export const convexity: CueKindSpec<ConvexityCue> = {
  kind: 'convexity',
  ...facts('edges', 'how sharply the mesh bends outwards', '1/m', -100, 100),
  usual: { input: { kind: 'convexity' }, centre: 15, width: 20 },
  ramped: true,
  input: (_, { b }) => b.node('curvature'),
  words: (cue) => `edges ${sideWord(SHARPER, cue)}`,
  starts: [{ phrase: 'edges', read: (r) => sideAndRamp(r, SHARPER, '1/m') }],
  controls: [],
  preview: true,
};
