// The folder leaf: surfaces as plain folders of PNG files, for the command line. Node only.
import type { Image, MapSet, Role, RowImage, Samples, SurfaceFacts } from '@pebble/core';
import { DEFAULT_FACTS, FED_BY, ROLE_FACTS, fullScale, readNames } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { createReadStream } from 'node:fs';
import { mkdir, readFile, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { randomBytes } from 'node:crypto';
import path from 'node:path';
import { asRole } from './maps';
import { UseCaseError } from './errors';

/** Writes a file under a passing name and renames it, so that a stop midway leaves nothing half-written. */
export async function writeWhole(file: string, bytes: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
  await mkdir(path.dirname(file), { recursive: true });
  const transient = `${file}.${randomBytes(6).toString('hex')}.part`;
  try {
    await writeFile(transient, bytes);
    await rename(transient, file);
  } catch (error) {
    await rm(transient, { force: true });
    throw error;
  }
}

/** The image files of a folder by the role that their names say. @throws UseCaseError when two files claim one role. */
export async function findMaps(folder: string): Promise<Map<Role, string>> {
  const names = await readdir(folder).catch(() => {
    throw new UseCaseError('no-folder', `${folder} is not a folder that can be read`, folder);
  });
  const found = new Map<Role, string>();
  const pictures = names.filter((name) => /\.(png|jpe?g)$/i.test(name)).sort();
  const read = readNames(pictures);
  for (const [i, name] of pictures.entries()) {
    const { role } = read[i];
    if (!role) continue;
    const other = found.get(role);
    if (other) throw new UseCaseError('role-twice', `${folder} has two files for ${role}: ${path.basename(other)} and ${name}. Keep one`, folder);
    found.set(role, path.join(folder, name));
  }
  return found;
}

const spaceOf = (role: Role) => ROLE_FACTS[role].colourSpace;

export const readImage = (file: string, role: Role): Promise<Image> => named(file, async () => nodeCodec.decode(await readFile(file), spaceOf(role)));

/** The same image by rows, from the file as it is read. */
async function openImage(file: string, role: Role): Promise<RowImage> {
  const image = await named(file, () => nodeCodec.openRows(createReadStream(file), spaceOf(role)));
  return { ...image, rows: (first, end) => named(file, () => image.rows(first, end)) };
}

/** Says of which file a failure is. */
async function named<T>(file: string, run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).syscall) throw new UseCaseError('no-file', `${file} cannot be read`, file);
    throw new UseCaseError('unreadable-file', `${file}: ${(error as Error).message}`, file);
  }
}

/** A map that feeds another, as that reads it. */
const turned = (image: Image): Image => ({ ...image, data: image.data.map((v) => fullScale(image.depth) - v) as Image['data'] });

interface FolderMap {
  role: Role;
  file: string;
  /** What the file holds is one minus it. */
  inverted: boolean;
}

/** Files of a folder for roles. @throws UseCaseError naming a wanted role that has no file */
async function filesFor(folder: string, wanted: readonly Role[], optional: boolean): Promise<FolderMap[]> {
  const found = await findMaps(folder);
  const maps = wanted.flatMap((role): FolderMap[] => {
    const own = found.get(role);
    const fed = own ? undefined : found.get(FED_BY[role]?.from ?? role);
    return own ? [{ role, file: own, inverted: false }] : fed ? [{ role, file: fed, inverted: true }] : [];
  });
  const missing = wanted.find((role) => !maps.some((m) => m.role === role));
  if (!optional && missing && !maps.length)
    throw new UseCaseError('missing-role', `${folder} has no ${missing} map (a file whose name ends in _${missing})`, folder);
  return maps;
}

/** Maps of a folder that are there, as they are in the files. */
export async function readMaps(folder: string, wanted: readonly Role[]): Promise<MapSet> {
  const files = await filesFor(folder, wanted, true);
  return Object.fromEntries(
    await Promise.all(
      files.map(async ({ role, file, inverted }) => {
        const image = await readImage(file, role);
        return [role, inverted ? turned(image) : image] as const;
      }),
    ),
  );
}

/** Maps of a folder by rows, those that are there. @throws UseCaseError naming a wanted role when none of them has a file */
export async function openFolder(folder: string, wanted: readonly Role[]): Promise<Partial<Record<Role, RowImage>>> {
  const files = await filesFor(folder, wanted, false);
  return Object.fromEntries(
    await Promise.all(
      files.map(async ({ role, file, inverted }) => {
        const image = await openImage(file, role);
        if (!inverted) return [role, image] as const;
        const full = fullScale(image.depth);
        return [
          role,
          { ...image, rows: async (first: number, end: number) => (await image.rows(first, end)).map((v) => full - v) as Samples },
        ] as const;
      }),
    ),
  );
}

/** `surface.json` of a folder, or the usual facts where there is none. */
export async function readFacts(folder: string): Promise<SurfaceFacts> {
  const file = path.join(folder, 'surface.json');
  const text = await readFile(file, 'utf8').catch(() => null);
  if (text === null) return DEFAULT_FACTS;
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    throw new UseCaseError('bad-facts', `${file} is not JSON`, file);
  }
  if (typeof given !== 'object' || given === null || Array.isArray(given))
    throw new UseCaseError('bad-facts', `${file} is not an object with sizeM, reliefM and mid`, file);
  const facts = { ...DEFAULT_FACTS, ...given };
  for (const [name, { holds, wanted }] of Object.entries(FACT_RULES)) {
    const value: unknown = facts[name as keyof SurfaceFacts];
    if (typeof value !== 'number' || !Number.isFinite(value) || !holds(value))
      throw new UseCaseError(
        'bad-facts',
        `${file}: ${name} is ${typeof value === 'number' ? value : JSON.stringify(value)}; it must be ${wanted}`,
        file,
      );
  }
  return { sizeM: facts.sizeM, reliefM: facts.reliefM, mid: facts.mid };
}

/** What the facts of `surface.json` must be. */
const FACT_RULES: Record<'sizeM' | 'reliefM' | 'mid', { holds: (v: number) => boolean; wanted: string }> = {
  sizeM: { holds: (v) => v > 0, wanted: 'a number of metres above 0' },
  reliefM: { holds: (v) => v >= 0, wanted: 'a number of metres of at least 0' },
  mid: { holds: (v) => v >= 0 && v <= 1, wanted: 'a number from 0 to 1' },
};

/** Writes maps as `STEM_role.png`, and the facts beside them. */
export async function writeSurface(folder: string, stem: string, maps: MapSet, facts: SurfaceFacts): Promise<void> {
  for (const [role, image] of Object.entries(maps)) await writeWhole(path.join(folder, `${stem}_${role}.png`), await nodeCodec.encode(image));
  await writeWhole(path.join(folder, 'surface.json'), `${JSON.stringify({ sizeM: facts.sizeM, reliefM: facts.reliefM, mid: facts.mid }, null, 2)}\n`);
}

/** A map as blending wants it. */
export const forBlending = (maps: MapSet): MapSet =>
  Object.fromEntries(Object.entries(maps).map(([role, image]) => [role, asRole(image, role as Role, 'y+')]));
