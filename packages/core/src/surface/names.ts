import type { Role } from './roles';

const SPELLINGS: Partial<Record<Role, readonly string[]>> = {
  baseColor: ['basecolor', 'basecolour', 'base', 'albedo', 'diffuse', 'diff', 'color', 'colour', 'col', 'bc', 'alb'],
  normal: ['normal', 'normals', 'nrm', 'norm', 'nor', 'nml', 'n'],
  roughness: ['roughness', 'rough', 'rgh', 'r'],
  gloss: ['gloss', 'glossiness', 'smoothness', 'smooth'],
  metallic: ['metallic', 'metalness', 'metal', 'mtl', 'met', 'm'],
  specular: ['specular', 'spec'],
  occlusion: ['occlusion', 'ambientocclusion', 'ao', 'occ'],
  emissive: ['emissive', 'emission', 'glow'],
  height: ['height', 'displacement', 'disp', 'heightmap', 'hgt', 'h'],
  opacity: ['opacity', 'alpha', 'transparency'],
  transmission: ['transmission'],
  subsurface: ['subsurface', 'sss'],
  cavity: ['cavity', 'cav'],
  curvature: ['curvature', 'curv'],
  thickness: ['thickness'],
  position: ['position', 'pos'],
  id: ['id', 'idmap', 'matid'],
  mask: ['mask', 'msk'],
};
const BY_WORD = new Map<string, Role>(Object.entries(SPELLINGS).flatMap(([role, words]) => words.map((word) => [word, role as Role] as const)));

export interface NameReading {
  /** The part of the name that the maps of one surface share. */
  stem: string;
  /** Null when the name says nothing. */
  role: Role | null;
  /** Set when the suffix says which way green points. */
  normalDirection: 'y+' | 'y-' | null;
}

const NOISE = /^(\d+k|\d{3,5}|\d{3,5}x\d{3,5}|8bit|16bit|lod\d)$/;

/**
 * Reads stem, role and normal direction from a file name: words are split at separators and case changes, resolution
 * tags are ignored, and the last word that is a known spelling is the role.
 * @example readName('old_wall_4k_nrm.png') // { stem: 'old_wall', role: 'normal', normalDirection: null }
 */
export function readName(file: string): NameReading {
  const base = file.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
  const words = base
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .split(/[\s_\-.]+/)
    .filter(Boolean);
  let normalDirection: NameReading['normalDirection'] = null;
  const kept: string[] = [];
  for (const word of words) {
    const low = word.toLowerCase();
    if (/^(gl|ogl|yplus)$/.test(low)) normalDirection = 'y+';
    else if (/^(dx|yminus)$/.test(low)) normalDirection = 'y-';
    else if (!NOISE.test(low)) kept.push(word);
  }
  for (const span of [2, 1]) {
    const tail = kept.slice(-span).join('').toLowerCase();
    const role = kept.length > span ? BY_WORD.get(tail) : kept.length === span && tail.length > 2 ? BY_WORD.get(tail) : undefined;
    if (role && (span === 1 || tail.length > 3)) return { stem: kept.slice(0, -span).join('_'), role, normalDirection };
  }
  return { stem: kept.join('_') || base, role: null, normalDirection: null };
}

/**
 * The stem of the surface that each of some files belongs to: its own, or, for a file whose name says no role, the longest
 * stem of the others that its name begins with.
 * @example surfaceStems(['wall_nrm.png', 'wall_scan_b.png']) // ['wall', 'wall']
 */
export function surfaceStems(files: readonly string[]): string[] {
  const read = files.map(readName);
  const known = [...new Set(read.flatMap(({ role, stem }) => (role && stem ? [stem] : [])))].sort((a, b) => b.length - a.length);
  return read.map(({ role, stem }) => (role ? stem : (known.find((k) => `${stem}_`.toLowerCase().startsWith(`${k}_`.toLowerCase())) ?? stem)));
}

/** A stem as people would write it: `old_wall` → `Old wall`. */
export function titleOf(stem: string): string {
  const text = stem
    .replace(/[_\s]+/g, ' ')
    .trim()
    .toLowerCase();
  return text ? text[0].toUpperCase() + text.slice(1) : 'Surface';
}
