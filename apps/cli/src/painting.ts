// Paint on the command line: strokes that were written down, and stamps of surfaces into all maps of a mesh.
import type { Model } from '@pebble/core';
import {
  MASK_SIDE,
  MATERIAL_ROLES,
  MAX_MASK_SIDE,
  MeshMaskPainter,
  Stamper,
  VertexPainter,
  convertDepth,
  extractChannel,
  makeImage,
  merged,
  numbered,
  parseStamps,
  parseStrokes,
  placed,
  replayStrokes,
  setsOf,
  unmerged,
} from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { readFacts, readMaps, writeSurface, writeWhole } from '@pebble/usecases/folder';
import { pressStamps, stampGround, stampMaps } from '@pebble/usecases/stamping';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { readMeshFile } from './meshes';
import type { Print } from './options';
import { UsageError, number, options } from './options';

const METRES = { unitM: 1, up: 'y' } as const;
async function text(file: string, cwd: string): Promise<string> {
  return readFile(path.resolve(cwd, file), 'utf8').catch(() => {
    throw new Error(`${file} cannot be read`);
  });
}
/** What a file says, with its name before what is wrong with it. */
async function parsed<T>(file: string, cwd: string, parse: (text: string) => T): Promise<T> {
  const given = await text(file, cwd);
  try {
    return parse(given);
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`);
  }
}

/** The finest level of a mesh as one, laid by one of its sets. @throws Error where a part has none */
function laid(file: string, model: Model, set: number) {
  const bare = model.lods[0].find((p) => setsOf(p).length <= set);
  if (bare) throw new Error(`${file}: ${bare.name} has no set ${set + 1} of texture coordinates, so nothing can be painted in it. Unwrap it first`);
  return merged(model.lods[0].map((p) => placed(p, METRES, set)));
}

async function replay(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['mesh', 'out', 'side', 'bits', 'set', 'from'], ['mesh', 'out']);
  if (positionals.length !== 1) throw new UsageError('Name one file of strokes');
  const out = values['out'];
  const kind = path.extname(out).toLowerCase();
  if (kind !== '.png' && kind !== '.glb')
    throw new UsageError(`--out names a mask that ends in .png, or a mesh with its colours that ends in .glb, not "${out}"`);
  const side = number(values, 'side', MASK_SIDE, 16, MAX_MASK_SIDE, true);
  const bits = number(values, 'bits', 8, 8, 16, true);
  if (bits !== 8 && bits !== 16) throw new UsageError(`--bits takes 8 or 16, not ${bits}`);
  const set = number(values, 'set', 1, 1, 16, true) - 1;
  const strokes = await parsed(positionals[0], cwd, parseStrokes);
  const { model, name } = { ...(await readMeshFile(values['mesh'], cwd)), name: path.basename(values['mesh']).replace(/\.[^.]*$/, '') };
  if (kind === '.glb') {
    const parts = model.lods[0];
    const mesh = numbered(parts.map((p) => placed(p, METRES, 0)));
    const painter = new VertexPainter(mesh);
    const { beside } = replayStrokes(strokes, painter, mesh);
    const painted = unmerged({ ...mesh, geomcolor: painter.colours }, parts.length);
    const lods = [parts.map((p, i) => ({ name: p.name, slot: p.slot, mesh: painted[i], sets: [painted[i].texcoord], coloured: true }))];
    await writeWhole(path.resolve(cwd, out), await writeGlb(name, { title: model.title, lods }));
    return print(`${out}: ${strokes.strokes.length} strokes on ${painter.vertices.toLocaleString('en')} vertices${besideText(beside)}`);
  }
  const mesh = laid(values['mesh'], model, set);
  const from = values['from'] ? await grey(values['from'], cwd, side, bits) : new Uint8Array(side * side);
  const painter = new MeshMaskPainter({ ...mesh, uv: mesh.texcoord }, side, side, from, bits);
  const { beside } = replayStrokes(strokes, painter, mesh);
  const image = makeImage({ width: side, height: side, channels: 1, depth: bits, data: painter.bytesNow() });
  await writeWhole(path.resolve(cwd, out), await nodeCodec.encode(image));
  print(`${out}: ${strokes.strokes.length} strokes on ${side}² texels of ${bits} bits${besideText(beside)}`);
}
const besideText = (beside: number): string => (beside ? `; ${beside} points lay beside the mesh` : '');

/** A mask that strokes go on upon. @throws Error for one of another size */
async function grey(file: string, cwd: string, side: number, bits: 8 | 16): Promise<ArrayLike<number>> {
  const bytes = await readFile(path.resolve(cwd, file)).catch(() => {
    throw new Error(`${file} cannot be read`);
  });
  const image = await nodeCodec.decode(new Uint8Array(bytes), 'data');
  if (image.width !== side || image.height !== side)
    throw new Error(`${file} has ${image.width} × ${image.height} texels where ${side}² are painted: name another --side`);
  return convertDepth(extractChannel(image, 0), bits).data;
}

const PARTS: Record<string, (args: string[], cwd: string, print: Print) => Promise<void>> = { replay };

/** `paint PART …`. */
export async function paint([part, ...args]: string[], cwd: string, print: Print): Promise<void> {
  if (!part || !Object.hasOwn(PARTS, part)) throw new UsageError(`paint takes ${Object.keys(PARTS).join(', ')}, not "${part ?? ''}"`);
  await PARTS[part](args, cwd, print);
}

/** `stamp STAMPS.json --from SURFACE --into SURFACE --mesh MESH --out FOLDER`. */
export async function stamp(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['from', 'into', 'mesh', 'out', 'set', 'seed'], ['from', 'into', 'mesh', 'out']);
  if (positionals.length !== 1) throw new UsageError('Name one file of stamps');
  const set = number(values, 'set', 1, 1, 16, true) - 1;
  const seed = number(values, 'seed', 1, 0, 0xffffffff, true);
  const { stamps } = await parsed(positionals[0], cwd, parseStamps);
  const { model } = await readMeshFile(values['mesh'], cwd);
  const ground = stampGround(model, METRES, values['mesh'], set);
  const folder = (name: string) => path.resolve(cwd, values[name]);
  const [given, facts] = [await readMaps(folder('into'), MATERIAL_ROLES), await readFacts(folder('into'))];
  const [from, known] = [await readMaps(folder('from'), MATERIAL_ROLES), await readFacts(folder('from'))];
  if (!Object.keys(given).length) throw new Error(`${values['into']}: there is no map to stamp into`);
  const maps = stampMaps(given);
  const surface = { maps: from, ...known };
  const list = stamps.map((stamp, i) => ({ stamp, surface, seed: seed + i }));
  const { texels, beside } = pressStamps(new Stamper(ground, maps, facts), list);
  await writeSurface(folder('out'), path.basename(values['out']), maps, facts);
  print(
    `${values['out']}: ${stamps.length - beside} stamps, ${texels.toLocaleString('en')} texels${beside ? `; ${beside} lay beside the mesh` : ''}`,
  );
}
