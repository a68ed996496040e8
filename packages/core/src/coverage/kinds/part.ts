import { quoted } from '../text/words';
import { facts } from './common';
import type { CueKindSpec } from './kind';

export interface PartCue {
  kind: 'part';
  part: string;
}

const [ONLY, ALL_BUT] = ['part', 'all but part'];

export const part: CueKindSpec<PartCue> = {
  kind: 'part',
  ...facts('part', 'a part of the object', '', 0, 1),
  usual: { input: { kind: 'part', part: 'body' }, centre: 0.5, width: 0 },
  ramped: true,
  input(_, { b, value }) {
    const away = b.node('absval', [b.subtract(b.node('part'), value('part'))]);
    return b.max(b.constant(0), b.invert(away));
  },
  values: ({ part }, { parts }) => ({ part: [parts.indexOf(part)] }),
  words: (cue) => `${cue.inverted ? ALL_BUT : ONLY} ${quoted(cue.part)}`,
  numbers: () => '',
  starts: [
    { phrase: ALL_BUT, read: (r) => ({ inverted: true, part: r.text('the name of a part') }) },
    { phrase: ONLY, read: (r) => ({ inverted: false, part: r.text('the name of a part') }) },
  ],
  controls: [{ as: 'part', label: 'Part' }],
  begin: ({ parts }) => (parts.length ? { part: parts[0] } : {}),
  preview: false,
};
