import type { Role } from '../../surface';
import { ROLES, ROLE_FACTS } from '../../surface';
import type { Reader } from '../text/reader';
import { COLOUR_WORDS, COMPONENTS_IN_ORDER, mapWords, plain, quoted, setWords } from '../text/words';
import { ABOVE, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec, UvSet } from './kind';
import { STAND_IN } from './kind';

/** A channel of a map of a surface, laid `repeats` times over the extent, or over a set of the mesh's own coordinates. */
export interface MaskCue {
  kind: 'mask';
  surface: string;
  role: Role;
  channel: 0 | 1 | 2 | 3;
  repeats: number;
  set?: UvSet;
}

/** Roles that masks are most often made of, the likeliest first. */
const LIKELY: readonly Role[] = ['mask', 'cavity', 'curvature', 'height', 'occlusion', 'roughness', 'baseColor'];
const REPEATS = { least: 0.01, most: 1000 };

/** How often a picture really lies over the extent: a whole number of times, at least once, so that a blend tiles. */
const laidTimes = ({ repeats, set }: MaskCue): number => (set ? repeats : Math.max(1, Math.round(repeats)));

/** "cavity of …", "base colour red of …". */
function read(r: Reader, role: Role) {
  const channel = COMPONENTS_IN_ORDER.findIndex((c) => r.take(COLOUR_WORDS[c]));
  r.expect('of');
  const common = { role, channel: Math.max(0, channel) as 0, surface: r.surface(), ...sideAndRamp(r, ABOVE, '') };
  return { ...common, repeats: r.take('×') ? r.number('how often it repeats,', REPEATS) : 1, ...r.set() };
}

export const mask: CueKindSpec<MaskCue> = {
  kind: 'mask',
  ...facts('map', 'a channel of a map of any surface', '', 0, 1),
  usual: { input: { kind: 'mask', surface: '', role: 'mask', channel: 0, repeats: 1 }, centre: 0.5, width: 0.3 },
  ramped: true,
  input: ({ set }, { b, sampled, laidBy, value }) => sampled('mask', b.multiply(laidBy(set), value('repeats'))),
  values: (cue) => ({ repeats: [laidTimes(cue)] }),
  repeats: (cue) => laidTimes(cue),
  shape: ({ set }) => String(set ?? ''),
  picture: ({ surface, role, channel }) => (surface ? { kind: 'map', surface, role, channel } : null),
  words: (cue, nameOf) => `${mapWords(cue.role, cue.channel)} of ${quoted(nameOf(cue.surface))} ${sideWord(ABOVE, cue)}`,
  tail: ({ repeats, set }) => `${repeats === 1 ? '' : ` ×${plain(repeats)}`}${setWords(set)}`,
  tailWords: ({ set }) => setWords(set),
  starts: [...ROLES]
    .sort((a, b) => ROLE_FACTS[b].label.length - ROLE_FACTS[a].label.length)
    .map((role) => ({ phrase: ROLE_FACTS[role].label.toLowerCase(), read: (r: Reader) => read(r, role) })),
  controls: [
    { as: 'number', key: 'repeats', label: 'Repetitions over the extent', shown: 'times', ...REPEATS, at: 'sentence' },
    { as: 'map', label: 'Map' },
    { as: 'laidBy', label: 'What the map is laid by' },
    { as: 'channelOfMap', label: 'Channel of the map' },
  ],
  begin({ surface, roles }) {
    for (const id of [surface, ...Object.keys(roles)]) {
      const role = LIKELY.find((r) => roles[id]?.has(r));
      if (role) return { surface: id, role };
    }
    return {};
  },
  priced: { surface: STAND_IN },
  preview: false,
};
