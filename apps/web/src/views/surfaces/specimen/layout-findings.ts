import type { SpecimenDocument } from '@pebble/core';
import { stackingKey } from '@pebble/core';
import type { LayoutFacts } from '../../../workers/mesh-protocol';

/** Something about a mesh that is worth knowing, and what can be done about it in one click. */
export interface LayoutFinding {
  code: 'no-uv' | 'overlap' | 'mirrored' | 'folded' | 'outside' | 'repeats' | 'wasted' | 'uneven' | 'collapsed' | 'size' | 'note';
  severity: 'warning' | 'info';
  text: string;
  mends: LayoutMend[];
}
export type LayoutMend =
  | { label: string; do: 'unwrap' | 'repack' }
  | { label: string; do: 'allow'; key: string; names: string; on: boolean }
  | { label: string; do: 'unit'; unitM: number };

/** Longer or shorter than this, a thing was hardly modelled in metres. */
const LIKELY_M = { shortest: 0.02, longest: 60 };
/** Emptier than this, a layout wastes what it costs. */
const EMPTY = 0.6;

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
const count = (n: number, one: string, many = `${one}s`): string => `${n.toLocaleString('en')} ${n === 1 ? one : many}`;
const AGAIN: LayoutMend = { label: 'Lay out again', do: 'repack' };

export interface LevelPart {
  id: string;
  name: string;
  slot: string;
  sets: number;
}

/** @param side of the texture in pixels, for densities */
export function layoutFindings(facts: LayoutFacts, parts: readonly LevelPart[], body: SpecimenDocument, side: number): LayoutFinding[] {
  const out: LayoutFinding[] = [];
  const say = (code: LayoutFinding['code'], severity: LayoutFinding['severity'], text: string, mends: LayoutMend[] = []) =>
    out.push({ code, severity, text, mends });
  size(facts, body, say);
  const bare = parts.filter((p) => p.sets <= body.uvSet);
  if (bare.length)
    say(
      'no-uv',
      'warning',
      `${bare.length === parts.length ? (parts.length === 1 ? 'It has' : 'Its parts have') : `${bare.map((p) => p.name).join(', ')} ${bare.length === 1 ? 'has' : 'have'}`} no ${bare.some((p) => p.sets) ? `set ${body.uvSet + 1} of ` : ''}texture coordinates: nothing can be laid on ${bare.length === 1 ? 'it' : 'them'}${bare.some((p) => p.sets) ? ' with it' : ''}.`,
      [{ label: 'Unwrap', do: 'unwrap' }],
    );
  const islands = facts.islands;
  if (!islands.length && bare.length < parts.length)
    say('collapsed', 'warning', 'Its texture coordinates have no area: one texel colours each triangle.', [{ label: 'Unwrap', do: 'unwrap' }]);
  if (!islands.length) return notes(out, body);
  for (const { parts: pair, share, stacked, pairs } of facts.overlaps) {
    const [a, b] = pair.map((i) => parts[i]);
    const key = stackingKey(a.id, b.id);
    const names = a === b ? a.name : `${a.name} and ${b.name}`;
    const how = stacked ? `${count(pairs, 'pair')} of islands, each wholly on the other` : `${count(pairs, 'pair')} of islands, partly`;
    const on = !!body.stacking[key];
    // What sits on different slots is laid by itself.
    const apart = a.slot !== b.slot;
    say(
      'overlap',
      on || apart ? 'info' : 'warning',
      `${names}: ${on ? 'lies on itself as wanted' : a === b ? 'islands lie on each other' : 'lie on each other'} over ${percent(share)} of the tile (${how})${apart && !on ? ': no harm while their slots wear maps of their own' : ''}.`,
      on
        ? [{ label: 'Keep apart', do: 'allow', key, names, on: false }]
        : [{ label: stacked ? 'It is wanted' : 'Allow it', do: 'allow', key, names, on: true }, AGAIN],
    );
  }
  const mirrored = islands.filter((i) => i.flipped).length;
  if (mirrored)
    say(
      'mirrored',
      'warning',
      `${count(mirrored, 'island is', 'islands are')} mirrored: writing and slanted light on ${mirrored === 1 ? 'it' : 'them'} run backwards.`,
      [AGAIN],
    );
  const folded = islands.reduce((n, i) => n + i.folded, 0);
  if (folded)
    say(
      'folded',
      'warning',
      `${count(folded, 'triangle lies', 'triangles lie')} the other way round than the rest of ${folded === 1 ? 'its' : 'their'} island.`,
      [{ label: 'Unwrap', do: 'unwrap' }],
    );
  const repeats = islands.filter((i) => i.repeats).length;
  if (repeats)
    say(
      'repeats',
      'info',
      `${count(repeats, 'island is', 'islands are')} larger than the tile: surfaces repeat over ${repeats === 1 ? 'it' : 'them'}, maps of its own need another layout.`,
      [AGAIN],
    );
  const outside = islands.filter((i) => i.outside && !i.repeats).length;
  if (outside) say('outside', 'warning', `${count(outside, 'island lies', 'islands lie')} outside the tile.`, [AGAIN]);
  if (facts.collapsed && bare.length < parts.length) {
    const own = facts.collapsed;
    say('collapsed', 'info', `${count(own, 'triangle has', 'triangles have')} no area on the page: one texel colours each of them.`);
  }
  if (repeats < islands.length) {
    const empty = 1 - facts.covered;
    say('wasted', empty > EMPTY ? 'warning' : 'info', `${percent(empty)} of the tile is empty.`, empty > EMPTY ? [AGAIN] : []);
  }
  if (facts.density) {
    const { low, high, mean } = facts.density;
    const px = (d: number) => Math.round(d * side).toLocaleString('en');
    if (high > 2 * low)
      say('uneven', 'warning', `Texels differ ${(high / low).toFixed(1)}× in size: ${px(low)} to ${px(high)} px/m at ${side}².`, [AGAIN]);
    else say('uneven', 'info', `Texels are of one size within 2×: about ${px(mean)} px/m at ${side}².`);
  }
  return notes(out, body);
}

type Say = (code: LayoutFinding['code'], severity: LayoutFinding['severity'], text: string, mends?: LayoutMend[]) => void;

function size({ bounds }: LayoutFacts, body: SpecimenDocument, say: Say): void {
  // Of a terrain its metres were asked for.
  if (body.terrain) return;
  const longest = Math.max(...bounds.hi.map((v, c) => v - bounds.lo[c]));
  const guess = [0.01, 0.001, 0.0254, 1, 100].find((unitM) => {
    const would = (longest / body.unitM) * unitM;
    return unitM !== body.unitM && would >= 0.1 && would <= 20;
  });
  if ((longest > LIKELY_M.longest || longest < LIKELY_M.shortest) && guess)
    say(
      'size',
      'warning',
      `It is ${longest < 1 ? `${(longest * 1000).toPrecision(3)} mm` : `${longest.toPrecision(3)} m`} long. Read in ${UNITS.find((u) => u.unitM === guess)?.name ?? 'other units'} it would be ${((longest / body.unitM) * guess).toPrecision(2)} m.`,
      [{ label: `Read as ${UNITS.find((u) => u.unitM === guess)?.name ?? 'that'}`, do: 'unit', unitM: guess }],
    );
}

const notes = (out: LayoutFinding[], body: SpecimenDocument): LayoutFinding[] => [
  ...out,
  ...body.notes.map((text) => ({ code: 'note' as const, severity: 'info' as const, text, mends: [] })),
];

/** What one unit of a file may be. */
export const UNITS = [
  { unitM: 1, name: 'metres' },
  { unitM: 0.01, name: 'centimetres' },
  { unitM: 0.001, name: 'millimetres' },
  { unitM: 0.0254, name: 'inches' },
  { unitM: 100, name: 'hundred metres' },
] as const;

/** Width, height and depth in one unit that suits the longest of them. */
export function sizeText(sizesM: readonly number[]): string {
  const longest = Math.max(...sizesM);
  const [factor, unit] = longest >= 1 ? [1, 'm'] : longest >= 0.01 ? [100, 'cm'] : [1000, 'mm'];
  return `${sizesM.map((v) => Number((v * factor).toPrecision(2)).toLocaleString('en')).join(' × ')} ${unit}`;
}
