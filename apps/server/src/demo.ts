import type { AnyDocument, AssetDocument, BlendDocument, Cue, GeneratorName, Layer, LayerContent, RecipeDocument, Seam } from '@pebble/core';
import { DEFAULT_LOOK, DEFAULT_WATER, makeBlend, makeCue, makeLayer, parseChannelLayout } from '@pebble/core';
import { EXAMPLE_MASTERS, STILL, STILL_COLOURS, STILL_MASTERS } from '@pebble/usecases';

/** Seeds of the surfaces of Orrin Ridge. */
export const DEMO_SEEDS: Record<GeneratorName, number> = {
  'terrace-stone': 41,
  'laterite-clay': 12,
  'cushion-moss': 27,
  'tea-leaves': 19,
  'river-gravel': 8,
  'lime-plaster': 33,
  'weathered-copper': 5,
  'roof-tile': 14,
  'still-water': 22,
};

/** A layer with some of its seam set. */
const layer = (
  shows: string | LayerContent,
  name: string,
  order: number,
  cues: Cue[],
  seam: Partial<Seam> = {},
  over: Partial<Layer> = {},
): Layer => {
  const made = makeLayer(shows, name, order, over);
  return {
    ...made,
    coverage: Object.fromEntries(cues.map((cue, i) => [`c${i + 1}`, { ...cue, order: i + 1 } as Cue])),
    seam: { ...made.seam, ...seam },
  };
};
const IRON: LayerContent = { kind: 'constant', baseColor: '#4a4642', roughness: 0.62, metallic: 1, heightM: 0 };
const BLACK_IRON: LayerContent = { kind: 'constant', baseColor: '#33302e', roughness: 0.58, metallic: 1, heightM: 0 };
const broken = (byM: number, atM: number, seed: number, octaves = 4): Partial<Seam> => ({ broken: { byM, atM, octaves, seed } });

/** Dressed stone, moss where it is not steep, clay washed in, leaves in the hollows, and a puddle. */
const terraceStep = makeBlend('Terrace step', {
  extentM: 2.4,
  specimen: 'patch',
  standsAtM: 1840,
  cut: { ax: 0.07, ay: 0.34, bx: 0.94, by: 0.76 },
  layers: {
    stone: layer('terrace-stone', 'Terrace stone', 1, []),
    clay: layer('laterite-clay', 'Laterite clay', 2, [makeCue('vertexColour', { channel: 'r', centre: 0.62, width: 0.8 })], {
      soft: 0.08,
      liftM: 0.003,
      follow: 0.15,
    }),
    moss: layer(
      'cushion-moss',
      'Cushion moss',
      3,
      [
        makeCue('slope', { centre: 9, width: 7 }),
        makeCue('concavity', { join: 'or', centre: 0.35, width: 0.5 }),
        makeCue('noise', { centre: 0.48, width: 0.24, sizeM: 0.7, seed: 3 }),
      ],
      { soft: 0.12, liftM: 0.004, follow: 0.3, ...broken(0.009, 0.28, 3) },
    ),
    leaves: layer(
      'tea-leaves',
      'Fallen leaves',
      4,
      [makeCue('low', { centre: 0.004, width: 0.016 }), makeCue('noise', { centre: 0.44, width: 0.3, sizeM: 0.9, seed: 12 })],
      { soft: 0.05, liftM: 0.004, follow: 0.5 },
    ),
    pool: layer({ kind: 'water', ...DEFAULT_WATER, levelM: 0.002, clearM: 0.05 }, 'Puddle', 5, [
      makeCue('vertexColour', { channel: 'b', centre: 0.3, width: 0.6 }),
    ]),
  },
});

/** A trodden path: gravel, clay pressed into it, leaves blown over it. */
const path = makeBlend('Path', {
  extentM: 1.6,
  specimen: 'path-slab',
  standsAtM: 1838,
  cut: { ax: 0.06, ay: 0.3, bx: 0.94, by: 0.62 },
  layers: {
    gravel: layer('river-gravel', 'River gravel', 1, []),
    clay: layer('laterite-clay', 'Laterite clay', 2, [makeCue('noise', { noise: 'gradient', centre: 0.52, width: 0.2, sizeM: 0.5, seed: 5 })], {
      soft: 0.1,
      liftM: -0.004,
      follow: 0.2,
    }),
    leaves: layer('tea-leaves', 'Fallen leaves', 3, [makeCue('noise', { centre: 0.6, width: 0.18, sizeM: 0.5, seed: 21 })], {
      soft: 0.06,
      liftM: 0.002,
      follow: 0.5,
    }),
  },
});

/** Lime plaster over stone, rubbed off at the edges; streaks run down it and dirt rises from the ground. */
const shedWall = makeBlend('Shed wall', {
  extentM: 2,
  specimen: 'shed-wall',
  standsAtM: 1842,
  cut: { ax: 0.06, ay: 0.42, bx: 0.94, by: 0.58 },
  layers: {
    stone: layer('terrace-stone', 'Dressed stone', 1, []),
    plaster: layer(
      'lime-plaster',
      'Lime plaster',
      2,
      [
        makeCue('noise', { centre: 0.46, width: 0.16, sizeM: 0.9, seed: 8 }),
        makeCue('convexity', { join: 'butNot', centre: 8, width: 12, amount: 0.9 }),
      ],
      { soft: 0.1, liftM: 0.012, follow: 0.25, ...broken(0.008, 0.2, 9) },
    ),
    streaks: layer(
      { kind: 'constant', baseColor: '#8a8173', roughness: 0.5, metallic: 0, heightM: 0 },
      'Run-off streaks',
      3,
      [
        makeCue('slope', { centre: 62, width: 20, inverted: false }),
        makeCue('stripes', { sizeM: 0.22, bearing: 0, centre: 0.55, width: 0.5 }),
        makeCue('noise', { noise: 'gradient', centre: 0.47, width: 0.2, sizeM: 0.34, seed: 29 }),
      ],
      { soft: 0.8, follow: 1, contact: 0 },
      { mode: 'multiply', strength: 0.75, untouched: { height: true, normal: true, metallic: true, occlusion: true } },
    ),
    dirt: layer(
      'laterite-clay',
      'Rising dirt',
      4,
      [makeCue('ground', { centre: 0.4, width: 0.7 }), makeCue('noise', { centre: 0.4, width: 0.4, sizeM: 0.3, seed: 23 })],
      { soft: 0.3, liftM: 0.001, follow: 0.85, contact: 0.1 },
    ),
  },
});

/** Where a slot of the still is, by the map: islands are a texel or two apart, and colours far. */
const onSlot = (slot: string, over: Partial<Cue> = {}) =>
  makeCue('id', { surface: STILL.ids, colour: STILL_COLOURS[slot], set: 1, centre: 0.1, width: 0.02, ...over });

/** A still by its ID colours: copper, an iron stand, verdigris in the hollows, dust on what looks up. */
const copperStill = makeBlend('Copper still', {
  extentM: 0.9,
  specimen: STILL.specimen,
  standsAtM: 1842,
  cut: { ax: 0.1, ay: 0.42, bx: 0.9, by: 0.72 },
  layers: {
    iron: layer(IRON, 'Iron stand', 1, []),
    copper: layer('weathered-copper', 'Copper', 2, [onSlot('copper'), onSlot('pipe', { join: 'or' })], { soft: 0.02, follow: 1, contact: 0 }),
    verdigris: layer(
      { kind: 'constant', baseColor: '#6fa38c', roughness: 0.86, metallic: 0, heightM: 0 },
      'Verdigris',
      3,
      [
        makeCue('occlusion', { centre: 0.92, width: 0.3 }),
        makeCue('concavity', { join: 'or', centre: 6, width: 10 }),
        makeCue('noise', { centre: 0.29, width: 0.2, sizeM: 0.16, seed: 6 }),
      ],
      { soft: 0.25, follow: 1, liftM: 0.0004 },
      { untouched: { normal: true } },
    ),
    dust: layer(
      'laterite-clay',
      'Dust',
      4,
      [makeCue('slope', { centre: 58, width: 50 }), makeCue('noise', { centre: 0.36, width: 0.3, sizeM: 0.3, seed: 17 })],
      { soft: 0.6, follow: 1 },
      { strength: 0.8, look: { ...DEFAULT_LOOK, tint: '#d8c8b8', scale: 0.5 } },
    ),
  },
});

/** What stands under the still, when the still is looked at whole. */
const blackIron = makeBlend('Black iron', {
  extentM: 0.9,
  specimen: STILL.specimen,
  standsAtM: 1842,
  layers: {
    iron: layer(BLACK_IRON, 'Black iron', 1, []),
    rust: layer(
      { kind: 'constant', baseColor: '#7a4526', roughness: 0.9, metallic: 0, heightM: 0 },
      'Rust',
      2,
      [makeCue('noise', { centre: 0.52, width: 0.12, sizeM: 0.08, seed: 41 }), makeCue('ground', { join: 'or', centre: 0.05, width: 0.1 })],
      { soft: 0.2, liftM: 0.0003 },
    ),
  },
});

/** The still with what sits on each of its slots. */
const wholeStill: AssetDocument = {
  kind: 'asset',
  version: 1,
  name: 'Copper still, whole',
  specimen: STILL.specimen,
  slots: {
    s1: { order: 1, slot: 'copper', blend: 'copper-still', uvSet: 0, size: 1 },
    s2: { order: 2, slot: 'pipe', blend: 'copper-still', uvSet: 0, size: 0.5 },
    s3: { order: 3, slot: 'iron', blend: 'black-iron', uvSet: 0, size: 1 },
  },
};

/** The still at work: steam is a master on a card of its own. */
const steamingStill: AssetDocument = {
  kind: 'asset',
  version: 1,
  name: 'Still at work',
  specimen: 'steaming-still',
  slots: {
    s1: { order: 1, slot: 'copper', blend: 'copper-still', uvSet: 0, size: 1 },
    s2: { order: 2, slot: 'pipe', blend: 'copper-still', uvSet: 0, size: 0.5 },
    s3: { order: 3, slot: 'iron', blend: 'black-iron', uvSet: 0, size: 1 },
    s4: { order: 4, slot: 'steam', blend: 'steam-swirl', uvSet: 0, size: 1 },
  },
};

const usualPacking: RecipeDocument = {
  kind: 'recipe',
  version: 1,
  name: 'Usual packing',
  template: '{set}_{file}',
  size: 1024,
  sources: { 'terrace-step': { order: 1 }, 'cushion-moss': { order: 2 } },
  files: {
    base: { order: 1, label: 'base', depth: 8, channels: parseChannelLayout('r=baseColor.r,g=baseColor.g,b=baseColor.b') },
    orm: { order: 2, label: 'orm', depth: 8, channels: parseChannelLayout('r=occlusion,g=roughness,b=metallic') },
    nh: { order: 3, label: 'nh', depth: 8, channels: parseChannelLayout('r=normal.r,g=normal.g,b=height') },
  },
};

export const DEMO_BLENDS: Record<string, BlendDocument> = { 'terrace-step': terraceStep, path, 'shed-wall': shedWall, 'copper-still': copperStill };

const copies = (of: Readonly<Record<string, AnyDocument>>) => Object.entries(of).map(([id, body]) => ({ id, body: structuredClone(body) }));
/** What is there at once. */
export const demoDocuments = (): { id: string; body: AnyDocument }[] =>
  copies({ 'terrace-step': terraceStep, path, 'shed-wall': shedWall, 'usual-packing': usualPacking, ...EXAMPLE_MASTERS });
/** What lies on the still, once that is laid out. */
export const stillDocuments = (): { id: string; body: AnyDocument }[] =>
  copies({ 'copper-still': copperStill, 'black-iron': blackIron, 'whole-still': wholeStill, 'still-at-work': steamingStill, ...STILL_MASTERS });
