import type { Component, Cue, Join, NoiseKind, UvSet } from '../document';
import { ROLE_FACTS } from '../surface';
import type { Role } from '../surface';
import { CUES } from './cues';

export const JOIN_WORDS: Record<Join, string> = { and: 'and', or: 'or', butNot: 'but not', atMost: 'at most', atLeast: 'at least' };
export const COLOUR_WORDS: Record<Component, string> = { r: 'red', g: 'green', b: 'blue', a: 'alpha' };
export const COMPONENTS_IN_ORDER: readonly Component[] = ['r', 'g', 'b', 'a'];
export const NOISE_WORDS: Record<NoiseKind, string> = {
  fractal: 'noise',
  value: 'value noise',
  gradient: 'gradient noise',
  cellular: 'cellular noise',
};
/** Bearings that have names, every 45 degrees from north. */
export const BEARINGS = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'] as const;

/** What stands before the number of a cue as it is, and inverted. */
export const SIDES: Record<Exclude<Cue['kind'], 'part' | 'constant'>, readonly [plain: string, inverted: string]> = {
  vertexColour: ['above', 'below'],
  mask: ['above', 'below'],
  painted: ['above', 'below'],
  altitude: ['above', 'under'],
  slope: ['above', 'under'],
  direction: ['beyond', 'within'],
  convexity: ['sharper than', 'blunter than'],
  concavity: ['sharper than', 'blunter than'],
  occlusion: ['above', 'below'],
  low: ['deeper than', 'shallower than'],
  ground: ['beyond', 'within'],
  noise: ['above', 'below'],
  stripes: ['above', 'below'],
  grid: ['above', 'below'],
  id: ['beyond', 'within'],
};

/** A number as people write it, to six digits. */
export const plain = (v: number): string => String(+v.toPrecision(6));
export const percent = (v: number): string => `${plain(v * 100)} %`;
/** Lengths under ten centimetres read in millimetres. */
const inMillimetres = (...metres: number[]) => metres.every((m) => Math.abs(m) < 0.1) && metres.some((m) => m !== 0);
export const length = (m: number): string => (inMillimetres(m) ? `${plain(m * 1000)} mm` : `${plain(m)} m`);
export const quoted = (text: string): string => `"${text.replaceAll('"', "'")}"`;

/** How a surface is called; its id where the name is not known. */
export type NameOf = (id: string) => string;

/** What a cue looks at, in words. */
function subject(cue: Cue, nameOf: NameOf): string {
  switch (cue.kind) {
    case 'vertexColour':
      return `vertex ${COLOUR_WORDS[cue.channel]} `;
    case 'mask':
      return `${mapWords(cue.role, cue.channel)} of ${quoted(nameOf(cue.surface))} `;
    case 'painted':
      return 'painted mask ';
    case 'altitude':
      return cue.from === 'world' ? 'altitude ' : 'height ';
    case 'slope':
      return 'slope ';
    case 'direction':
      return 'facing ';
    case 'convexity':
      return 'edges ';
    case 'concavity':
      return 'hollows ';
    case 'occlusion':
      return 'occlusion ';
    case 'low':
      return 'low places ';
    case 'noise':
      return `${NOISE_WORDS[cue.noise]} `;
    case 'stripes':
      return 'stripes ';
    case 'grid':
      return 'grid lines ';
    case 'id':
      return `ID colour ${cue.colour} of ${quoted(nameOf(cue.surface))} `;
    default:
      return '';
  }
}

/** A map and, where it has several, which of its channels. */
export const mapWords = (role: Role, channel: number): string =>
  `${ROLE_FACTS[role].label.toLowerCase()}${ROLE_FACTS[role].components > 1 || channel > 0 ? ` ${COLOUR_WORDS[COMPONENTS_IN_ORDER[channel]]}` : ''}`;

/** The words of a cue before its number: the name of its token. */
export function cueWords(cue: Cue, nameOf: NameOf = (id) => id): string {
  if (cue.kind === 'constant') return cue.inverted ? 'all but an even' : 'an even';
  if (cue.kind === 'part') return `${cue.inverted ? 'all but part' : 'part'} ${quoted(cue.part)}`;
  return `${subject(cue, nameOf)}${SIDES[cue.kind][Number(cue.inverted)]}`;
}

/** Where a direction points, in words. */
export function bearingWords(bearing: number, rise: number): string {
  if (rise === 90) return 'up';
  if (rise === -90) return 'down';
  const named = BEARINGS[bearing / 45];
  return `${named ?? `bearing ${plain(bearing)}°`}${rise ? ` raised ${plain(rise)}°` : ''}`;
}

/** What a map is laid by, when it is not the extent. */
export const setWords = (set: UvSet | undefined): string => (set ? ` by UV set ${set}` : '');

/** The words of a cue after its number, without those that only tell one random picture from another. */
export function cueTail(cue: Cue): string {
  switch (cue.kind) {
    case 'mask':
      return `${cue.repeats === 1 ? '' : ` ×${plain(cue.repeats)}`}${setWords(cue.set)}`;
    case 'id':
      return setWords(cue.set);
    case 'direction':
      return ` of ${bearingWords(cue.bearing, cue.rise)}`;
    case 'ground':
      return ' of the ground';
    case 'noise':
      return ` at ${length(cue.sizeM)}`;
    case 'stripes':
      return ` each ${length(cue.sizeM)}${cue.bearing ? ` turned ${plain(cue.bearing)}°` : ''}`;
    case 'grid':
      return ` each ${length(cue.sizeM)}`;
    default:
      return '';
  }
}

/** Centre and half width in the unit of the cue: "35° ±8", "4 mm ±3", "0.5 ±0.2". Half widths of 0 are left out. */
export function cueNumbers(cue: Cue): string {
  if (cue.kind === 'part') return '';
  if (cue.kind === 'constant') return ` ${percent(cue.value)}`;
  const half = cue.width / 2;
  const { unit } = CUES[cue.kind];
  const small = unit === 'm' && inMillimetres(cue.centre, half);
  const k = small ? 1000 : 1;
  const sign = { m: small ? ' mm' : ' m', '°': '°', '1/m': ' per metre', '': '' }[unit];
  return ` ${plain(cue.centre * k)}${sign}${half ? ` ±${plain(half * k)}` : ''}`;
}
