import type { BundleFile, BundleManifest } from '@pebble/core';
import { BundleError, MANIFEST_NAME, readManifest } from '@pebble/core';
import { unzipSync } from 'fflate';
import { sha256 } from '../hash';

/** Where the files of a bundle are. */
export interface BundleReader {
  /** Paths of all files. */
  names(): Promise<string[]>;
  /** Null where there is no such file. */
  get(path: string): Promise<Uint8Array | null>;
}

/** A bundle whose manifest was read; files are checked as they are asked for. */
export interface OpenBundle {
  manifest: BundleManifest;
  /** The bytes of a file of the manifest. @throws BundleError where it is missing, cut off or changed */
  file(of: BundleFile): Promise<Uint8Array>;
  /** What is wrong with any of its files, or lies beside them; empty where all is well. */
  check(report?: (done: number) => void): Promise<BundleError[]>;
}

/** A ZIP that was delivered. @throws BundleError for bytes that are none, or are cut off */
export function zippedBundle(bytes: Uint8Array): BundleReader {
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(bytes);
  } catch (error) {
    throw new BundleError('malformed', `This is no ZIP that can be read (${(error as Error).message}), or it is cut off. Fetch it again`);
  }
  // Names are taken as they stand in it: what leads out of it is refused with the manifest.
  return { names: () => Promise.resolve(Object.keys(files)), get: (path) => Promise.resolve(Object.hasOwn(files, path) ? files[path] : null) };
}

const asText = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

async function checked(reader: BundleReader, { path, bytes: length, sha256: hash }: BundleFile): Promise<Uint8Array> {
  const bytes = await reader.get(path);
  if (!bytes) throw new BundleError('missing', `${path} is named in the manifest and is not there. Deliver again, or copy the whole bundle`, path);
  if (bytes.length !== length)
    throw new BundleError(
      'tampered',
      `${path} has ${bytes.length} bytes, and the manifest says ${length}: it was cut off or changed. Deliver again`,
      path,
    );
  const found = await sha256(bytes);
  if (found !== hash)
    throw new BundleError(
      'tampered',
      `${path} was changed since it was delivered: its SHA-256 is ${found}, and the manifest says ${hash}. Deliver again`,
      path,
    );
  return bytes;
}

/** Opens a bundle. @throws BundleError where it has no manifest, or one that cannot be used */
export async function openBundle(reader: BundleReader): Promise<OpenBundle> {
  const bytes = await reader.get(MANIFEST_NAME);
  if (!bytes)
    throw new BundleError(
      'no-manifest',
      `There is no ${MANIFEST_NAME}: this is no bundle, or its delivery did not finish. Deliver again`,
      MANIFEST_NAME,
    );
  const manifest = readManifest(asText(bytes));
  return {
    manifest,
    file: (of) => checked(reader, of),
    async check(report = () => undefined) {
      const problems: BundleError[] = [];
      for (const [i, of] of manifest.files.entries()) {
        report(i / manifest.files.length);
        await checked(reader, of).catch((error: unknown) => {
          if (!(error instanceof BundleError)) throw error;
          problems.push(error);
        });
      }
      const known = new Set([MANIFEST_NAME, ...manifest.files.map((f) => f.path)]);
      for (const name of await reader.names())
        if (!known.has(name) && !name.endsWith('/'))
          problems.push(new BundleError('extra', `${name} lies in the bundle, and its manifest does not know it`, name));
      return problems;
    },
  };
}
