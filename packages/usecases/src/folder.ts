// The folder leaf: surfaces as plain folders of PNG files, for the command line. Node only.
import type { Image, MapSet, Role, RowImage, SurfaceFacts } from '@pebble/core';
import { DEFAULT_FACTS, ROLE_FACTS, readName } from '@pebble/core';
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
  for (const name of names.sort()) {
    if (!/\.(png|jpe?g)$/i.test(name)) continue;
    const { role } = readName(name);
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

/** Files of a folder for roles. @throws UseCaseError naming a wanted role that has no file */
async function filesFor(folder: string, wanted: readonly Role[], optional: boolean): Promise<[Role, string][]> {
  const found = await findMaps(folder);
  return wanted.flatMap((role) => {
    const file = found.get(role);
    if (!file && !optional) throw new UseCaseError('missing-role', `${folder} has no ${role} map (a file whose name ends in _${role})`, folder);
    return file ? [[role, file] as [Role, string]] : [];
  });
}

/** Maps of a folder that are there, as they are in the files. */
export async function readMaps(folder: string, wanted: readonly Role[]): Promise<MapSet> {
  const files = await filesFor(folder, wanted, true);
  return Object.fromEntries(await Promise.all(files.map(async ([role, file]) => [role, await readImage(file, role)] as const)));
}

/** Maps of a folder by rows. @throws UseCaseError naming a wanted role that has no file */
export async function openFolder(folder: string, wanted: readonly Role[]): Promise<Partial<Record<Role, RowImage>>> {
  const files = await filesFor(folder, wanted, false);
  return Object.fromEntries(await Promise.all(files.map(async ([role, file]) => [role, await openImage(file, role)] as const)));
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
