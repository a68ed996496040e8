import type { AnyDocument, BlendDocument, GeneratorName, RecipeDocument } from '@pebble/core';
import { makeCue, makeLayer, parseLayout } from '@pebble/core';

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

const seam = (over: Partial<ReturnType<typeof makeLayer>['seam']>) => ({ ...makeLayer('', '', 0).seam, ...over });

const terraceStep: BlendDocument = {
  kind: 'blend',
  version: 1,
  name: 'Terrace step',
  extentM: 2.4,
  specimen: 'patch',
  cut: { ax: 0.07, ay: 0.34, bx: 0.94, by: 0.76 },
  layers: {
    stone: makeLayer('terrace-stone', 'Terrace stone', 1),
    clay: makeLayer('laterite-clay', 'Laterite clay', 2, {
      coverage: { washed: makeCue('vertexColour', { order: 1, channel: 'r', centre: 0.62, width: 0.8 }) },
      seam: seam({ soft: 0.08, liftM: 0.003, follow: 0.15 }),
    }),
    moss: makeLayer('cushion-moss', 'Cushion moss', 3, {
      coverage: { damp: makeCue('vertexColour', { order: 1, channel: 'g', centre: 0.45, width: 0.8 }) },
      seam: seam({ soft: 0.12, liftM: 0.004, follow: 0.3, broken: { byM: 0.009, atM: 0.28, octaves: 4, seed: 3 } }),
    }),
    gravel: makeLayer('river-gravel', 'River gravel', 4, {
      coverage: { islands: makeCue('vertexColour', { order: 1, channel: 'b', centre: 0.55, width: 0.7 }) },
      seam: seam({ soft: 0.06, liftM: 0, follow: 0.4 }),
    }),
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
    base: { order: 1, label: 'base', depth: 8, channels: parseLayout('r=baseColor.r,g=baseColor.g,b=baseColor.b') },
    orm: { order: 2, label: 'orm', depth: 8, channels: parseLayout('r=occlusion,g=roughness,b=metallic') },
    nh: { order: 3, label: 'nh', depth: 8, channels: parseLayout('r=normal.r,g=normal.g,b=height') },
  },
};

export const demoDocuments = (): { id: string; body: AnyDocument }[] => [
  { id: 'terrace-step', body: structuredClone(terraceStep) },
  { id: 'usual-packing', body: structuredClone(usualPacking) },
];
