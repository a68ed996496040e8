import type { ColourSpace, Image, MapEntry, MapSet, Role, SurfaceDocument, SurfaceFacts, SurfaceOrder } from '@pebble/core';
import { GENERATORS, PEBBLE, ROLE_FACTS, generateSurface, recognise, renderPebble, toneOf } from '@pebble/core';
import { fileMarks, probeImage } from '@pebble/formats';
import { asRole, storeStagePixels } from './maps';
import type { Ports, Report } from './ports';
import { UseCaseError } from './ports';

/** A file of a surface to be made, its bytes already kept. */
export interface IncomingMap {
  blob: string;
  fileName: string;
  role: Role;
  normalDirection: 'y+' | 'y-';
}
export interface IncomingSurface {
  name: string;
  sizeM: number;
  reliefM: number;
  maps: readonly IncomingMap[];
}

/**
 * Makes a surface of files: every one is decoded, so that nothing half-readable gets in; stage pixels and a thumbnail
 * are kept. @throws UseCaseError naming the file that cannot be read or the role that is given twice.
 */
export async function importSurface(ports: Ports, incoming: IncomingSurface, report: Report): Promise<SurfaceDocument> {
  const maps: SurfaceDocument['maps'] = {};
  const pixels: MapSet = {};
  const notes: string[] = [];
  for (const [i, file] of incoming.maps.entries()) {
    report(i / (incoming.maps.length + 1), file.fileName);
    const label = ROLE_FACTS[file.role].label.toLowerCase();
    if (maps[file.role])
      throw new UseCaseError(
        'role-twice',
        `${incoming.name}: ${file.fileName} and ${maps[file.role]?.fileName} are both taken for ${label}. Give one of them another role`,
        file.fileName,
      );
    const bytes = await ports.blobs.get(file.blob);
    const image = await ports.codec.decode(bytes, ROLE_FACTS[file.role].colourSpace).catch((error: Error) => {
      throw new UseCaseError('unreadable-file', `${file.fileName}: ${error.message}`, file.fileName);
    });
    const made = await makeMapEntry(ports, image, bytes.length, file);
    maps[file.role] = made.entry;
    pixels[file.role] = made.image;
    notes.push(...findings(image, bytes, file));
  }
  notes.push(...sizeNotes(pixels));
  report(incoming.maps.length / (incoming.maps.length + 1), 'thumbnail');
  return finish(ports, { name: incoming.name, sizeM: incoming.sizeM, reliefM: incoming.reliefM, mid: 0.5 }, maps, pixels, null, notes);
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
    const bytes = await ports.codec.encodePng(made.maps[role]);
    const file: IncomingMap = { blob: await ports.blobs.put(bytes, 'image/png'), fileName: `${name}_${role}.png`, role, normalDirection: 'y+' };
    maps[role] = (await makeMapEntry(ports, made.maps[role], bytes.length, file)).entry;
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

async function makeMapEntry(ports: Ports, decoded: Image, bytes: number, file: IncomingMap): Promise<{ entry: MapEntry; image: Image }> {
  const image = asRole(decoded, file.role, file.normalDirection);
  const colourSpace: ColourSpace = ROLE_FACTS[file.role].colourSpace;
  const entry: MapEntry = {
    blob: file.blob,
    fileName: file.fileName,
    bytes,
    width: decoded.width,
    height: decoded.height,
    channels: decoded.channels,
    depth: decoded.depth,
    colourSpace,
    normalDirection: file.role === 'normal' ? file.normalDirection : null,
    stage: await storeStagePixels(image, ports.blobs),
  };
  return { entry, image };
}

async function finish(
  ports: Ports,
  facts: SurfaceFacts & { name: string },
  maps: SurfaceDocument['maps'],
  pixels: MapSet,
  generator: SurfaceDocument['generator'],
  notes: string[],
): Promise<SurfaceDocument> {
  const pebble = renderPebble(pixels, facts, ports.light(), PEBBLE);
  const thumbnail = await ports.blobs.put(await ports.codec.encodePng(pebble), 'image/png');
  const { name, sizeM, reliefM, mid } = facts;
  return { kind: 'surface', version: 1, name, sizeM, reliefM, mid, maps, thumbnail, tone: toneOf(pixels), generator, notes };
}

/** What is worth saying about a file, in plain sentences. */
function findings(decoded: Image, bytes: Uint8Array, { role, fileName }: IncomingMap): string[] {
  const { findings: found } = recognise(decoded, { ...fileMarks(bytes, probeImage(bytes)), fileName, role });
  return found.map((f) => `${ROLE_FACTS[role].label} (${fileName}): ${f.message[0].toLowerCase()}${f.message.slice(1)}.`.replace(/([.?])\.$/, '$1'));
}

function sizeNotes(maps: MapSet): string[] {
  const sizes = new Set(Object.values(maps).map((m) => `${m.width} × ${m.height}`));
  const shapes = new Set(Object.values(maps).map((m) => (m.width / m.height).toFixed(3)));
  if (shapes.size > 1) return [`The maps have different proportions (${[...sizes].join(', ')}): they are stretched over the same square.`];
  return sizes.size > 1 ? [`The maps have different sizes (${[...sizes].join(', ')}): each is read at its own.`] : [];
}
