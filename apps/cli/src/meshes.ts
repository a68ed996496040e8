// Meshes on the command line: what their parts and coordinates are worth, and new coordinates for them.
import type { Model } from '@pebble/core';
import { NORMAL_SPACES, convertDepth, densitySpread, merged, nameSlug, placed, setsOf, turnedNormals, uvLayout } from '@pebble/core';
import { FormatError } from '@pebble/formats';
import type { MeshFile, Siblings } from '@pebble/formats/mesh';
import { withTangents, writeGlb } from '@pebble/formats/mesh';
import { readMesh } from '@pebble/formats/mesh-files';
import { nodeCodec } from '@pebble/formats/node';
import { writeWhole } from '@pebble/usecases/folder';
import { layOut } from '@pebble/usecases/layout';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import type { Print } from './options';
import { UsageError, number, options } from './options';

const METRES = { unitM: 1, up: 'y' } as const;

export async function readMeshFile(file: string, cwd: string): Promise<MeshFile> {
  const full = path.resolve(cwd, file);
  const bytes = await readFile(full).catch(() => {
    throw new Error(`${file} cannot be read`);
  });
  // A name is all that a mesh may ask for: nothing outside its folder is opened.
  const siblings: Siblings = (name) =>
    readFile(path.join(path.dirname(full), path.basename(name))).then(
      (b) => new Uint8Array(b),
      () => null,
    );
  try {
    return await readMesh(file, new Uint8Array(bytes), siblings);
  } catch (error) {
    if (!(error instanceof FormatError)) throw error;
    throw new Error(`${file}: ${error.message}${error.byte === undefined ? '' : ` (byte ${error.byte})`}`);
  }
}

/** What one level of a model is, with every set of coordinates that all of its parts have. */
function levelFacts(model: Model, level: number) {
  const parts = model.lods[level];
  const sets = Math.min(...parts.map((p) => setsOf(p).length));
  return {
    level,
    parts: parts.map((p) => ({
      name: p.name,
      slot: p.slot,
      triangles: p.mesh.index.length / 3,
      vertices: p.mesh.position.length / 3,
      sets: setsOf(p).length,
      vertexColours: p.coloured ?? true,
    })),
    sets: Array.from({ length: sets }, (_, set) => setFacts(model, level, set)),
  };
}

function setFacts(model: Model, level: number, set: number) {
  const { islands, overlaps, covered, collapsed } = uvLayout(model.lods[level].map((p) => placed(p, METRES, set)));
  const name = (part: number) => model.lods[level][part].name;
  return {
    set,
    islands: islands.length,
    wasted: 1 - covered,
    mirrored: islands.filter((i) => i.flipped).length,
    foldedTriangles: islands.reduce((n, i) => n + i.folded, 0),
    outside: islands.filter((i) => i.outside && !i.repeats).length,
    repeating: islands.filter((i) => i.repeats).length,
    collapsedTriangles: collapsed,
    overlaps: overlaps.map((o) => ({ parts: o.parts.map(name), share: o.share, stacked: o.stacked })),
    /** Sides of a tile a metre. */
    density: densitySpread(islands),
  };
}

export async function mesh(args: string[], cwd: string, print: Print): Promise<void> {
  const { positionals, on } = options(args, [], [], ['json']);
  if (!positionals.length) throw new UsageError('Name at least one mesh');
  const files = [];
  for (const file of positionals) {
    const { model, notes, pictures } = await readMeshFile(file, cwd);
    files.push({
      file,
      levels: model.lods.map((_, level) => levelFacts(model, level)),
      pictures: pictures.map((p) => p.fileName),
      notes: notes.map(({ code, message }) => ({ code, message })),
    });
  }
  if (on.has('json')) return print(JSON.stringify({ files }, null, 2));
  for (const { file, levels, notes } of files) {
    for (const { level, parts, sets } of levels) {
      print(`${file}, detail ${level}: ${parts.map((p) => `${p.name} (${p.slot}, ${p.triangles} triangles)`).join(', ')}`);
      for (const s of sets)
        print(
          `  set ${s.set + 1}: ${s.islands} islands, ${(s.wasted * 100).toFixed(0)} % wasted, ${s.mirrored} mirrored, ${s.outside} outside, ${s.repeating} repeating, ${s.overlaps.length} overlaps of parts`,
        );
      if (!sets.length) print('  no set of texture coordinates that all parts have');
    }
    for (const { message } of notes) print(`  ${message}`);
  }
}

export async function unwrap(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on } = options(args, ['out', 'level', 'set'], ['out'], ['repack']);
  if (positionals.length !== 1) throw new UsageError('Name one mesh');
  const level = number(values, 'level', 0, 0, 7, true);
  const set = number(values, 'set', 1, 1, 16, true) - 1;
  const { model } = await readMeshFile(positionals[0], cwd);
  const made = await layOut(model, on.has('repack') ? 'repack' : 'unwrap', level, set, METRES, () => undefined);
  const name = path.basename(values['out']).replace(/\.[^.]*$/, '');
  await writeWhole(path.resolve(cwd, values['out']), await writeGlb(nameSlug(name), made.model));
  const { islands, wasted } = setFacts(made.model, level, made.set);
  print(`${values['out']}: set ${made.set + 1} has ${islands} islands, ${(wasted * 100).toFixed(0)} % of the tile is empty`);
}

/** A normal map of a mesh in the space of its object, or of its tangents. */
export async function normals(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['to', 'mesh', 'out', 'set', 'slot'], ['to', 'mesh', 'out']);
  if (positionals.length !== 1) throw new UsageError('Name one normal map');
  const [from] = positionals;
  const to = NORMAL_SPACES.find((s) => s === values['to']);
  if (!to) throw new UsageError(`--to takes ${NORMAL_SPACES.join(' or ')}, not "${values['to']}"`);
  if (!values['out'].toLowerCase().endsWith('.png')) throw new UsageError(`--out names a file that ends in .png, not "${values['out']}"`);
  const set = number(values, 'set', 1, 1, 16, true) - 1;
  const { model } = await readMeshFile(values['mesh'], cwd);
  const slots = [...new Set(model.lods[0].map((p) => p.slot))];
  const wanted = values['slot'];
  if (wanted !== undefined && !slots.includes(wanted)) throw new UsageError(`The mesh has no slot called ${wanted}; it has ${slots.join(', ')}`);
  const parts = model.lods[0].filter((p) => wanted === undefined || p.slot === wanted);
  const bare = parts.find((p) => setsOf(p).length <= set);
  if (bare) throw new Error(`${values['mesh']}: ${bare.name} has no set ${set + 1} of texture coordinates, so no map lies on it. Unwrap it first`);
  const laid = merged(parts.map((p) => placed(p, METRES, set)));
  const bytes = await readFile(path.resolve(cwd, from)).catch(() => {
    throw new Error(`${from} cannot be read`);
  });
  const image = await nodeCodec.decode(new Uint8Array(bytes), 'data');
  // Tangents of a file are those of its first set.
  const mesh = set ? withTangents(laid).mesh : laid;
  let made;
  try {
    made = turnedNormals(image, mesh, mesh.texcoord, to);
  } catch (error) {
    throw new Error(`${from}: ${(error as Error).message}`);
  }
  await writeWhole(path.resolve(cwd, values['out']), await nodeCodec.encode(made.depth === 32 ? convertDepth(made, 16) : made));
  print(`${values['out']}: ${made.width}², in the space of ${to === 'tangent' ? 'tangents, Y+' : 'the object, +Y up'}`);
}
