import { COLOUR_WORDS, COMPONENTS_IN_ORDER } from '../text/words';
import { ABOVE, facts, sideAndRamp, sideWord } from './common';
import type { Component, CueKindSpec } from './kind';

export interface VertexColourCue {
  kind: 'vertexColour';
  channel: Component;
}

export const vertexColour: CueKindSpec<VertexColourCue> = {
  kind: 'vertexColour',
  ...facts('vertex colour', 'a channel painted on the vertices', '', 0, 1),
  usual: { input: { kind: 'vertexColour', channel: 'r' }, centre: 0.5, width: 0.5 },
  ramped: true,
  input: ({ channel }, { b }) => b.extract(b.node('geomcolor'), COMPONENTS_IN_ORDER.indexOf(channel)),
  shape: ({ channel }) => channel,
  words: (cue) => `vertex ${COLOUR_WORDS[cue.channel]} ${sideWord(ABOVE, cue)}`,
  starts: [
    {
      phrase: 'vertex',
      read: (r) => {
        const word = r.expect(...Object.values(COLOUR_WORDS));
        return { channel: COMPONENTS_IN_ORDER.find((c) => COLOUR_WORDS[c] === word), ...sideAndRamp(r, ABOVE, '') };
      },
    },
  ],
  controls: [
    {
      as: 'choice',
      key: 'channel',
      label: 'Channel',
      title: 'Channel',
      of: COMPONENTS_IN_ORDER.map((value) => ({ value, word: COLOUR_WORDS[value] })),
    },
  ],
  preview: true,
};
