// Channels of maps joined to files and taken apart again, and what that lost.
import type { Compared, Image, Ktx2Kind, RecipeFile, TextureFile } from '@pebble/core';
import {
  KTX2_KINDS,
  LayoutError,
  collisions,
  compareImages,
  guessedLayout,
  inOrder,
  isColourFile,
  layoutText,
  nameProblem,
  parseChannelLayout,
  TEXTURE_FILES,
  readName,
  recognise,
  templateProblem,
  withNeutral,
} from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { textureFileOf, writeTexture } from '@pebble/formats/write';
import { encodePacked, packedName, readBeside, rolesOf, unpackMaps } from '@pebble/usecases';
import { findMaps, openFolder, readImage, writeWhole } from '@pebble/usecases/folder';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { readDocument } from './beside';
import type { Print } from './options';
import { UsageError, options, sizeOf } from './options';

function layoutOf(values: Record<string, string>): ReturnType<typeof parseChannelLayout> {
  try {
    return parseChannelLayout(values['layout']);
  } catch (error) {
    if (error instanceof LayoutError) throw new UsageError(`--layout, character ${error.at + 1}: ${error.message}`);
    throw error;
  }
}

/** What kind of file is written, and how. */
interface How {
  kind: TextureFile;
  block: Ktx2Kind;
  mips: boolean;
  depth: 8 | 16;
  /** Data may be written with loss. */
  lossy: boolean;
}

/** @param name that ends in the kind of file; @throws UsageError for what does not go together */
function howOf(values: Record<string, string>, on: ReadonlySet<string>, name: string): How {
  const kind = textureFileOf(name);
  if (!kind) throw new UsageError(`${name} ends in no kind of file that is written: ${Object.keys(TEXTURE_FILES).join(', ')}`);
  const asked = values['block'];
  const block = KTX2_KINDS.find((k) => k.toLowerCase() === (asked ?? 'plain').toLowerCase());
  if (!block) throw new UsageError(`--block takes ${KTX2_KINDS.join(', ')}, not "${asked}"`);
  if (asked !== undefined && kind !== 'ktx2') throw new UsageError(`Blocks are kept in KTX2 files; ${name} is none`);
  if (on.has('mips') && !TEXTURE_FILES[kind].mips) throw new UsageError(`${kind.toUpperCase()} holds no smaller levels; KTX2 does`);
  const depth = values['depth'] ?? '8';
  if (depth !== '8' && depth !== '16') throw new UsageError(`--depth takes 8 or 16, not "${depth}"`);
  return { kind, block, mips: on.has('mips'), depth: depth === '16' ? 16 : 8, lossy: on.has('lossy') };
}

/** Writes one file of channels. @throws Error for data that would be written with loss though nobody asked for it */
async function writePacked(
  out: string,
  channels: RecipeFile['channels'],
  from: string,
  target: { width: number; height: number; depth: 8 | 16; dither?: boolean },
  { kind, block, mips, lossy }: How,
): Promise<void> {
  const wanted = rolesOf({ order: 0, label: '', depth: 8, channels });
  const way = { as: kind, block, mips };
  const open = () => openFolder(from, [...new Set([...wanted, ...readBeside(channels, way)])]);
  const maps = await open();
  await Promise.all(Object.values(maps).map((map) => map.close()));
  const full = withNeutral(channels, (role) => maps[role] !== undefined);
  if (TEXTURE_FILES[kind].lossy && !lossy && !isColourFile(full, maps))
    throw new Error(`${path.basename(out)} holds data, which JPEG would change: write PNG, TGA, TIFF or KTX2, or say --lossy`);
  await writeWhole(out, encodePacked({ codec: nodeCodec, write: writeTexture }, full, open, target, way));
}

export async function pack(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, on } = options(args, ['from', 'layout', 'recipe', 'out', 'size', 'block', 'format', 'depth'], ['from', 'out'], ['mips', 'lossy']);
  if ((values['layout'] === undefined) === (values['recipe'] === undefined)) throw new UsageError('Give a --layout, or a --recipe');
  if (values['recipe'] !== undefined) return packFolder(values, on, cwd, print);
  if (values['format'] !== undefined) throw new UsageError('--format is for files of a recipe; of a layout the ending of --out says it');
  const how = howOf(values, on, values['out']);
  const channels = layoutOf(values);
  const wanted = rolesOf({ order: 0, label: '', depth: 8, channels });
  const from = path.resolve(cwd, values['from']);
  const maps = await openFolder(from, wanted);
  await Promise.all(Object.values(maps).map((map) => map.close()));
  for (const role of wanted.filter((r) => !maps[r])) print(`${values['from']} has no ${role} map: the neutral value stands there`);
  const sizes = Object.values(maps).map((m) => ({ width: m.width, height: m.height }));
  const [first = { width: 1, height: 1 }] = sizes;
  const size = values['size'] === undefined ? first : { width: sizeOf(values, 0), height: sizeOf(values, 0) };
  if (values['size'] === undefined && sizes.some((s) => s.width !== first.width || s.height !== first.height))
    throw new Error(
      `The maps of ${values['from']} have different sizes (${sizes.map((s) => `${s.width} × ${s.height}`).join(', ')}); give --size to resize them`,
    );
  await writePacked(path.resolve(cwd, values['out']), channels, from, { ...size, depth: how.depth }, how);
}

/** All files of a recipe from the maps of a folder. */
async function packFolder(values: Record<string, string>, on: ReadonlySet<string>, cwd: string, print: Print): Promise<void> {
  const ending = values['format'] ?? 'png';
  const how = howOf(values, on, `x.${ending}`);
  const recipe = await readDocument(path.resolve(cwd, values['recipe']), 'recipe');
  const from = path.resolve(cwd, values['from']);
  const files = inOrder(recipe.files);
  const have = new Set((await findMaps(from)).keys());
  const size = sizeOf(values, recipe.size);
  const wrong = templateProblem(recipe.template);
  if (wrong) throw new Error(`${values['recipe']}: ${wrong}`);
  const named = files.map((file) => ({
    file,
    name: packedName({ ...recipe, size }, file, { called: path.basename(from) }, { width: size, height: size }, {}).replace(/png$/, ending),
  }));
  const bad = named.map(({ name }) => nameProblem(name)).find((p) => p !== null) ?? null;
  const [twice] = collisions(named.map((n) => n.name));
  if (bad || twice) throw new Error(`${values['recipe']}: ${bad ?? `two files would be called ${twice}. Add {file} to the name`}`);
  for (const { file, name } of named) {
    const wanted = rolesOf(file);
    const missing = wanted.filter((role) => !have.has(role));
    if (wanted.length && missing.length === wanted.length) {
      print(`${name}: left out, ${values['from']} has no ${missing.join(', ')} map`);
      continue;
    }
    for (const role of missing) print(`${name}: there is no ${role} map, the neutral value stands there`);
    const maps = await openFolder(from, wanted);
    await Promise.all(Object.values(maps).map((map) => map.close()));
    const shape = Object.values(maps).map((m) => m.height / m.width);
    const tall = shape[0] ?? 1;
    const of = (share: number) => Math.max(1, Math.round(size * Math.min(1, share)));
    const target = { width: of(1 / tall), height: of(tall), depth: file.depth, dither: file.dither };
    await writePacked(path.join(path.resolve(cwd, values['out']), name), file.channels, from, target, how);
    print(name);
  }
}

/** The layout that a file seems to have. @throws Error with what to give where that is not clear */
function guessOf(image: Image, file: string, print: Print): RecipeFile['channels'] {
  const seen = recognise(image, { fileName: path.basename(file) });
  const guess = guessedLayout(seen, image.channels);
  const text = guess && layoutText(guess);
  const question = seen.findings.find((f) => f.severity === 'question' && f.code !== 'normal-direction-unknown');
  if (!guess || question)
    throw new Error(
      `${file}: it is not clear what its channels hold${question ? ` (${question.message.replace(/[.?]$/, '')})` : ''}. Say it, for instance --layout "${text ?? 'r=occlusion,g=roughness,b=metallic'}"`,
    );
  print(`${file}: taken for ${text}`);
  return guess;
}

export async function unpack(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['layout', 'out'], ['out']);
  if (positionals.length !== 1) throw new UsageError('Name one file to unpack');
  const file = path.resolve(cwd, positionals[0]);
  const image = await readImage(file, 'mask');
  const channels = values['layout'] === undefined ? guessOf(image, positionals[0], print) : layoutOf(values);
  const maps = unpackMaps(image, channels);
  const stem = path.basename(file).replace(/\.[^.]*$/, '');
  for (const [role, image] of Object.entries(maps))
    await writeWhole(path.join(path.resolve(cwd, values['out']), `${stem}_${role}.png`), await nodeCodec.encode(image));
}

/** How far one picture is from another: what compression lost. */
export async function quality(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on } = options(args, ['as'], [], ['json']);
  const [first, second, ...rest] = positionals;
  if (!first || !second || rest.length) throw new UsageError('Name two files: the one that was meant, and the one that came of it');
  const kinds: Compared[] = ['normal', 'colour', 'data'];
  const role = readName(first).role ?? readName(second).role;
  const named: Compared = role === 'normal' ? 'normal' : role === 'baseColor' || role === 'emissive' ? 'colour' : 'data';
  const as = kinds.find((k) => k === (values['as'] ?? named));
  if (!as) throw new UsageError(`--as takes ${kinds.join(', ')}, not "${values['as']}"`);
  const open = async (file: string) => {
    const bytes = await readFile(path.resolve(cwd, file)).catch(() => {
      throw new Error(`${file} cannot be read`);
    });
    return nodeCodec.decode(new Uint8Array(bytes), 'data').catch((error: Error) => {
      throw new Error(`${file}: ${error.message}`);
    });
  };
  const [a, b] = [await open(first), await open(second)];
  let found: ReturnType<typeof compareImages>;
  try {
    found = compareImages(a, b, as);
  } catch (error) {
    throw new Error(`${first} and ${second}: ${(error as Error).message}`);
  }
  if (on.has('json')) return print(JSON.stringify({ as, width: a.width, height: a.height, ...found }, null, 2));
  found.channels.forEach(({ psnr, max }, c) =>
    print(
      `${found.channels.length === 1 ? 'grey' : 'rgba'[c]}: ${psnr === null ? 'equal' : `${psnr.toFixed(1)} dB, at most ${(max * 255).toFixed(1)}/255`}`,
    ),
  );
  if (found.angle) print(`directions: ${found.angle.mean.toFixed(2)}° on average, 99 of 100 within ${found.angle.p99.toFixed(2)}°`);
  if (found.deltaE) print(`colours: ΔE2000 ${found.deltaE.mean.toFixed(2)} on average, 99 of 100 within ${found.deltaE.p99.toFixed(2)}`);
}
