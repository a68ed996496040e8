// What a bundle says of itself: every file with its hash, and how to read each channel.
import type { Ktx2Kind, TargetDocument, TextureFile } from '../cost';
import { KTX2_KINDS, TEXTURE_FILES } from '../cost';
import type { Quality } from '../pack';
import { nameProblem, parseChannelLayout } from '../pack';

export const BUNDLE_VERSION = 1;
export const MANIFEST_NAME = 'manifest.json';

/** What a file of a bundle is. */
export const BUNDLE_KINDS = ['texture', 'model', 'material', 'shader', 'table', 'height', 'weights', 'mask'] as const;
export type BundleKind = (typeof BUNDLE_KINDS)[number];

/** How a texture is read. */
export interface BundleTexture {
  file: TextureFile;
  /** How texels are kept; `plain` outside KTX2. */
  kept: Ktx2Kind;
  width: number;
  height: number;
  levels: number;
  depth: 8 | 16;
  colourSpace: 'srgb' | 'linear';
  /** What each channel holds, as `r=occlusion,g=roughness,b=metallic`. */
  channels: string;
  /** Which way green points where it holds directions; z is rebuilt where blue does not hold it. */
  green: 'y+' | 'y-' | null;
  /** Bytes that its levels take in a target. */
  runtimeBytes: number;
}
/** Which slot of which asset a texture is for. */
export interface BundleUse {
  asset: string;
  slot: string;
  use: string;
}
export interface BundleFile {
  path: string;
  kind: BundleKind;
  bytes: number;
  /** SHA-256 of its bytes. */
  sha256: string;
  /** What it was made of, as one hash: the same again needs no making. */
  key: string;
  /** Id of the target that it is for; null for all of them. */
  target: string | null;
  /** Names of the documents that it shows. */
  of: string[];
  texture?: BundleTexture;
  worn?: BundleUse;
  /** How far its texels are from those that were authored, as it was decoded again; absent where not a bit differs. */
  quality?: Quality;
}

/** Where something in a bundle comes from. */
export interface BundleSource {
  name: string;
  author: string;
  source: string;
  licence: string;
}
/** What an asset costs in a target. */
export interface BundleCost {
  target: string;
  asset: string;
  textures: number;
  /** Bytes of its textures at runtime. */
  bytes: number;
  budget: number;
}
export interface BundleManifest {
  format: 'jaunty-bundle';
  version: number;
  project: string;
  targets: Record<string, TargetDocument>;
  files: BundleFile[];
  sources: BundleSource[];
  costs: BundleCost[];
}

/** A bundle, or a file of it, that cannot be used: what, where and what to do. */
export class BundleError extends Error {
  constructor(
    readonly code: 'no-manifest' | 'newer' | 'malformed' | 'unsafe-path' | 'missing' | 'tampered' | 'extra',
    message: string,
    readonly path?: string,
  ) {
    super(message);
    this.name = 'BundleError';
  }
}

/** What is wrong with a path within a bundle; null when every system takes it. */
export function pathProblem(path: string): string | null {
  const parts = path.split('/');
  if (path.startsWith('/') || parts.some((p) => p === '..' || p === '.' || p === '')) return `"${path}" leads out of the bundle`;
  for (const part of parts) {
    const problem = nameProblem(part);
    if (problem) return problem;
  }
  return null;
}

type Json = Record<string, unknown>;
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const isText = (v: unknown): v is string => typeof v === 'string';
const isCount = (v: unknown): v is number => Number.isSafeInteger(v) && (v as number) >= 0;
const isSide = (v: unknown): boolean => isCount(v) && v >= 1 && v <= 65536;

function layoutReads(text: string): boolean {
  try {
    parseChannelLayout(text);
    return true;
  } catch {
    return false;
  }
}

type Rules = Readonly<Record<string, (v: unknown) => boolean>>;
const one = (of: readonly unknown[]) => (v: unknown) => of.includes(v);
const FILE: Rules = {
  path: isText,
  kind: one(BUNDLE_KINDS),
  bytes: isCount,
  sha256: (v) => isText(v) && /^[0-9a-f]{64}$/.test(v),
  key: isText,
  target: (v) => v === null || isText(v),
  of: (v) => Array.isArray(v) && v.every(isText),
};
const TEXTURE: Rules = {
  file: (v) => isText(v) && Object.hasOwn(TEXTURE_FILES, v),
  kept: one(KTX2_KINDS),
  width: isSide,
  height: isSide,
  levels: (v) => isSide(v) && (v as number) <= 17,
  depth: one([8, 16]),
  colourSpace: one(['srgb', 'linear']),
  channels: (v) => isText(v) && layoutReads(v),
  green: one(['y+', 'y-', null]),
  runtimeBytes: isCount,
};
const WORN: Rules = { asset: isText, slot: isText, use: isText };
const TARGET: Rules = { name: isText, maxSize: isSide, memoryBytes: isCount, formats: isObject };
const TOP: Rules = { project: isText, targets: isObject, files: Array.isArray, sources: Array.isArray, costs: Array.isArray };

function hold(of: unknown, rules: Rules, where: string): Json {
  if (!isObject(of)) throw new BundleError('malformed', `${MANIFEST_NAME}: ${where} is no object`, MANIFEST_NAME);
  for (const [name, holds] of Object.entries(rules))
    if (!holds(of[name]))
      throw new BundleError(
        'malformed',
        `${MANIFEST_NAME}: ${where} has no usable ${name} (${(JSON.stringify(of[name]) ?? 'nothing').slice(0, 60)})`,
        MANIFEST_NAME,
      );
  return of;
}

/**
 * The manifest of a bundle, checked to the last field that is read.
 * @throws BundleError where it is none, newer than this, or says something that cannot be
 */
export function readManifest(text: string): BundleManifest {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch (error) {
    throw new BundleError('malformed', `${MANIFEST_NAME} is not JSON: ${(error as Error).message}. Deliver the bundle again`, MANIFEST_NAME);
  }
  if (!isObject(given) || given['format'] !== 'jaunty-bundle')
    throw new BundleError('malformed', `${MANIFEST_NAME} is not that of a bundle. Give the folder or ZIP that was delivered`, MANIFEST_NAME);
  if (!isCount(given['version']) || given['version'] < 1)
    throw new BundleError('malformed', `${MANIFEST_NAME} has no version that can be read`, MANIFEST_NAME);
  if (given['version'] > BUNDLE_VERSION)
    throw new BundleError(
      'newer',
      `The bundle has version ${given['version']}, and this reads up to ${BUNDLE_VERSION}. Use a newer version of the program, or deliver it again with this one`,
      MANIFEST_NAME,
    );
  const manifest = hold(given, TOP, 'it') as unknown as BundleManifest;
  for (const [id, target] of Object.entries(manifest.targets)) hold(target, TARGET, `target ${id}`);
  const seen = new Set<string>();
  manifest.files.forEach((file, i) => {
    hold(file, FILE, `file ${i + 1}`);
    const problem = pathProblem(file.path);
    if (problem) throw new BundleError('unsafe-path', `${MANIFEST_NAME}: ${problem}`, file.path);
    if (seen.has(file.path.toLowerCase()))
      throw new BundleError('malformed', `${MANIFEST_NAME} names ${file.path} twice, where case does not count`, file.path);
    seen.add(file.path.toLowerCase());
    if (file.target !== null && !Object.hasOwn(manifest.targets, file.target))
      throw new BundleError('malformed', `${MANIFEST_NAME}: ${file.path} is for a target that is not in it (${file.target})`, file.path);
    if (file.texture !== undefined) hold(file.texture, TEXTURE, file.path);
    if (file.worn !== undefined) hold(file.worn, WORN, file.path);
    if (file.kind === 'texture' && !file.texture)
      throw new BundleError('malformed', `${MANIFEST_NAME}: ${file.path} is a texture, and nothing says how to read it`, file.path);
  });
  return manifest;
}

/** A manifest as text: files in the order of their paths, so that the same bundle has the same bytes. */
export function manifestText(manifest: Omit<BundleManifest, 'format' | 'version'>): string {
  const byPath = (a: { path: string }, b: { path: string }) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0);
  return `${canonical({ format: 'jaunty-bundle', version: BUNDLE_VERSION, ...manifest, files: [...manifest.files].sort(byPath) }, 1)}\n`;
}

/** JSON whose text depends on its content alone: keys in order, what is undefined left out. */
export function canonical(value: unknown, indent?: number): string {
  const ordered = (v: unknown): unknown =>
    Array.isArray(v)
      ? v.map(ordered)
      : isObject(v)
        ? Object.fromEntries(
            Object.entries(v)
              .filter(([, held]) => held !== undefined)
              .sort(([a], [b]) => (a < b ? -1 : 1))
              .map(([k, held]) => [k, ordered(held)]),
          )
        : v;
  return JSON.stringify(ordered(value), null, indent);
}
