// Cues of every kind at random, with numbers as people write them: what a sentence says is read back to the same digit.
import fc from 'fast-check';
import type { Coverage, Cue, CueKind, Join, UvSet } from '../coverage';
import { CUE_KINDS, JOIN_NAMES, NOISE_KINDS, cueKind, makeCue } from '../coverage';
import { ROLES } from '../surface';

/** Between two numbers, in a thousand steps. */
const to = (min: number, max: number) => fc.integer({ min: 0, max: 1000 }).map((k) => +(min + ((max - min) * k) / 1000).toPrecision(3) || 0);
const seed = fc.integer({ min: 0, max: 0xffffff });
const size = to(0.01, 50);
const bearing = fc.oneof(fc.constantFrom(0, 45, 90, 135, 180, 225, 270, 315), fc.integer({ min: 0, max: 359 }));

/** Mostly left out: then the extent is meant. */
const OF_SETS = { set: fc.constantFrom<UvSet>(1, 2) };

const OWN: { [K in CueKind]: fc.Arbitrary<object> } = {
  constant: fc.record({ value: to(0, 1), centre: fc.constant(0.5), width: fc.constant(0.5), shape: fc.constant('smooth') }),
  vertexColour: fc.record({ channel: fc.constantFrom('r', 'g', 'b', 'a') }),
  mask: fc.record(
    {
      surface: fc.constantFrom('moss', 'stone'),
      role: fc.constantFrom(...ROLES),
      channel: fc.constantFrom(0, 1, 2),
      repeats: fc.integer({ min: 1, max: 20 }),
      ...OF_SETS,
    },
    { requiredKeys: ['surface', 'role', 'channel', 'repeats'] },
  ),
  painted: fc.record(
    { picture: fc.option(fc.string({ unit: fc.constantFrom(...'0123456789abcdef'), minLength: 64, maxLength: 64 })), ...OF_SETS },
    { requiredKeys: ['picture'] },
  ),
  altitude: fc.record({ from: fc.constantFrom('world', 'object') }),
  slope: fc.constant({}),
  direction: fc.oneof(
    fc.record({ bearing, rise: fc.integer({ min: -89, max: 89 }) }),
    fc.constantFrom({ bearing: 0, rise: 90 }, { bearing: 0, rise: -90 }),
  ),
  convexity: fc.constant({}),
  concavity: fc.constant({}),
  occlusion: fc.constant({}),
  low: fc.constant({}),
  ground: fc.constant({}),
  noise: fc
    .record(
      { noise: fc.constantFrom(...NOISE_KINDS), sizeM: size, octaves: fc.integer({ min: 1, max: 8 }), seed, over: fc.constant('world' as const) },
      { requiredKeys: ['noise', 'sizeM', 'octaves', 'seed'] },
    )
    .map((n) => (n.noise === 'fractal' ? n : { ...n, octaves: 4 })),
  stripes: fc.record({ sizeM: size, bearing }),
  grid: fc.record({ sizeM: size }),
  id: fc.record(
    { surface: fc.constantFrom('moss', 'stone'), colour: fc.constantFrom('#ff0000', '#12ab9f'), ...OF_SETS },
    { requiredKeys: ['surface', 'colour'] },
  ),
  part: fc.record({ part: fc.constantFrom('lid', 'outer wall'), centre: fc.constant(0.5), width: fc.constant(0), shape: fc.constant('smooth') }),
};

/** A cue of one kind, its centre somewhere in or near the range of its input. */
export const anyCueOf = (kind: CueKind): fc.Arbitrary<Cue> => {
  const { least, most } = cueKind(kind);
  return fc
    .record({
      join: fc.constantFrom<Join>(...JOIN_NAMES),
      amount: fc.oneof(fc.constant(1), to(0, 1)),
      inverted: fc.boolean(),
      shape: fc.constantFrom('smooth', 'straight'),
      centre: to(Math.max(-50, least), Math.min(120, most)),
      // Half of it is written.
      width: fc.oneof(
        fc.constant(0),
        to(0, Math.min(40, (most - least) / 2)).map((half) => 2 * half),
      ),
      own: OWN[kind],
    })
    .map(({ own, ...common }) => makeCue(kind, { ...common, ...own } as never));
};

export const anyCoverage = (kinds: readonly CueKind[] = CUE_KINDS, maxLength = 5, minLength = 0): fc.Arbitrary<Coverage> =>
  fc
    .array(fc.constantFrom(...kinds).chain(anyCueOf), { minLength, maxLength })
    .map((list) => Object.fromEntries(list.map((cue, i) => [`c${i + 1}`, { ...cue, order: i + 1 } as Cue])));
