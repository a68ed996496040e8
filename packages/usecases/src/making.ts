// One map of a surface: from a file or from another map, through its steps, to what the surface keeps of it.
import type { Finding, Image, MapEntry, MapRecipe, MapSet, Role, SurfaceFacts } from '@pebble/core';
import { ROLE_FACTS, derive, recognise } from '@pebble/core';
import { fileMarks, probeImage } from '@pebble/formats';
import { asRole, asWhole, storeStagePixels } from './maps';
import type { Ports, Report } from './ports';
import { UseCaseError } from './errors';

/** What a map is to be made of. */
export type Making = Pick<MapRecipe, 'source' | 'steps'>;

export interface MadeMap {
  entry: MapEntry;
  /** As the role has it. */
  image: Image;
  /** Relief in metres that its steps found, if they did. */
  reliefM: number | null;
}

/** The entry of a picture whose bytes are kept already. */
async function entryOf(
  ports: Ports,
  decoded: Image,
  image: Image,
  of: Pick<MapEntry, 'blob' | 'bytes' | 'fileName' | 'normalDirection' | 'colourSpace'>,
): Promise<MapEntry> {
  const { width, height, channels, depth } = decoded;
  return { ...of, width, height, channels, depth, stage: await storeStagePixels(image, ports.blobs) };
}

/** One map to be made of a surface. */
export interface MapToMake extends Making {
  facts: SurfaceFacts;
  role: Role;
  /** The surface's maps that a source may name, as their roles have them; none unless stated. */
  others?: MapSet;
  /** What was found in the file before; it is looked at again unless stated. */
  known?: readonly Finding[];
}

/** Keeps a picture of a role, as the role has it, and gives its entry. */
export async function keepImage(ports: Ports, role: Role, image: Image, fileName: string): Promise<MapEntry> {
  const { codec, blobs } = ports;
  const bytes = await codec.encode(image);
  return entryOf(ports, image, image, {
    blob: await blobs.put(bytes, codec.encoders.png.mediaType),
    bytes: bytes.length,
    fileName,
    normalDirection: role === 'normal' ? 'y+' : null,
    colourSpace: ROLE_FACTS[role].colourSpace,
  });
}

/**
 * Makes one map. A file of whole numbers without steps is used as it came, bit for bit; with steps, from another map, or of
 * float values, the result is kept as a PNG file beside the source.
 * @throws UseCaseError naming the file that cannot be read, or the map that is not there
 */
export async function makeMap(ports: Ports, { facts, role, source, steps, others = {}, known }: MapToMake, report: Report): Promise<MadeMap> {
  const stack = Object.values(steps);
  if ('role' in source) {
    const from = others[source.role];
    const label = ROLE_FACTS[source.role].label.toLowerCase();
    if (!from) throw new UseCaseError('missing-map', `The ${label} map that this one is made of is not there. Choose another source`, source.role);
    return keepMade(ports, role, { source, steps }, derive(from, stack, facts, report), `${role}_of_${source.role}.png`);
  }
  const { blob, fileName, colourSpace, normalDirection } = source;
  const bytes = await ports.blobs.get(blob);
  const decoded = await ports.codec.decode(bytes, colourSpace).catch((error: Error) => {
    throw new UseCaseError('unreadable-file', `${fileName}: ${error.message}`, fileName);
  });
  const whole = decoded.depth === 32 ? asWhole(decoded, role) : null;
  if (stack.length || whole) {
    const read = whole?.image ?? decoded;
    const made = derive(
      role === 'normal' ? asRole(read, role, normalDirection) : read,
      stack,
      { ...facts, reliefM: whole?.reliefM ?? facts.reliefM },
      report,
    );
    const notes = whole ? [whole.note, ...made.notes] : made.notes;
    return keepMade(ports, role, { source, steps }, { ...made, notes, reliefM: made.reliefM ?? whole?.reliefM ?? null }, fileName);
  }
  const image = asRole(decoded, role, normalDirection);
  const findings = known ?? recognise(decoded, { ...fileMarks(bytes, probeImage(bytes)), fileName, role }).findings;
  const entry = await entryOf(ports, decoded, image, { blob, bytes: bytes.length, fileName, normalDirection, colourSpace });
  return { entry: findings.length ? { ...entry, findings: [...findings] } : entry, image, reliefM: null };
}

async function keepMade(ports: Ports, role: Role, making: Making, made: ReturnType<typeof derive>, fileName: string): Promise<MadeMap> {
  const image = asRole(made.image, role, 'y+');
  const { findings } = recognise(image, { fileName, role });
  const entry = await keepImage(ports, role, image, fileName);
  return { entry: { ...entry, ...(findings.length ? { findings } : {}), made: { ...making, notes: made.notes } }, image, reliefM: made.reliefM };
}
