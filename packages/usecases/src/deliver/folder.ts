// Bundles and projects as plain folders. Node only.
import type { AnyDocument } from '@pebble/core';
import { BundleError, MANIFEST_NAME, pathProblem, readManifest } from '@pebble/core';
import { sha256 } from '@pebble/formats';
import type { BundleReader } from '@pebble/formats/bundle';
import { zippedBundle } from '@pebble/formats/bundle';
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { appendFile, mkdir, readFile, readdir, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { UseCaseError } from '../errors';
import { writeWhole } from '../folder';
import type { BlobStore } from '../ports';
import type { BundleSink, KnownFile } from './deliver';

/** Where files of a delivery are until all of them are there. */
const STAGED = '.delivering';
const JOURNAL = 'journal.jsonl';

interface Noted extends KnownFile {
  path: string;
  key: string;
}

const asText = (bytes: Uint8Array | null): string | null => bytes && new TextDecoder().decode(bytes);
const read = (file: string): Promise<Uint8Array | null> =>
  readFile(file).then(
    (b) => new Uint8Array(b),
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return null;
      throw error;
    },
  );

/** Lines of a journal; the last may be cut off where writing it stopped. */
function notedIn(text: string | null): Noted[] {
  return (text ?? '').split('\n').flatMap((line) => {
    try {
      return line ? [JSON.parse(line) as Noted] : [];
    } catch {
      return [];
    }
  });
}

/**
 * A folder that a bundle is delivered into. Files are staged beside it and moved when all are there: until then the bundle
 * before it stays whole, and a delivery that stopped goes on from what it staged. Files that the bundle does not know are left alone.
 */
export async function folderSink(folder: string): Promise<BundleSink> {
  const staged = path.join(folder, STAGED);
  const journal = path.join(staged, JOURNAL);
  const before = new Map<string, Noted>();
  const text = asText(await read(path.join(folder, MANIFEST_NAME)));
  if (text !== null)
    try {
      for (const file of readManifest(text).files) before.set(file.path, file);
    } catch (error) {
      if (!(error instanceof BundleError)) throw error;
      if (error.code === 'newer') throw new UseCaseError('no-folder', `${folder}: ${error.message}`, folder);
      // What cannot be read is written anew.
    }
  const kept = new Map(notedIn(asText(await read(journal))).map((n) => [n.path, n]));
  const whole = async (file: string, { bytes, sha256: hash }: KnownFile): Promise<boolean> => {
    const facts = await stat(file).catch(() => null);
    if (facts?.size !== bytes) return false;
    const found = createHash('sha256');
    for await (const piece of createReadStream(file, { highWaterMark: 2 ** 20 })) found.update(piece as Buffer);
    return found.digest('hex') === hash;
  };
  const writing = async <T>(run: () => Promise<T>): Promise<T> => {
    try {
      return await run();
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      if (code === 'ENOSPC')
        throw new UseCaseError(
          'no-folder',
          `The disk of ${folder} is full. The bundle before is as it was; make room and deliver again: what is done is not done twice`,
          folder,
        );
      if (code === 'EACCES' || code === 'EROFS' || code === 'ENOTDIR' || code === 'EEXIST' || code === 'ENOENT')
        throw new UseCaseError('no-folder', `${folder} cannot be written to (${message})`, folder);
      throw error;
    }
  };
  await writing(() => mkdir(staged, { recursive: true }));
  const sink: BundleSink = {
    async known(name, key) {
      const late = kept.get(name);
      if (late?.key === key && (await whole(path.join(staged, name), late))) return late;
      const old = before.get(name);
      if (old?.key === key && (await whole(path.join(folder, name), old))) return old;
      // Of another name it was made before: it is taken from there, and not made again.
      const twin = [...before.values()].find((n) => n.key === key);
      if (!twin || !(await whole(path.join(folder, twin.path), twin))) return null;
      await sink.put(name, key, new Uint8Array(await readFile(path.join(folder, twin.path))), twin.quality);
      return twin;
    },
    put: (name, key, bytes, quality) =>
      writing(async () => {
        await writeWhole(path.join(staged, name), bytes);
        const note: Noted = { path: name, key, sha256: await sha256(bytes), bytes: bytes.length, ...(quality ? { quality } : {}) };
        kept.set(name, note);
        await appendFile(journal, `${JSON.stringify(note)}\n`);
      }),
    finish: (manifest, files) =>
      writing(async () => {
        const now = new Set(files.map((f) => f.path));
        for (const { path: name, sha256: hash } of files) {
          if (kept.get(name)?.sha256 !== hash) continue;
          // The same bytes, of whatever they were made: the file is not touched.
          const old = before.get(name);
          if (old?.sha256 === hash && (await whole(path.join(folder, name), old))) continue;
          await mkdir(path.dirname(path.join(folder, name)), { recursive: true });
          await rename(path.join(staged, name), path.join(folder, name)).catch((error: NodeJS.ErrnoException) => {
            // Moved by a delivery that stopped right after.
            if (error.code !== 'ENOENT') throw error;
          });
        }
        const last = await read(path.join(folder, MANIFEST_NAME));
        if (!last || !Buffer.from(last).equals(Buffer.from(manifest))) await writeWhole(path.join(folder, MANIFEST_NAME), manifest);
        for (const name of before.keys()) if (!now.has(name)) await rm(path.join(folder, name), { force: true });
        await rm(staged, { recursive: true, force: true });
      }),
  };
  return sink;
}

/** A bundle in a folder, or in a ZIP. @throws UseCaseError for what is neither */
export async function bundleAt(place: string): Promise<BundleReader> {
  const facts = await stat(place).catch(() => null);
  if (!facts) throw new UseCaseError('no-file', `${place} cannot be read`, place);
  if (facts.isFile()) return zippedBundle(new Uint8Array(await readFile(place)));
  if ((await read(path.join(place, STAGED, JOURNAL))) !== null && !(await read(path.join(place, MANIFEST_NAME))))
    throw new UseCaseError('no-file', `The delivery into ${place} did not finish. Deliver again: it goes on from there`, place);
  return {
    async names() {
      const all = await readdir(place, { recursive: true, withFileTypes: true });
      return all
        .filter((e) => e.isFile())
        .map((e) => path.relative(place, path.join(e.parentPath, e.name)).split(path.sep).join('/'))
        .filter((name) => !name.startsWith(`${STAGED}/`));
    },
    get: (name) => (pathProblem(name) ? Promise.resolve(null) : read(path.join(place, name))),
  };
}

/** A project as a folder: `documents/KIND/ID.json`, and the bytes that documents name under `files/SHA-256`. */
export interface ProjectFolder {
  all: Record<string, AnyDocument>;
  blobs: BlobStore;
}

/**
 * Opens a project that was saved as a folder.
 * @param check gives the document that a file holds, brought to what this program reads @throws UseCaseError naming the file
 */
export async function openProject(folder: string, check: (file: string) => Promise<AnyDocument>): Promise<ProjectFolder> {
  const root = path.join(folder, 'documents');
  const kinds = await readdir(root, { withFileTypes: true }).catch(() => {
    throw new UseCaseError('no-folder', `${folder} is no project: it has no folder "documents". Save the project as a folder first`, folder);
  });
  const all: Record<string, AnyDocument> = {};
  for (const kind of kinds.filter((k) => k.isDirectory()))
    for (const name of (await readdir(path.join(root, kind.name))).filter((n) => n.endsWith('.json')).sort()) {
      const file = path.join(root, kind.name, name);
      const body = await check(file);
      if (body.kind !== kind.name) throw new UseCaseError('bad-project', `${file} is a ${body.kind}, and lies among those of ${kind.name}`, file);
      all[name.slice(0, -'.json'.length)] = body;
    }
  const made = new Map<string, Uint8Array>();
  const get = async (hash: string): Promise<Uint8Array> => {
    const bytes = made.get(hash) ?? (/^[0-9a-f]{64}$/.test(hash) ? await read(path.join(folder, 'files', hash)) : null);
    if (!bytes) throw new UseCaseError('missing-blob', `${folder}/files has no ${hash}, which a document of the project names`, hash);
    return bytes;
  };
  const blobs: BlobStore = {
    get,
    async put(bytes) {
      const hash = await sha256(bytes);
      made.set(hash, bytes);
      return hash;
    },
    async *stream(hash) {
      yield await get(hash);
    },
  };
  return { all, blobs };
}

/** Hashes of bytes that a document names. */
export const blobsNamed = (body: AnyDocument): string[] => [...new Set(JSON.stringify(body).match(/(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])/g) ?? [])];
