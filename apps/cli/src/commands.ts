import type { GeneratedSurface, MapSet, Role, SurfaceOrder } from '@pebble/core';
import {
  BLEND_ROLES,
  GENERATORS,
  blendMaterial,
  computeLight,
  generateSurface,
  isGeneratorName,
  makeBlend,
  makeCue,
  makeLayer,
  makeStack,
  materialFacts,
  recipeOf,
  surfaceSheet,
  tallOf,
  SKIES,
  SPECIMENS,
  SPECIMEN_MODELS,
  STEPS,
  STEP_KINDS,
  TARGETS,
} from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import type { BandEvaluator } from '@pebble/usecases';
import { evaluateSquare, ingredients } from '@pebble/usecases';
import { forBlending, readFacts, readMaps, writeSurface, writeWhole } from '@pebble/usecases/folder';
import path from 'node:path';
import { blendDocument, section, sentence } from './blends';
import { deliver, preflight, project, proof, target } from './delivering';
import { importFiles } from './importing';
import { hookUp } from './hook-up';
import { pack, quality, unpack } from './packing';
import { mesh, normals, unwrap } from './meshes';
import { deriveMap, inspect, memory, mips } from './maps';
import { paint, stamp } from './painting';
import { terrain } from './terrain';
import { MAP_ROLES, compile, evaluateMaster, formula, simplify } from './masters';
import type { Command, Print } from './options';
import { UsageError, number, options, sizeOf } from './options';

export { UsageError } from './options';

/** The surface that a command line asks for. */
function orderOf(args: string[]): { order: SurfaceOrder; out: string } {
  const { values, positionals, many } = options(args, ['seed', 'size', 'out'], ['out'], [], ['set']);
  const [name, ...rest] = positionals;
  if (!name || rest.length) throw new UsageError(`Name one surface: ${Object.keys(GENERATORS).join(', ')}`);
  if (!isGeneratorName(name)) throw new UsageError(`There is no surface called ${name}; there are ${Object.keys(GENERATORS).join(', ')}`);
  const { structures } = recipeOf(name);
  const amounts: Record<string, number> = {};
  for (const setting of many['set']) {
    const [, structure, amount] = /^([^=]+)=(.+)$/.exec(setting) ?? [];
    if (!structure) throw new UsageError(`--set takes name=value, not "${setting}"`);
    if (!Object.hasOwn(structures, structure))
      throw new UsageError(`${name} has no structure called ${structure}; it has ${Object.keys(structures).join(', ')}`);
    amounts[structure] = number({ [`set ${structure}`]: amount }, `set ${structure}`, 1, 0, 2);
  }
  return { order: { name, seed: number(values, 'seed', 1, 0, 0xffffffff, true), size: sizeOf(values, 1024), amounts }, out: values['out'] };
}

const draw = async (order: SurfaceOrder, bands?: BandEvaluator): Promise<GeneratedSurface> =>
  bands ? bands.generate(order, () => undefined) : generateSurface(order.name, order);

async function generate(args: string[], cwd: string, _: Print, bands?: BandEvaluator): Promise<void> {
  const { order, out } = orderOf(args);
  const made = await draw(order, bands);
  await writeSurface(path.resolve(cwd, out), order.name, made.maps, made.facts);
}

async function sheet(args: string[], cwd: string, _: Print, bands?: BandEvaluator): Promise<void> {
  const { order, out } = orderOf(args);
  const made = await draw(order, bands);
  await writeWhole(path.resolve(cwd, out), await nodeCodec.encode(surfaceSheet(made.maps, made.facts, computeLight(SKIES.overcast))));
}

async function specimen(args: string[], cwd: string): Promise<void> {
  const { values, positionals } = options(args, ['extent', 'out'], ['out']);
  const [name, ...rest] = positionals;
  const known = SPECIMENS.find((s) => s === name);
  if (!known || rest.length) throw new UsageError(`Name one specimen: ${SPECIMENS.join(', ')}`);
  const extentM = number(values, 'extent', 1, 0.01, 1000);
  await writeWhole(path.resolve(cwd, values['out']), await writeGlb(known, SPECIMEN_MODELS[known](extentM)));
}

async function blend(args: string[], cwd: string, print: Print, bands?: BandEvaluator): Promise<void> {
  if (args.some((a) => a === '--doc' || a.startsWith('--doc='))) return blendDocument(args, cwd, print, bands);
  const { values } = options(args, ['below', 'above', 'coverage', 'softness', 'lift', 'follow', 'size', 'out'], ['below', 'above', 'out']);
  const folders = [path.resolve(cwd, values['below']), path.resolve(cwd, values['above'])];
  const read = async (folder: string) => ({ maps: forBlending(await readMaps(folder, BLEND_ROLES)), facts: await readFacts(folder) });
  const sides = [await read(folders[0]), await read(folders[1])];
  sides.forEach((side, i) => {
    if (!Object.keys(side.maps).length) throw new Error(`${folders[i]} has no maps (files whose names end in _baseColor, _normal, _height …)`);
  });
  const coverage = { c: makeCue('constant', { value: number(values, 'coverage', 0.5, 0, 1) }) };
  const above = makeLayer('above', 'Above', 2, { coverage });
  above.seam = {
    ...above.seam,
    soft: number(values, 'softness', 0.1, 0, 1),
    liftM: number(values, 'lift', 0, -10, 10),
    follow: number(values, 'follow', 0, 0, 1),
    contact: 0,
  };
  const document = makeBlend('Blend', {
    extentM: Math.max(sides[0].facts.sizeM, sides[1].facts.sizeM),
    layers: { below: makeLayer('below', 'Below', 1), above },
  });
  const surface = (i: number) => ({ ...sides[i].facts, tall: tallOf(sides[i].maps), roles: new Set(Object.keys(sides[i].maps) as Role[]) });
  const material = blendMaterial(makeStack(document, { below: surface(0), above: surface(1) }));
  const slots: MapSet[] = material.slots.surfaces.map((id) => sides[id === 'below' ? 0 : 1].maps);
  const maps = await evaluateSquare({ bands }, { material, on: null }, ingredients(slots), sizeOf(values, 1024), BLEND_ROLES, () => undefined);
  await writeSurface(path.resolve(cwd, values['out']), 'blend', maps, materialFacts(material));
}

export const COMMANDS: Record<string, Command> = {
  generate: {
    run: generate,
    usage: 'generate NAME --seed S --size N --out DIR [--set STRUCTURE=0–2 …]',
    help: `draws a surface (${Object.keys(GENERATORS).join(', ')}) with its six maps and surface.json`,
  },
  specimen: {
    run: specimen,
    usage: 'specimen NAME --out FILE.glb [--extent METRES]',
    help: `writes a specimen (${SPECIMENS.join(', ')}) with its parts, slots, vertex colours and levels of detail as binary glTF; --extent is the size of those that have none of their own`,
  },
  sheet: {
    run: sheet,
    usage: 'sheet NAME --out FILE.png [--seed S] [--size N] [--set STRUCTURE=0–2 …]',
    help: 'the surface on one picture: lit, four by four, under grazing light, every channel, as a pebble',
  },
  pack: {
    run: pack,
    usage:
      'pack --from DIR --layout "r=occlusion,g=roughness,b=metallic" --out FILE.png [--size N] [--depth 8|16] [--block KIND] [--mips] [--lossy] | pack --from DIR --recipe FILE.json --out DIR [--size N] [--format KIND] [--block KIND] [--mips]',
    help: 'joins channels of the maps of a folder; a channel is role, role.r|g|b|a, 1-role or a number 0–1; or writes all files of a recipe that was saved from the application; the ending says the kind of file (png, tga, tiff, jpg, ktx2), --block how KTX2 keeps texels (plain, BC1, BC3, BC4, BC5, BC7, UASTC, ETC1S), --mips adds all smaller levels, each channel by what it holds; data goes into JPEG only by --lossy',
  },
  quality: {
    run: quality,
    usage: 'quality MEANT.png FILE [--as normal|colour|data] [--json]',
    help: 'how far a picture is from the one that was meant: PSNR a channel, degrees between normals, ΔE2000 between colours; by the name what they are, or by --as',
  },
  unpack: {
    run: unpack,
    usage: 'unpack FILE.png --out DIR [--layout …]',
    help: 'the inverse of pack, one file a role; without a layout name and content say it, where they are clear',
  },
  blend: {
    run: blend,
    usage: 'blend --below DIR --above DIR --coverage 0.5 --softness 0.1 --lift 0 --follow 0 --size N --out DIR',
    help: 'blends two surface folders by height; lift in metres. With --doc BLEND.json --out DIR [--size N] [--maps ROLE,…] [--mesh FILE.glb] [--place SLOT[/PART]|extent] [--surface ID=FOLDER …] [--painted HASH=FILE …] it evaluates a blend document, whose surfaces are folders beside it; a mesh is baked into its own coordinates; without one the picture shows a place of the specimen of the document, its largest slot unless --place names another',
  },
  section: {
    run: section,
    usage: 'section --doc BLEND.json --line u0,v0,u1,v1 [--samples N] [--json] [--place SLOT[/PART]|extent] [--surface ID=FOLDER …]',
    help: 'cuts through a blend: the height with which every layer contends, its weight, and who wins',
  },
  sentence: {
    run: sentence,
    usage: 'sentence --doc BLEND.json [--full] [--json] | sentence --parse TEXT [--json]',
    help: 'says why each layer of a blend is where it is, or reads a coverage from such a sentence',
  },
  compile: {
    run: compile,
    usage: 'compile MASTER.json [--emit glsl|glsl-vertex|mtlx|json] [--variant NAME] [--out FILE] [--set NAME=VALUE …] [--surface ID=FOLDER …]',
    help: 'compiles a master to GLSL ES 3.00 (a fragment shader, or the vertex shader that goes with it) or MaterialX 1.39, or says its price, uniforms, textures, outputs, variants and operations as JSON; surfaces are folders beside it, blends are NAME.json',
  },
  evaluate: {
    run: evaluateMaster,
    usage:
      'evaluate MASTER.json --output ROLE --out FILE.png [--size N] [--variant NAME] [--time SECONDS] [--set NAME=VALUE …] [--surface ID=FOLDER …]',
    help: `works out one output of a master (${MAP_ROLES.join(', ')}) over its extent, at a moment of its loop; --set takes parameters by name (numbers with commas, #rrggbb) and switches (on, off)`,
  },
  simplify: {
    run: simplify,
    usage: 'simplify MASTER.json [--json] [--out FILE.json] [--set NAME=VALUE …] [--surface ID=FOLDER …]',
    help: 'finds what of a master can be left out (dead, constant, repeated, equal), says what each saves and the largest difference over 4,096 random inputs and over the extent; --out writes the master without it',
  },
  formula: {
    run: formula,
    usage: 'formula TEXT [--json]',
    help: 'reads a formula in the expression subset of GLSL ES 3.00: its type, inputs and price, or the character at which it is wrong',
  },
  inspect: {
    run: inspect,
    usage: 'inspect FILE… [--json]',
    help: 'says what image files are, from their content as well as their names, and what is doubtful; files of one surface are weighed together',
  },
  derive: {
    run: deriveMap,
    usage: 'derive OP[,OP…] IN --out OUT.png [--set NAME=VALUE …] [--size METRES] [--relief MM] [--green y+|y-]',
    help: `makes a map of a map; steps: ${STEP_KINDS.map((k) => `${k} (${STEPS[k].help})`).join('; ')}`,
  },
  mips: {
    run: mips,
    usage: 'mips IN --role ROLE --out DIR [--normal FILE] [--cutoff 0.5]',
    help: 'the smaller levels of a map by what it holds: colour in linear light, directions of unit length, roughness with what levels of --normal lose, opacity that covers as much above --cutoff, IDs unmixed',
  },
  memory: {
    run: memory,
    usage: 'memory FILE… --target NAME|FILE.json [--json]',
    help: `what maps take in a target, to the byte; targets: ${Object.keys(TARGETS).join(', ')}, or a target document`,
  },
  mesh: {
    run: mesh,
    usage: 'mesh FILE… [--json]',
    help: 'what the parts, slots, levels and sets of texture coordinates of GLB, glTF and OBJ files are worth: islands, overlaps, mirrored and outlying ones, wasted area, density',
  },
  unwrap: {
    run: unwrap,
    usage: 'unwrap FILE --out OUT.glb [--repack] [--level N] [--set N]',
    help: 'adds a set of texture coordinates: the mesh cut into islands that lie flat, or with --repack the islands of a set laid out again',
  },
  normals: {
    run: normals,
    usage: 'normals MAP --to tangent|object --mesh MESH --out OUT.png [--slot SLOT] [--set N]',
    help: 'turns a normal map from the space of its object into that of its tangents, or back, by the mesh that it lies on',
  },
  paint: {
    run: paint,
    usage: 'paint replay STROKES.json --mesh MESH --out MASK.png|MESH.glb [--side N] [--bits 8|16] [--set N] [--from MASK.png]',
    help: 'paints strokes that were written down into a mask that lies on the mesh, or into its vertex colours',
  },
  stamp: {
    run: stamp,
    usage: 'stamp STAMPS.json --from SURFACE --into SURFACE --mesh MESH --out SURFACE [--set N] [--seed N]',
    help: 'presses patches of one surface into all maps of another that lies on a mesh, across its islands, normals turned into its tangents',
  },
  hookup: {
    run: hookUp,
    usage: 'hookup MESH MAPS… --out FILE.glb [--wear SLOT=SET …] [--set N] [--doubtful] [--json]',
    help: 'puts finished maps on the slots of a mesh, matched by name, and writes it as binary glTF with its materials; a set is what names of files have in common; --wear says which slot wears which, --set by which texture coordinates; files with an open question are left out unless --doubtful takes what is proposed',
  },
  project: {
    run: project,
    usage: 'project --server URL --out DIR | project DIR --server URL',
    help: 'saves the project of a running server as a plain folder (documents/KIND/ID.json and files/SHA-256), or reads such a folder into a server: what is there already stays',
  },
  preflight: {
    run: preflight,
    usage: 'preflight PROJECT [--target NAME …] [--json]',
    help: 'checks what would be delivered from a project folder: errors block it, warnings until they are accepted, notes never',
  },
  terrain: {
    run: terrain,
    usage:
      'terrain generate|import HEIGHTS|mesh TERRAIN|weights TERRAIN|tiles WEIGHTS|resolve WEIGHTS … --out FILE [--across M --range M --foot M] [--doc BLEND.json] [--side N --limit N]',
    help: 'a hillside or a picture of heights in metres; the weights of a ground’s layers on it by their sentences, as packed PNGs with a table; layers and price of each tile, and fewer where a tile draws too many',
  },
  deliver: {
    run: deliver,
    usage: 'deliver PROJECT --out DIR [--target NAME …] [--skip PATH …] [--watch] [--json]',
    help: 'delivers a project folder as a bundle: textures, models, masters, heights, weights and a manifest with hashes; what was made of the same before stays as it is; --watch follows the project and writes what changes',
  },
  proof: {
    run: proof,
    usage: 'proof PROJECT BUNDLE [--json]',
    help: 'compares a bundle (folder or ZIP) with the project that it came from: lossless files to the bit, lossy ones with what the bundle says of them, slots under light',
  },
  target: {
    run: target,
    usage: 'target BUNDLE [--device ID] [--json]',
    help: 'loads a bundle as a device does, given nothing else, and says what it refused or had to put right',
  },
  import: {
    run: importFiles,
    usage: 'import FILE… --server URL [--doubtful] [--author NAME] [--source TEXT] [--licence TEXT]',
    help: 'sends files to a running server, which recognises them and makes surfaces of them; files with an open question are left out unless --doubtful takes what is proposed',
  },
};

const overview = () =>
  [
    'jaunty: the heavy work of Jaunty Pebble on plain folders',
    '',
    ...Object.values(COMMANDS).map((c) => `  ${c.usage}\n      ${c.help}`),
    '',
    'A layout of r alone gives grey, with a it gives RGBA, else RGB.',
  ].join('\n');

/** Runs a command line. @throws UsageError for bad use, any other error for a failure. */
export async function run(argv: string[], cwd: string, print: Print, bands?: BandEvaluator): Promise<void> {
  const [name, ...args] = argv;
  if (name === '--help' || name === '-h' || name === 'help') return print(overview());
  if (!name) throw new UsageError(`Name a command: ${Object.keys(COMMANDS).join(', ')} (see --help)`);
  const command = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined;
  if (!command) throw new UsageError(`There is no command ${name}; there are ${Object.keys(COMMANDS).join(', ')}`);
  if (args.includes('--help') || args.includes('-h')) return print(`${command.usage}\n${command.help}`);
  await command.run(args, cwd, print, bands);
}
