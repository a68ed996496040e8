// Blends at random over surfaces that the caller names: every mode, seam setting and kind of layer turns up.
import fc from 'fast-check';
import type { BlendDocument, Layer, LayerLaying } from '../document';
import { COLOUR_MODES, DEFAULT_CONSTANT, DEFAULT_LOOK, DEFAULT_WATER, makeBlend, makeLayer } from '../document';
import { MATERIAL_ROLES } from '../surface';
import { anyCoverage } from './any-cue';

const to = (min: number, max: number) => fc.integer({ min: 0, max: 1000 }).map((k) => min + ((max - min) * k) / 1000);
/** Mostly as usual: what is used seldom is worth a test, not the whole of it. */
const seldom = <T>(usual: T, other: fc.Arbitrary<T>) => fc.oneof({ weight: 3, arbitrary: fc.constant(usual) }, { weight: 1, arbitrary: other });
const seed = fc.integer({ min: 0, max: 0xffffff });

const seam = fc.record({
  soft: to(0, 1),
  liftM: to(-0.02, 0.02),
  follow: to(0, 1),
  bias: to(0.05, 0.95),
  contact: to(0, 1),
  broken: fc.record({ byM: seldom(0, to(0, 0.02)), atM: to(0.05, 1), octaves: fc.integer({ min: 1, max: 5 }), seed }),
  detailM: seldom(0, to(0.01, 0.4)),
  normal: seldom(0, to(0.1, 1)),
});
const look = fc.record({
  tint: seldom(DEFAULT_LOOK.tint, fc.constantFrom('#ff8040', '#203040')),
  low: seldom(0, to(0, 0.3)),
  high: seldom(1, to(0.5, 1)),
  mid: seldom(0.5, to(0.2, 0.8)),
  roughness: seldom(0, to(-0.5, 0.5)),
  normal: to(0, 2),
  scale: to(0.3, 2),
  turn: seldom(0, to(0, 359)),
  u: to(0, 1),
  v: to(0, 1),
});
const laying = fc.record<LayerLaying>(
  {
    far: fc.record({ times: to(1, 9), fromM: to(0, 3), toM: to(0, 6) }),
    turns: fc.record({ atM: to(0.1, 2), seed, over: fc.constant('world' as const) }, { requiredKeys: ['atM', 'seed'] }),
    cells: fc.record({ atM: to(0.2, 2), turn: to(0, 180), seed, over: fc.constant('world' as const) }, { requiredKeys: ['atM', 'turn', 'seed'] }),
    macro: fc.record({ by: to(0, 1), atM: to(0.2, 4), seed, over: fc.constant('world' as const) }, { requiredKeys: ['by', 'atM', 'seed'] }),
    sides: fc.constant(true as const),
  },
  { requiredKeys: [] },
);
const anyLayer = (surfaces: readonly string[]): fc.Arbitrary<Omit<Layer, 'order'>> =>
  fc
    .record({
      surface: fc.constantFrom(...surfaces),
      constant: seldom(
        null,
        fc.record({ baseColor: fc.constantFrom('#804020', '#d0d0c0'), roughness: to(0, 1), metallic: to(0, 1), heightM: to(-0.02, 0.02) }),
      ),
      water: seldom(
        null,
        fc
          .record({
            levelM: to(-0.02, 0.02),
            clearM: to(0.02, 0.4),
            ripple: to(0, 0.3),
            rippleM: to(0.05, 0.5),
            rimM: to(0.001, 0.03),
            wet: to(0, 1),
          })
          .map((w) => ({ ...DEFAULT_WATER, ...w })),
      ),
      strength: seldom(1, to(0, 1)),
      coverage: anyCoverage(undefined, 3, 1),
      mode: fc.constantFrom(...COLOUR_MODES),
      untouched: fc.subarray([...MATERIAL_ROLES], { maxLength: 4 }).map((roles) => Object.fromEntries(roles.map((r) => [r, true as const]))),
      look,
      seam,
      laying: seldom<LayerLaying | null>(null, laying),
    })
    .map(({ surface, constant, water, laying: lies, ...other }) => {
      const over = { ...other, ...(lies ? { laying: lies } : {}) };
      const even = constant && { kind: 'constant' as const, ...DEFAULT_CONSTANT, ...constant };
      return { ...makeLayer(water ? { kind: 'water', ...water } : (even ?? surface), 'Layer', 0), ...over };
    });

/** A ground and one or two layers over it. */
export const anyBlend = (surfaces: readonly string[], extentM = 2.4): fc.Arbitrary<BlendDocument> =>
  fc
    .array(anyLayer(surfaces), { minLength: 1, maxLength: 2 })
    .map((list) =>
      makeBlend('Random', {
        extentM,
        layers: { ground: makeLayer(surfaces[0], 'Ground', 0), ...Object.fromEntries(list.map((layer, i) => [`l${i}`, { ...layer, order: i + 1 }])) },
      }),
    );
