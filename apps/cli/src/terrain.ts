// Terrains on the command line: generated or brought in, covered by rule, counted and resolved tile by tile.
import type { FieldFinding, Heightfield, TerrainWeights } from '@pebble/core';
import {
  HILLSIDE,
  TERRAIN_METRES,
  blendMaterial,
  fieldFindings,
  fieldMesh,
  fieldSpreads,
  hillside,
  resolveTiles,
  ruledWeights,
  terrainTiles,
} from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { sourcesOf } from '@pebble/usecases';
import { writeWhole } from '@pebble/usecases/folder';
import { tilePrices } from '@pebble/usecases/ground';
import type { TerrainFile } from '@pebble/usecases/terrain';
import { fieldFrom, heightPicture, parseTerrain, readHeights, readWeights, weightPictures } from '@pebble/usecases/terrain';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { Shown } from './blends';
import type { Print } from './options';
import { UsageError, number, options } from './options';

const endsIn = (out: string, ending: string): string => {
  if (!out.toLowerCase().endsWith(ending)) throw new UsageError(`--out names a file that ends in ${ending}, not "${out}"`);
  return out;
};

/** Writes heights and what they mean side by side: `hill.terrain.json` and `hill.png`. */
async function put(field: Heightfield, out: string, cwd: string, facts: { acrossM: number; rangeM?: number; footM?: number }): Promise<TerrainFile> {
  const full = path.resolve(cwd, endsIn(out, '.terrain.json'));
  const name = path.basename(full).replace(/\.terrain\.json$/i, '');
  const { image, rangeM, footM } = heightPicture(
    field,
    facts.rangeM && facts.footM !== undefined ? { rangeM: facts.rangeM, footM: facts.footM } : undefined,
  );
  const file: TerrainFile = { kind: 'terrain', version: 1, name, heights: `${name}.png`, acrossM: facts.acrossM, rangeM, footM };
  await writeWhole(path.join(path.dirname(full), file.heights), await nodeCodec.encode(image));
  await writeWhole(full, `${JSON.stringify(file, null, 2)}\n`);
  return file;
}

async function open(file: string | undefined, cwd: string): Promise<{ file: TerrainFile; field: Heightfield; findings: FieldFinding[] }> {
  if (!file) throw new UsageError('Name one terrain: a file that ends in .terrain.json');
  const full = path.resolve(cwd, file);
  const text = await readFile(full, 'utf8').catch(() => {
    throw new Error(`${file} cannot be read`);
  });
  const body = parseTerrain(text, file);
  const bytes = await readFile(path.join(path.dirname(full), body.heights)).catch(() => {
    throw new Error(`${body.heights}, the heights of ${file}, cannot be read`);
  });
  const image = await readHeights(body.heights, new Uint8Array(bytes), nodeCodec);
  return { file: body, field: fieldFrom(image, body, body.heights), findings: fieldFindings(image, body) };
}

const metres = (v: number): string => `${v.toFixed(1)} m`;
function tell(field: Heightfield, print: Print): void {
  const { altitude, slope } = fieldSpreads(field);
  print(
    `${field.width} × ${field.height} samples every ${(field.spacingM * 100).toFixed(1)} cm; altitudes ${metres(altitude.lo)} to ${metres(altitude.hi)}, slopes ${slope.lo.toFixed(1)}° to ${slope.hi.toFixed(1)}°`,
  );
}

async function generate(args: string[], cwd: string, print: Print): Promise<void> {
  const { values } = options(args, ['samples', 'rows', 'out'], ['out']);
  const samples = number(values, 'samples', 1025, 2, 4097, true);
  const field = hillside(samples, number(values, 'rows', samples, 2, 4097, true));
  await put(field, values['out'], cwd, HILLSIDE);
  tell(field, print);
}

async function bringIn(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['across', 'range', 'foot', 'out'], ['across', 'range', 'out']);
  if (positionals.length !== 1) throw new UsageError('Name one picture of heights');
  const [from] = positionals;
  const facts = {
    acrossM: number(values, 'across', 512, ...TERRAIN_METRES.acrossM),
    rangeM: number(values, 'range', 100, ...TERRAIN_METRES.rangeM),
    footM: number(values, 'foot', 0, ...TERRAIN_METRES.footM),
  };
  const bytes = await readFile(path.resolve(cwd, from)).catch(() => {
    throw new Error(`${from} cannot be read`);
  });
  const image = await readHeights(from, new Uint8Array(bytes), nodeCodec);
  const findings = fieldFindings(image, facts);
  findings.forEach((f) => print(`${f.severity}: ${f.message}`));
  const error = findings.find((f) => f.severity === 'error');
  if (error) throw new Error(`${from}: ${error.message}`);
  const field = fieldFrom(image, facts, from);
  // Floats may lie outside 0 to 1: then the range is what they hold.
  await put(field, values['out'], cwd, image.depth === 32 ? { acrossM: facts.acrossM } : facts);
  tell(field, print);
}

async function mesh(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['step', 'out'], ['out']);
  const { file, field } = await open(positionals[0], cwd);
  const step = number(values, 'step', Math.max(1, Math.ceil(Math.max(field.width, field.height) / 257)), 1, 4096, true);
  const made = fieldMesh(field, step, file.footM);
  await writeWhole(
    path.resolve(cwd, endsIn(values['out'], '.glb')),
    await writeGlb(file.name, { title: file.name, lods: [[{ name: file.name, slot: 'ground', mesh: made, sets: [made.texcoord] }]] }),
  );
  print(
    `${(made.index.length / 3).toLocaleString('en')} triangles, every ${(step * field.spacingM).toFixed(2)} m; its foot stands at ${metres(file.footM)}`,
  );
}

async function weights(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['doc', 'out'], ['doc', 'out'], [], ['surface', 'painted']);
  const { file, field } = await open(positionals[0], cwd);
  const shown = await Shown.open({ file: values['doc'], cwd, surfaces: many['surface'], painted: many['painted'] });
  const material = blendMaterial(shown.stack());
  const from = await shown.ingredients({ material, on: null }, ['height']);
  const made = ruledWeights(field, material, sourcesOf(from, true), file.footM);
  const names = material.layers.map((l) => shown.body.layers[l.id].name);
  await putWeights(made, names, path.resolve(cwd, values['out']));
  const whole = terrainTiles(made, Math.max(made.width, made.height))[0];
  names.forEach((name, l) => print(`${name}: ${(100 * whole.means[l]).toFixed(1)} %`));
}

/** Writes weights into a folder, their table last. */
async function putWeights(weights: TerrainWeights, names: readonly string[], folder: string): Promise<void> {
  const { table, pictures } = weightPictures(weights, names);
  for (const { file, image } of pictures) await writeWhole(path.join(folder, file), await nodeCodec.encode(image));
  await writeWhole(path.join(folder, 'weights.json'), `${JSON.stringify(table, null, 2)}\n`);
}
/** Weights that were written into a folder. */
async function folderWeights(folder: string, cwd: string) {
  const full = path.resolve(cwd, folder);
  const text = await readFile(path.join(full, 'weights.json'), 'utf8').catch(() => {
    throw new Error(`${folder} holds no weights.json`);
  });
  return readWeights(text, `${folder}/weights.json`, async (file) => {
    const bytes = await readFile(path.join(full, file)).catch(() => null);
    return bytes && nodeCodec.decode(new Uint8Array(bytes), 'data');
  });
}

const TILES = ['side', 'limit'];
const sideOf = (values: Record<string, string>): number => number(values, 'side', 64, 1, 8192, true);
const limitOf = (values: Record<string, string>): number => number(values, 'limit', 4, 1, 16, true);

async function tiles(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on, many } = options(args, [...TILES, 'doc'], [], ['json'], ['surface', 'painted']);
  if (positionals.length !== 1) throw new UsageError('Name one folder of weights');
  const { weights: read, names } = await folderWeights(positionals[0], cwd);
  const limit = limitOf(values);
  const all = terrainTiles(read, sideOf(values));
  const price = values['doc'] ? await pricesBy(values['doc'], many, cwd, names) : null;
  const rows = all.map((t) => ({
    column: t.column,
    row: t.row,
    layers: t.layers.map((l) => names[l]),
    over: t.layers.length > limit,
    ...(price ? { price: price(t) } : {}),
  }));
  if (on.has('json')) return print(JSON.stringify({ limit, tiles: rows }, null, 2));
  for (const r of rows.filter((t) => t.over))
    print(
      `tile ${r.column + 1}, ${r.row + 1}: ${r.layers.length} layers (${r.layers.join(', ')})${r.price ? `, ${r.price.samples} samples, ${r.price.operations} operations` : ''}`,
    );
  const over = rows.filter((t) => t.over).length;
  print(`${over} of ${rows.length} tiles draw more than ${limit} layers`);
}

/** What a tile costs: the ground with the layers alone that count in it, which is the tile's own permutation. */
async function pricesBy(doc: string, many: Record<string, string[]>, cwd: string, names: readonly string[]) {
  const shown = await Shown.open({ file: doc, cwd, surfaces: many['surface'], painted: many['painted'] });
  const stack = shown.stack();
  if (stack.layers.length !== names.length)
    throw new Error(`${doc} has ${stack.layers.length} layers and the weights are of ${names.length}: they were made for another ground`);
  return tilePrices(stack);
}

async function resolve(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, [...TILES, 'out'], ['out']);
  if (positionals.length !== 1) throw new UsageError('Name one folder of weights');
  const { weights: read, names } = await folderWeights(positionals[0], cwd);
  const { weights: made, tiles: resolved } = resolveTiles(read, sideOf(values), limitOf(values));
  await putWeights(made, names, path.resolve(cwd, values['out']));
  for (const t of resolved)
    print(
      `tile ${t.column + 1}, ${t.row + 1}: without ${t.dropped.map((l) => names[l]).join(', ')}; ${(100 * t.mean).toFixed(2)} % of what is seen changed, at most ${(100 * t.most).toFixed(1)} %`,
    );
  print(`${resolved.length} tiles were resolved`);
}

const PARTS: Record<string, (args: string[], cwd: string, print: Print) => Promise<void>> = {
  generate,
  import: bringIn,
  mesh,
  weights,
  tiles,
  resolve,
};

/** `terrain PART …`. */
export async function terrain([part, ...args]: string[], cwd: string, print: Print): Promise<void> {
  if (!part || !Object.hasOwn(PARTS, part)) throw new UsageError(`terrain takes ${Object.keys(PARTS).join(', ')}, not "${part ?? ''}"`);
  await PARTS[part](args, cwd, print);
}
