// Layouts of files that the trade uses, ready to begin with.
import type { RecipeFile } from '../document';
import { parseChannelLayout } from './layout';

export interface ReadyRecipe {
  name: string;
  about: string;
  files: readonly Omit<RecipeFile, 'order'>[];
}
const file = (label: string, layout: string, over: Partial<RecipeFile> = {}): Omit<RecipeFile, 'order'> => ({
  label,
  depth: 8,
  channels: parseChannelLayout(layout),
  ...over,
});
const colour = (role: string) => `r=${role}.r,g=${role}.g,b=${role}.b`;
const NORMAL = file('normal', colour('normal'));

export const READY_RECIPES: readonly ReadyRecipe[] = [
  {
    name: 'glTF 2.0',
    about: 'base colour; occlusion, roughness, metallic; normal; emissive',
    files: [file('base', colour('baseColor')), file('orm', 'r=occlusion,g=roughness,b=metallic'), NORMAL, file('emissive', colour('emissive'))],
  },
  {
    name: 'glTF 2.0, cut out',
    about: 'the same with opacity in alpha of the base colour',
    files: [file('base', `${colour('baseColor')},a=opacity`), file('orm', 'r=occlusion,g=roughness,b=metallic'), NORMAL],
  },
  {
    name: 'Two files',
    about: 'base colour with roughness; normal XY, occlusion, metallic',
    files: [file('br', `${colour('baseColor')},a=roughness`), file('nom', 'r=normal.r,g=normal.g,b=occlusion,a=metallic')],
  },
  {
    name: 'Terrain layer',
    about: 'base colour with height; normal XY, roughness, occlusion',
    files: [file('bh', `${colour('baseColor')},a=height`, { dither: true }), file('nro', 'r=normal.r,g=normal.g,b=roughness,a=occlusion')],
  },
  {
    name: 'Gloss in alpha',
    about: 'base colour; normal; metallic with gloss in alpha',
    files: [file('base', colour('baseColor')), NORMAL, file('mg', 'r=metallic,g=metallic,b=metallic,a=1-roughness')],
  },
  {
    name: 'A file a map',
    about: 'every map by itself, heights in 16 bits',
    files: [
      file('base', colour('baseColor')),
      NORMAL,
      file('roughness', 'r=roughness'),
      file('metallic', 'r=metallic'),
      file('occlusion', 'r=occlusion'),
      file('height', 'r=height', { depth: 16 }),
    ],
  },
];

/** Files of a ready-made recipe, as a document has them. */
export const filesOf = ({ files }: ReadyRecipe): Record<string, RecipeFile> =>
  Object.fromEntries(files.map((f, i) => [f.label, { ...f, channels: { ...f.channels }, order: i + 1 }]));
