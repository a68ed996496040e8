import type { Role } from '../roles';

/** How people spell what a map holds, in one word; words that are only sometimes a role stand in {@link WEAK} too. */
const SPELLINGS: Record<Role, string> = {
  baseColor:
    'basecolor basecolour basecol basemap base albedo albedotransparency diffuse diffusecolor diffusecolour diff dif difuse color colour col clr colors bc alb bcolor',
  normal: 'normal normals nrm nrml norm nor nml nmap nmp nrmap tangentnormal normaltangent normalts nrmts nm',
  roughness: 'roughness rough rgh rou ruff roughnes rogh rgns',
  gloss: 'gloss glossiness glossy gls smoothness smooth smth glo',
  metallic: 'metallic metalness metal mtl met mtal metalic metallness metalicness mtlc metallicity metalnes',
  specular: 'specular spec spc specularity specularlevel speclevel reflectivity',
  occlusion: 'occlusion ambientocclusion ao occ ambientocc ambocc aoc occl ambient mixedao',
  emissive: 'emissive emission emissivecolor emissioncolor emit emi emis glow selfillumination illum emm emissiv',
  height: 'height displacement disp displ displace hgt hght heightfield bump dsp parallax elevation hm hmap ht heigth',
  opacity: 'opacity alpha transparency opac cutout transp opa alphamask',
  transmission: 'transmission transmissive trans',
  subsurface: 'subsurface sss scatter scattering subsurfacescattering translucency translucent',
  clearcoat: 'clearcoat clearcoatmask clearcoatweight coat varnish lacquer',
  cavity: 'cavity cav cavities crevice crevices',
  curvature: 'curvature curv curve convexity crv',
  thickness: 'thickness thick thk thickn',
  position: 'position pos worldposition objectposition worldpos',
  id: 'id ids matid materialid objectid colorid colourid idcolor idcolour',
  mask: 'mask msk masks',
};

/** Words that name a material as often as a map: alone at the end they are a role, elsewhere they belong to the name. */
export const WEAK: ReadonlySet<string> = new Set(
  (
    'base color colour col colors metal met rough smooth gloss glossy glow mask masks alpha ambient trans thick scatter bump curve position pos ' +
    'coat varnish lacquer spec emit displace ht hm rou ruff glo occ illum translucent translucency id ids cutout crevice crevices elevation parallax cav'
  ).split(' '),
);

const BY_WORD = new Map<string, Role>(
  Object.entries(SPELLINGS).flatMap(([role, words]) => words.split(' ').map((word) => [word, role as Role] as const)),
);

/** Letters that stand for a role alone; more than one where the content has to say which. */
export const LETTERS: Readonly<Record<string, readonly Role[]>> = {
  n: ['normal'],
  r: ['roughness'],
  m: ['metallic'],
  h: ['height'],
  d: ['baseColor', 'height'],
  c: ['baseColor', 'cavity', 'curvature'],
  b: ['baseColor', 'height'],
  s: ['specular', 'gloss'],
  g: ['gloss'],
  a: ['baseColor', 'occlusion', 'opacity'],
  o: ['occlusion', 'opacity'],
  e: ['emissive'],
};

/** Letters of the channels of a packed map. Longer ones go before shorter; more than one role where people differ. */
const CODES: readonly (readonly [code: string, roles: readonly Role[]])[] = [
  ['ao', ['occlusion']],
  ['cv', ['curvature']],
  ['ca', ['cavity']],
  ['sp', ['specular']],
  ['gl', ['gloss']],
  ['o', ['occlusion']],
  ['a', ['occlusion']],
  ['r', ['roughness']],
  ['m', ['metallic']],
  ['h', ['height']],
  ['d', ['height']],
  ['g', ['gloss']],
  ['s', ['specular', 'gloss']],
  ['c', ['cavity', 'curvature']],
  ['t', ['thickness', 'transmission']],
  ['e', ['emissive']],
];

/** A role's word, also with `map` or `tex` behind it or a number. */
export function roleOfWord(word: string): Role | null {
  const plain = word.toLowerCase();
  return BY_WORD.get(plain) ?? BY_WORD.get(plain.replace(/\d{1,2}$/, '')) ?? BY_WORD.get(plain.replace(/(map|maps|tex|texture)$/, '')) ?? null;
}

/** Roles of channels in their order: several stand where people differ. */
export type ChannelOrder = readonly (readonly Role[])[];

/** Whether no role stands twice, taken by the first of each. */
const distinct = (order: ChannelOrder): boolean => new Set(order.map(([first]) => first)).size === order.length;

/**
 * The order of channels that a short word spells by letters, or null. The first way of cutting it up that names no role twice.
 * @example orderOfLetters('mrao') // [['metallic'], ['roughness'], ['occlusion']]
 */
export function orderOfLetters(word: string, found: ChannelOrder = []): ChannelOrder | null {
  if (!word) return found.length > 1 && found.length <= 4 && distinct(found) ? found : null;
  for (const [code, roles] of CODES) {
    if (!word.startsWith(code)) continue;
    const rest = orderOfLetters(word.slice(code.length), [...found, roles]);
    if (rest) return rest;
  }
  return null;
}

/** Spellings of single-channel roles, the longest first, for words written together. */
const TOGETHER = [...BY_WORD].filter(([word, role]) => word.length > 1 && !['baseColor', 'normal', 'id', 'position'].includes(role));
TOGETHER.sort(([a], [b]) => b.length - a.length);

/**
 * The same of spelt-out roles written together.
 * @example orderOfWords('occlusionroughmetal') // [['occlusion'], ['roughness'], ['metallic']]
 */
export function orderOfWords(word: string, found: ChannelOrder = []): ChannelOrder | null {
  if (!word) return found.length > 1 && found.length <= 4 && distinct(found) ? found : null;
  for (const [spelling, role] of TOGETHER) {
    if (!word.startsWith(spelling)) continue;
    const rest = orderOfWords(word.slice(spelling.length), [...found, [role]]);
    if (rest) return rest;
  }
  return null;
}

/** Long spellings that may be written together with what they follow. */
const GLUED = [...BY_WORD.keys()].filter((word) => word.length >= 5 && !WEAK.has(word)).sort((a, b) => b.length - a.length);
GLUED.push('rough', 'color', 'gloss', 'metal');

/** A word that ends in the spelling of a role: what goes before, and the role. */
export function gluedRole(word: string): { before: string; role: Role } | null {
  const plain = word.toLowerCase().replace(/(map|tex|texture)$/, '');
  const end = GLUED.find((spelling) => plain.endsWith(spelling) && plain.length > spelling.length + 2);
  return end ? { before: word.slice(0, plain.length - end.length), role: BY_WORD.get(end) as Role } : null;
}
