// Maps of a surface that exists: made anew from other files or flags, through other steps, added, moved or taken away.
import type { MapEntry, MapRecipe, MapSource, Role, Step, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, ROLE_FACTS } from '@pebble/core';
import { makeMap } from './making';
import { loadMap, stageMaps } from './maps';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';
import { fedRoles, finish, sizeNotes } from './surfaces';

/** One map to be made anew, or taken away where there is neither source nor steps to make it of. */
export interface MapChange {
  role: Role;
  /** What it is made of from now on; its present source unless stated. */
  source?: MapSource;
  steps?: Record<string, Step>;
  remove?: boolean;
}

/** What a map is made of now: its recipe, or its own file. */
export const recipeOfMap = ({ blob, fileName, normalDirection, colourSpace, made }: MapEntry): Pick<MapRecipe, 'source' | 'steps'> =>
  made ?? { source: { blob, fileName, normalDirection, colourSpace }, steps: {} };

/**
 * A surface with some of its maps made anew; maps that follow them are made anew as well. Settings stay with their role.
 * @throws UseCaseError when a map is made of one that is not there, or of itself
 */
export async function changeMaps(ports: Ports, surface: SurfaceDocument, changes: readonly MapChange[], report: Report): Promise<SurfaceDocument> {
  const maps = { ...surface.maps };
  const facts = { sizeM: surface.sizeM, reliefM: surface.reliefM, mid: surface.mid };
  const wanted = new Map<Role, MapChange>(changes.map((c) => [c.role, c]));
  // What comes new and feeds a role that is not there does so; taken away again, it stays away.
  const coming = { ...maps, ...Object.fromEntries(changes.flatMap((c) => (c.remove ? [] : [[c.role, true]]))) } as typeof maps;
  for (const [role, source, steps] of fedRoles(coming, (from) => !maps[from])) if (!wanted.has(role)) wanted.set(role, { role, source, steps });
  for (const change of changes) if (change.remove) delete maps[change.role];
  const order = makingOrder(surface, wanted);
  for (const [i, role] of order.entries()) {
    const told: Report = (done, note) => report((i + done) / (order.length + 1), `${ROLE_FACTS[role].label}: ${note}`);
    told(0, 'reading');
    const old = surface.maps[role];
    const { source, steps } = { ...(old ? recipeOfMap(old) : { steps: {} }), ...given(wanted.get(role)) };
    if (!source) throw new UseCaseError('no-source', `${surface.name} has no ${ROLE_FACTS[role].label.toLowerCase()} map to change`, role);
    const from = 'role' in source ? maps[source.role] : undefined;
    const others = 'role' in source && from ? { [source.role]: await loadMap(ports, from, source.role) } : {};
    const made = await makeMap(ports, { facts, role, source, steps, others }, told);
    maps[role] = { ...made.entry, ...settingsKept(old) };
    if (role === 'height' && made.reliefM !== null) Object.assign(facts, { reliefM: made.reliefM, mid: 0.5 });
  }
  report(order.length / (order.length + 1), 'thumbnail');
  const next = { ...surface, ...facts, maps };
  const pixels = await stageMaps(ports, next, BLEND_ROLES);
  const drawn = await finish(ports, { name: surface.name, ...facts }, maps, pixels, surface.generator, sizeNotes(pixels));
  return { ...next, thumbnail: drawn.thumbnail, tone: drawn.tone, notes: drawn.notes };
}

/**
 * A surface that was drawn anew in the place of an older one: name, size, origin and settings stay, steps go on behind the
 * new pictures, and maps that were made of others follow them.
 */
export async function inPlaceOf(ports: Ports, old: SurfaceDocument, drawn: SurfaceDocument, report: Report): Promise<SurfaceDocument> {
  const { name, sizeM, reliefM, mid, origin } = old;
  const maps: SurfaceDocument['maps'] = { ...old.maps };
  for (const [role, entry] of Object.entries(drawn.maps) as [Role, MapEntry][]) maps[role] = { ...entry, ...settingsKept(old.maps[role]) };
  const changes = (Object.entries(old.maps) as [Role, MapEntry][]).flatMap(([role, { made }]): MapChange[] => {
    if (!made) return [];
    const fresh = drawn.maps[role];
    return 'role' in made.source || !fresh
      ? [{ role, ...recipeOfMap(old.maps[role] as MapEntry) }]
      : [{ role, source: recipeOfMap(fresh).source, steps: made.steps }];
  });
  const next: SurfaceDocument = { ...drawn, name, sizeM, reliefM, mid, maps, ...(origin ? { origin } : {}) };
  return changes.length ? changeMaps(ports, next, changes, report) : next;
}

const given = (change: MapChange | undefined): Partial<Pick<MapRecipe, 'source' | 'steps'>> => ({
  ...(change?.source ? { source: change.source } : {}),
  ...(change?.steps ? { steps: change.steps } : {}),
});

const settingsKept = (old: MapEntry | undefined): Pick<MapEntry, 'settings' | 'overrides'> => ({
  ...(old?.settings ? { settings: old.settings } : {}),
  ...(old?.overrides ? { overrides: old.overrides } : {}),
});

/** Maps to be made, what others follow first. */
function makingOrder(surface: SurfaceDocument, wanted: ReadonlyMap<Role, MapChange>): Role[] {
  const sourceOf = (role: Role): Role | null => {
    const entry = surface.maps[role];
    const source = wanted.get(role)?.source ?? (entry ? recipeOfMap(entry).source : undefined);
    return source && 'role' in source ? source.role : null;
  };
  const all = new Set([...(Object.keys(surface.maps) as Role[]), ...wanted.keys()].filter((role) => !wanted.get(role)?.remove));
  const order: Role[] = [];
  const touched = (role: Role, path: readonly Role[]): boolean => {
    if (path.includes(role))
      throw new UseCaseError(
        'own-source',
        `${surface.name}: ${[...path.slice(path.indexOf(role)), role].map((r) => ROLE_FACTS[r].label.toLowerCase()).join(' is made of ')}. Choose a source that is not made of it`,
        role,
      );
    if (order.includes(role)) return true;
    const from = sourceOf(role);
    const follows = from !== null && touched(from, [...path, role]);
    if (!wanted.has(role) && !follows) return false;
    if (all.has(role)) order.push(role);
    return true;
  };
  for (const role of all) touched(role, []);
  return order;
}
