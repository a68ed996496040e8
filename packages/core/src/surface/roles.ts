import type { ColourSpace, Image } from '../image';

/** What a map holds. Terms of glTF 2.0 and the trade. */
export const ROLES = [
  'baseColor',
  'normal',
  'roughness',
  'gloss',
  'metallic',
  'specular',
  'occlusion',
  'emissive',
  'height',
  'opacity',
  'transmission',
  'subsurface',
  'clearcoat',
  'cavity',
  'curvature',
  'thickness',
  'position',
  'id',
  'mask',
] as const;
export type Role = (typeof ROLES)[number];

/** The roles that a blend evaluates and a surface usually has, in working order. */
export const BLEND_ROLES = ['baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height'] as const;
export type BlendRole = (typeof BLEND_ROLES)[number];
export const isBlendRole = (role: Role): role is BlendRole => (BLEND_ROLES as readonly Role[]).includes(role);

/** Roles that only some surfaces have: they travel through blends and masters wherever something feeds them. */
export const EXTRA_ROLES = ['emissive', 'opacity', 'transmission', 'subsurface', 'specular', 'clearcoat', 'cavity'] as const;
export type ExtraRole = (typeof EXTRA_ROLES)[number];
/** What a material can be made maps of. */
export const MATERIAL_ROLES = [...BLEND_ROLES, ...EXTRA_ROLES] as const;
export type MaterialRole = (typeof MATERIAL_ROLES)[number];
export const isMaterialRole = (role: Role): role is MaterialRole => (MATERIAL_ROLES as readonly Role[]).includes(role);

export interface RoleFacts {
  label: string;
  /** Components that carry something. */
  components: 1 | 3;
  colourSpace: ColourSpace;
  /** Real value taken where a surface has no such map. */
  neutral: readonly number[];
}

const colour = (label: string, neutral: number[]): RoleFacts => ({ label, components: 3, colourSpace: 'srgb', neutral });
const data = (label: string, neutral: number): RoleFacts => ({ label, components: 1, colourSpace: 'data', neutral: [neutral] });
const vector = (label: string, neutral: number[]): RoleFacts => ({ label, components: 3, colourSpace: 'data', neutral });

export const ROLE_FACTS: Record<Role, RoleFacts> = {
  baseColor: colour('Base colour', [0.5, 0.5, 0.5]),
  normal: vector('Normal', [0, 0, 1]),
  roughness: data('Roughness', 0.8),
  gloss: data('Gloss', 0.2),
  metallic: data('Metallic', 0),
  specular: data('Specular', 0.5),
  occlusion: data('Occlusion', 1),
  emissive: colour('Emissive', [0, 0, 0]),
  height: data('Height', 0.5),
  opacity: data('Opacity', 1),
  transmission: data('Transmission', 0),
  subsurface: data('Subsurface', 0),
  clearcoat: data('Clear coat', 0),
  cavity: data('Cavity', 1),
  curvature: data('Curvature', 0.5),
  thickness: data('Thickness', 0.5),
  position: vector('Position', [0.5, 0.5, 0.5]),
  id: { label: 'ID', components: 3, colourSpace: 'data', neutral: [0, 0, 0] },
  mask: data('Mask', 0),
};

/** Roles that another feeds where they are not there themselves, and the step between: a map that is known is never left unread. */
export const FED_BY: Partial<Record<Role, { from: Role; by: 'invert' }>> = { roughness: { from: 'gloss', by: 'invert' } };

export const isRole = (text: string): text is Role => (ROLES as readonly string[]).includes(text);

/** Real size and relief of a surface. Height in metres of a stored value t is `(t − mid) · reliefM`. */
export interface SurfaceFacts {
  /** Width of one repetition, in metres. */
  sizeM: number;
  /** Its height over its width, where its maps are not square. */
  tall?: number;
  /** Metres between stored 0 and stored 1 of the height map. */
  reliefM: number;
  mid: number;
}

/**
 * Height over width of what maps show: that of the base colour, else of the largest; 1 without maps. Those of other
 * proportions are stretched over the same.
 */
export function tallOf(maps: Partial<Record<Role, { width: number; height: number }>>): number {
  const all = Object.values(maps);
  const shows =
    maps.baseColor ?? all.reduce<(typeof all)[number] | undefined>((a, b) => (a && a.width * a.height >= b.width * b.height ? a : b), undefined);
  return shows && shows.width > 0 && shows.height > 0 ? shows.height / shows.width : 1;
}

/** What a folder or a drop without stated facts is taken for. */
export const DEFAULT_FACTS: SurfaceFacts = { sizeM: 1, reliefM: 0.05, mid: 0.5 };

export type MapSet = Partial<Record<Role, Image>>;
