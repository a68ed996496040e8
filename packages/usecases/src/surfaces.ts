import type { ColourSpace, Finding, MapSet, Role, Step, StepKind, SurfaceDocument, SurfaceFacts, SurfaceOrder, SurfaceOrigin } from '@pebble/core';
import { FED_BY, GENERATORS, PEBBLE, ROLE_FACTS, generateSurface, renderPebble, tallOf, toneOf } from '@pebble/core';
import { keepImage, makeMap } from './making';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';

/** A file of a surface to be made, its bytes already kept. */
export interface IncomingMap {
  blob: string;
  fileName: string;
  role: Role;
  normalDirection: 'y+' | 'y-';
  /** How colours are stored; the usual of the role unless stated. */
  colourSpace?: ColourSpace;
  /** Steps between the file and the map: a channel of a packed file, say. */
  steps?: Record<string, Step>;
  /** What was found when the file was looked at for this very role; it is looked at again unless stated. */
  findings?: Finding[];
}
export interface IncomingSurface {
  name: string;
  sizeM: number;
  reliefM: number;
  maps: IncomingMap[];
  origin?: SurfaceOrigin;
}

/** Maps that were made of files, as the surface keeps them and as their roles have them. */
export interface MadeMaps {
  maps: SurfaceDocument['maps'];
  pixels: MapSet;
  facts: SurfaceFacts;
}

/**
 * Makes the maps of a surface of files: every one is decoded, so that nothing half-readable gets in.
 * @throws UseCaseError naming the file that cannot be read or the role that is given twice.
 */
export async function mapsOfFiles(ports: Ports, incoming: Omit<IncomingSurface, 'origin'>, report: Report): Promise<MadeMaps> {
  const maps: SurfaceDocument['maps'] = {};
  const pixels: MapSet = {};
  const facts = { sizeM: incoming.sizeM, reliefM: incoming.reliefM, mid: 0.5 };
  for (const [i, file] of incoming.maps.entries()) {
    const told: Report = (done, note) => report((i + done) / incoming.maps.length, note);
    told(0, file.fileName);
    const label = ROLE_FACTS[file.role].label.toLowerCase();
    if (maps[file.role])
      throw new UseCaseError(
        'role-twice',
        `${incoming.name}: ${file.fileName} and ${maps[file.role]?.fileName} are both taken for ${label}. Give one of them another role`,
        file.fileName,
      );
    const { role, blob, fileName, normalDirection, colourSpace = ROLE_FACTS[role].colourSpace, steps = {} } = file;
    const source = { blob, fileName, normalDirection: role === 'normal' ? normalDirection : null, colourSpace };
    const made = await makeMap(ports, { facts, role, source, steps, known: file.findings }, told);
    maps[role] = made.entry;
    pixels[role] = made.image;
    facts.reliefM = made.reliefM ?? facts.reliefM;
  }
  for (const [role, source, steps] of fedRoles(maps)) {
    const fed = await makeMap(ports, { facts, role, source, steps, others: pixels }, () => undefined);
    maps[role] = fed.entry;
    pixels[role] = fed.image;
  }
  return { maps, pixels, facts };
}

/**
 * Makes a surface of files; stage pixels and a thumbnail are kept.
 * @throws UseCaseError naming the file that cannot be read or the role that is given twice.
 */
export async function importSurface(ports: Ports, incoming: IncomingSurface, report: Report): Promise<SurfaceDocument> {
  const share = incoming.maps.length / (incoming.maps.length + 1);
  const { maps, pixels, facts } = await mapsOfFiles(ports, incoming, (done, note) => report(done * share, note));
  report(share, 'thumbnail');
  const made = await finish(ports, { name: incoming.name, ...facts }, maps, pixels, null, sizeNotes(pixels));
  return incoming.origin ? { ...made, origin: incoming.origin } : made;
}

/** Maps that are not there and that others feed, with what they are made of; `fresh` feeds only what was not fed before. */
export function fedRoles(
  maps: SurfaceDocument['maps'],
  fresh: (from: Role) => boolean = () => true,
): [role: Role, source: { role: Role }, steps: Record<string, Step>][] {
  return (Object.entries(FED_BY) as [Role, { from: Role; by: StepKind }][]).flatMap(([role, { from, by }]) =>
    maps[from] && !maps[role] && fresh(from) ? [[role, { role: from }, { [by]: { order: 1, kind: by, on: true, values: {} } }]] : [],
  );
}

/** Draws a surface from a seed and keeps its maps as PNG files. */
export async function generateSurfaceDocument(ports: Ports, order: SurfaceOrder, report: Report): Promise<SurfaceDocument> {
  const drawing: Report = (done) => report(done * 0.7, 'drawing');
  const { name, seed, amounts } = order;
  const made = ports.bands
    ? await ports.bands.generate(order, drawing)
    : generateSurface(name, { ...order, onProgress: (done) => drawing(done, 'drawing') });
  const maps: SurfaceDocument['maps'] = {};
  const roles = Object.keys(made.maps) as (keyof typeof made.maps)[];
  for (const [i, role] of roles.entries()) {
    report(0.7 + (0.25 * i) / roles.length, ROLE_FACTS[role].label.toLowerCase());
    maps[role] = await keepImage(ports, role, made.maps[role], `${name}_${role}.png`);
  }
  report(0.95, 'thumbnail');
  return finish(
    ports,
    { name: GENERATORS[name].title, ...made.facts },
    maps,
    made.maps,
    { name, seed, ...(amounts ? { amounts: { ...amounts } } : {}) },
    [],
  );
}

/** Everything about a surface but its maps, from which pictures of it are drawn. */
export async function finish(
  ports: Ports,
  facts: SurfaceFacts & { name: string },
  maps: SurfaceDocument['maps'],
  pixels: MapSet,
  generator: SurfaceDocument['generator'],
  notes: string[],
): Promise<SurfaceDocument> {
  // Of IDs alone there are their colours to be seen.
  const seen = pixels.baseColor || !pixels.id ? pixels : { ...pixels, baseColor: { ...pixels.id, colourSpace: 'srgb' as const } };
  const pebble = renderPebble(seen, { ...facts, tall: tallOf(seen) }, ports.light(), PEBBLE);
  const thumbnail = await ports.blobs.put(await ports.codec.encode(pebble), 'image/png');
  const { name, sizeM, reliefM, mid } = facts;
  return { kind: 'surface', version: 1, name, sizeM, reliefM, mid, maps, thumbnail, tone: toneOf(seen), generator, notes };
}

/** What is to be said of the maps together. */
export function sizeNotes(maps: MapSet): string[] {
  const sizes = new Set(Object.values(maps).map((m) => `${m.width} × ${m.height}`));
  const shapes = new Set(Object.values(maps).map((m) => (m.width / m.height).toFixed(3)));
  if (shapes.size > 1) return [`The maps have different proportions (${[...sizes].join(', ')}): they are stretched over the same area.`];
  return sizes.size > 1 ? [`The maps have different sizes (${[...sizes].join(', ')}): each is read at its own.`] : [];
}
