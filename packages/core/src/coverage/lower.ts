import type { Builder, DagNode, Values } from '../compile';
import { UNIT } from '../compile';
import { inOrder } from '../order';
import { pictureOf } from './cue';
import { joinFacts } from './joins';
import type { Coverage, Cue } from './kinds';
import type { CuePlace, CueSite } from './kinds/kind';
import { cueKind, pictureKey } from './kinds/kind';

/** Where a coverage is worked out. */
export interface Site {
  /** Texture coordinate, one repetition of the extent a unit. */
  uv: DagNode;
  /** Height of what lies below, in metres. */
  below: DagNode;
  /** Mip level that a coordinate asks for of a picture; null reads the finest. */
  level: ((uv: DagNode, slot: number) => DagNode) | null;
  /** Slots of the pictures that cues read, by `pictureKey`. A cue whose picture is not there gives 0. */
  pictures: ReadonlyMap<string, number>;
}

const at = (prefix: string, index: number) => `${prefix}c${index}_`;

function siteOf(b: Builder, cue: Cue, prefix: string, { uv, below, level, pictures }: Site): CueSite {
  return {
    b,
    uv,
    below,
    value: (name, type, range) => b.value(`${prefix}${name}`, type, range),
    laidBy: (set) => (set ? b.node(`uv${set}`) : uv),
    sampled(channel, coordinate) {
      const picture = pictureOf(cue);
      const slot = picture ? pictures.get(pictureKey(picture)) : undefined;
      if (slot === undefined) return null;
      // IDs are looked up, not filtered.
      return b.node('image', [coordinate, channel === 'mask' && level ? level(coordinate, slot) : b.constant(0)], { slot, channel });
    },
  };
}

/** One cue as a number in [0, 1], and what it looks at. */
function lowerCue(b: Builder, cue: Cue, p: string, site: Site): { input: DagNode | null; value: DagNode } {
  const spec = cueKind(cue.kind);
  const input = spec.input(cue, siteOf(b, cue, p, site));
  // A picture that is not there is nowhere, and corrects nothing.
  if (!input) return { input, value: b.constant(cue.join === 'corrected' ? joinFacts(cue.join).without : 0) };
  const c = spec.ramped ? b.node('ramp', [input, b.value(`${p}centre`), b.value(`${p}width`)], { shape: cue.shape }) : input;
  return { input, value: cue.inverted ? b.invert(c) : c };
}

/**
 * An ordered list of cues folded from 1, each as its join says. A cue's amount mixes it toward what leaves the coverage as it was.
 */
export function lowerCoverage(b: Builder, coverage: Readonly<Coverage>, prefix: string, site: Site): DagNode {
  let a = b.constant(1);
  inOrder(coverage).forEach((cue, i) => {
    const p = at(prefix, i);
    const amount = b.value(`${p}amount`, 'float', UNIT);
    const { without, fold } = joinFacts(cue.join);
    a = fold(b, a, b.mix(b.constant(without), lowerCue(b, cue, p, site).value, amount));
  });
  return a;
}

/** What each cue of a coverage looks at and gives, in their order: the same nodes that fold into it. */
export const lowerCues = (
  b: Builder,
  coverage: Readonly<Coverage>,
  prefix: string,
  site: Site,
): { id: string; input: DagNode | null; value: DagNode }[] =>
  inOrder(coverage).map((cue, i) => ({ id: cue.id, ...lowerCue(b, cue, at(prefix, i), site) }));

/** Adds the runtime values of a coverage to others. */
export function coverageValues(
  coverage: Readonly<Coverage>,
  prefix: string,
  place: CuePlace,
  values: Record<string, readonly number[]> = {},
): Values {
  inOrder(coverage).forEach((cue, i) => {
    const own = { amount: [cue.amount], centre: [cue.centre], width: [cue.width], ...cueKind(cue.kind).values?.(cue, place) };
    for (const [name, value] of Object.entries(own)) values[`${at(prefix, i)}${name}`] = value;
  });
  return values;
}

/** What decides the shape of the lowered coverage: as long as it stays the same, only values change. */
export const coverageShape = (coverage: Readonly<Coverage>, pictures: ReadonlyMap<string, number>): string =>
  inOrder(coverage)
    .map((c) => {
      const picture = pictureOf(c);
      const slot = picture ? (pictures.get(pictureKey(picture)) ?? 'none') : '';
      return `${c.join}:${c.kind}:${slot}:${cueKind(c.kind).shape?.(c) ?? ''}:${c.shape}:${c.inverted}`;
    })
    .join(';');
