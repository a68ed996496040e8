import type { Role } from '../surface';
import { ROLES } from '../surface';

/** A patch of a surface that is pressed onto a mesh. */
export interface Stamp {
  /** Where, in metres; the nearest place of the mesh counts. */
  at: readonly [number, number, number];
  radiusM: number;
  /** How far it covers what is there, 0–1, and the share of its radius over which it fades. */
  strength: number;
  falloff: number;
  /** How large it lies: 1 as the surface is. Radians by which it is turned, from up the mesh to the right. */
  scale: number;
  turn: number;
  /** Which way is up for it; up the mesh unless stated, or where one looked from up on the picture. */
  up?: readonly [number, number, number];
  tint: string;
  /** Whether heights decide where it lies within its fading: 0 an even fading, 1 heights alone. */
  byHeight: number;
  /** Which part of the surface it takes; by chance where it is left out. */
  offset?: readonly [number, number];
}

/** One that was pressed: of which surface by its id, with what its chance begins. Later ones lie over earlier ones. */
export interface PressedStamp extends Stamp {
  order: number;
  surface: string;
  seed: number;
}

/** Stamps that a surface holds: its maps are those of another, finished for the same mesh, with these pressed into them. */
export interface Stamped {
  /** Id of the surface below them. */
  on: string;
  /** Id of the specimen, its slots that the surface lies on, and the set of coordinates by which it does. */
  specimen: string;
  slots: string[];
  uvSet: number;
  stamps: Record<string, PressedStamp>;
  /** What the maps were made of: how many stamps, and the marks (`mapsMark`) of all surfaces by their ids. */
  made: { stamps: number; of: Record<string, string> };
}
/** Stamps on one surface at most; thousands would be a surface of their own. */
export const MAX_STAMPS = 2000;

/** Metres of a radius, and times the size of a surface, that a stamp may have. */
export const STAMP_LIMITS = { radiusM: [0.0005, 100], scale: [0.01, 100] } as const;

/** What has to be known of a surface here. */
interface Named {
  name: string;
  maps: Partial<Record<Role, { blob: string }>>;
}

/** Tells the maps of a surface from others that it had. */
export const mapsMark = ({ maps }: Pick<Named, 'maps'>): string => ROLES.flatMap((role) => maps[role]?.blob.slice(0, 8) ?? []).join('');

/**
 * Why maps are not what their stamps say, for people; null where they are. What a stamped surface is made of may have been edited
 * since, or deleted, which leaves what was pressed as it is.
 */
export function stampsAmiss({ on, stamps, made }: Stamped, surfaces: Readonly<Record<string, Named | undefined>>): string | null {
  const missing = [on, ...Object.values(stamps).map((s) => s.surface)].some((id) => !surfaces[id]);
  if (missing) return 'A surface that it was made of was deleted: its stamps stay, and cannot be pressed anew';
  if (Object.keys(stamps).length !== made.stamps) return 'Some of its stamps are not in its maps yet';
  const changed = Object.entries(made.of).find(([id, mark]) => mark !== mapsMark(surfaces[id] as Named));
  return changed ? `${surfaces[changed[0]]?.name ?? ''} was changed since its stamps were pressed` : null;
}
