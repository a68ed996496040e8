import { UNIT } from '../../compile';
import { channelsOfHex } from '../../image';
import { quoted, setWords } from '../text/words';
import { AWAY, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec, UvSet } from './kind';
import { STAND_IN } from './kind';

/** Distance in sRGB values (0–√3) of an ID map from a colour, `#rrggbb`. */
export interface IdCue {
  kind: 'id';
  surface: string;
  colour: string;
  set?: UvSet;
}

export const id: CueKindSpec<IdCue> = {
  kind: 'id',
  ...facts('ID colour', 'distance from a colour of an ID map', '', 0, Math.sqrt(3)),
  usual: { input: { kind: 'id', surface: '', colour: '#ff0000' }, centre: 0.1, width: 0.04, inverted: true },
  ramped: true,
  input({ set }, { b, sampled, laidBy, value }) {
    const found = sampled('id', laidBy(set));
    if (!found) return null;
    const away = b.subtract(found, value('colour', 'vec3', UNIT));
    return b.node('sqrt', [b.node('dotproduct', [away, away])]);
  },
  values: ({ colour }) => ({ colour: channelsOfHex(colour).map((v) => v / 255) }),
  shape: ({ set }) => String(set ?? ''),
  picture: ({ surface }) => (surface ? { kind: 'id', surface } : null),
  words: (cue, nameOf) => `ID colour ${cue.colour} of ${quoted(nameOf(cue.surface))} ${sideWord(AWAY, cue)}`,
  tail: ({ set }) => setWords(set),
  tailWords: ({ set }) => setWords(set),
  starts: [
    {
      phrase: 'ID colour',
      read(r) {
        const colour = r.colour();
        r.expect('of');
        return { colour, surface: r.surface(), ...sideAndRamp(r, AWAY, ''), ...r.set() };
      },
    },
  ],
  controls: [
    { as: 'map', label: 'Map', role: 'id' },
    { as: 'laidBy', label: 'What the map is laid by' },
    { as: 'colour', key: 'colour', label: 'ID colour' },
  ],
  begin({ surface, roles }) {
    const found = [surface, ...Object.keys(roles)].find((s) => roles[s]?.has('id'));
    return found === undefined ? {} : { surface: found };
  },
  priced: { surface: STAND_IN },
  preview: false,
};
