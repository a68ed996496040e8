import type { Role } from '../../surface';
import { ROLE_FACTS } from '../../surface';
import type { Component, CueUnit, UvSet } from '../kinds/kind';
import type { Join } from '../joins';
import { joinFacts } from '../joins';
import { shifted } from './decimal';

export const COLOUR_WORDS: Record<Component, string> = { r: 'red', g: 'green', b: 'blue', a: 'alpha' };
export const COMPONENTS_IN_ORDER: readonly Component[] = ['r', 'g', 'b', 'a'];
/** Bearings that have names, every 45 degrees from north. */
export const BEARINGS = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'] as const;

/** All that is read as a join. Texts of before called the last two "at most" and "at least". */
export const JOIN_PHRASES: readonly (readonly [string, Join])[] = [
  ['and in any case', 'and'],
  ['and', 'and'],
  ['or else', 'or'],
  ['or', 'or'],
  ['but in no case', 'butNot'],
  ['but not', 'butNot'],
  ['nor', 'butNot'],
  ['capped by', 'atMost'],
  ['at most', 'atMost'],
  ['topped up by', 'atLeast'],
  ['at least', 'atLeast'],
  ['corrected by', 'corrected'],
];

/**
 * The words of a join behind others, so that it is heard to act on all that was said before: "A or B, and in any case C" is
 * (A or B) and C, which "A or B and C" is not.
 * @param before joins of the cues so far, but for that of a first cue that begins with "where"
 */
export function joinPhrase(join: Join, before: readonly Join[]): string {
  const all = (of: Join) => before.every((j) => j === of);
  if (join === 'and') return all('and') ? ' and' : ', and in any case';
  if (join === 'or') return all('or') ? ' or' : ', or else';
  if (join === 'butNot') return all('and') ? ' but not' : before.at(-1) === 'butNot' ? ', nor' : ', but in no case';
  return `, ${joinFacts(join).words}`;
}

/** A number as it is written. */
export const plain = (v: number): string => shifted(v, 0);
export const percent = (v: number): string => `${shifted(v, 2)} %`;
/** Lengths under ten centimetres read in millimetres. */
const inMillimetres = (...metres: number[]) => metres.every((m) => Math.abs(m) < 0.1) && metres.some((m) => m !== 0);
export const length = (m: number): string => (inMillimetres(m) ? `${shifted(m, 3)} mm` : `${plain(m)} m`);
export const quoted = (text: string): string => `"${text.replace(/[\\"]/g, '\\$&')}"`;

const SIGNS: Record<CueUnit, string> = { m: ' m', '°': '°', '1/m': ' per metre', '': '' };

/** Centre and half width in a unit: "35° ±8", "4 mm ±3", "0.5 ±0.2". Half widths of 0 are left out. */
export function rampNumbers({ centre, width }: { centre: number; width: number }, unit: CueUnit): string {
  const half = width / 2;
  const small = unit === 'm' && inMillimetres(centre, half);
  const places = small ? 3 : 0;
  return ` ${shifted(centre, places)}${small ? ' mm' : SIGNS[unit]}${half ? ` ±${shifted(half, places)}` : ''}`;
}

/** A map and, where it has several, which of its channels. */
export const mapWords = (role: Role, channel: number): string =>
  `${ROLE_FACTS[role].label.toLowerCase()}${ROLE_FACTS[role].components > 1 || channel > 0 ? ` ${COLOUR_WORDS[COMPONENTS_IN_ORDER[channel]]}` : ''}`;

/** Where a direction points, in words. */
export function bearingWords(bearing: number, rise: number): string {
  if (rise === 90 && bearing === 0) return 'up';
  if (rise === -90 && bearing === 0) return 'down';
  const named = BEARINGS[bearing / 45];
  return `${named ?? `bearing ${plain(bearing)}°`}${rise ? ` raised ${plain(rise)}°` : ''}`;
}

/** What a map is laid by, when it is not the extent. */
export const setWords = (set: UvSet | undefined): string => (set ? ` by UV set ${set}` : '');
