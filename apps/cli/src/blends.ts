// Blend documents on the command line: evaluated to maps, cut through, and said in sentences.
import type { BlendDocument, BlendRole, MeshPlace } from '@pebble/core';
import {
  BLEND_ROLES,
  SentenceError,
  blendMaterial,
  coverageOf,
  coverageSentence,
  coverageText,
  inOrder,
  makeStack,
  materialFacts,
  parseCoverage,
  placeName,
} from '@pebble/core';
import type { BandEvaluator, Ingredients, MeshPorts, Placed } from '@pebble/usecases';
import { cutPlaced, evaluateSquare, gather, placeStack } from '@pebble/usecases';
import { writeSurface } from '@pebble/usecases/folder';
import { blendMesh, evaluateOnMesh } from '@pebble/usecases/on-mesh';
import { stat } from 'node:fs/promises';
import path from 'node:path';
import { Beside, pairs, readDocument } from './beside';
import { readMeshFile } from './meshes';
import type { Print } from './options';
import { UsageError, number, options, sizeOf } from './options';

const nothing = () => undefined;

/** A blend document with everything that it shows, from folders and other documents beside it. */
export class Shown {
  private constructor(
    readonly body: BlendDocument,
    private readonly beside: Beside,
  ) {}

  static async open(args: { file: string; cwd: string; surfaces: string[]; painted: string[] }): Promise<Shown> {
    const file = path.resolve(args.cwd, args.file);
    const body = await readDocument(file, 'blend', pairs(args.surfaces, 'surface'));
    const beside = Beside.at(file, args);
    await beside.within(body);
    return new Shown(body, beside);
  }

  stack() {
    const stack = makeStack(this.body, this.beside.facts, this.beside.blends);
    const problem = stack.problems.find((p) => p.code !== 'no-height');
    if (problem) throw new Error(problem.message);
    if (!stack.layers.length) throw new Error(`${this.body.name} has no layer that is switched on`);
    return stack;
  }

  ingredients = ({ material }: Placed, roles: readonly BlendRole[]): Promise<Ingredients> => gather(material, this.beside.reader(), roles, nothing);

  /** The blend where it is to be shown. A specimen that was brought into a project is not here: it then lies on the patch, as everywhere. */
  placed(roles: readonly BlendRole[], place: MeshPlace | null | undefined, print: Print): Promise<Placed> {
    const { paint, ...body } = this.body;
    if (paint?.[body.specimen]) print('What was painted on vertices lies in the project, not in the document; it is left out here');
    return placeStack(NO_PROJECT, this.stack(), body, {}, roles, place);
  }
}

/** Nothing of a project is here. */
const NO_PROJECT: MeshPorts = { blobs: { get: async () => new Uint8Array() } };

/** `SLOT`, `SLOT/PART` or `extent`; the largest slot where nothing is said. */
function placeOf(text: string | undefined): MeshPlace | null | undefined {
  if (text === undefined) return undefined;
  if (text === 'extent') return null;
  const [slot, ...part] = text.split('/');
  return part.length ? { slot, part: part.join('/') } : { slot };
}

const OPEN = { names: ['doc'], repeated: ['surface', 'painted'] };
const open = (values: Record<string, string>, many: Record<string, string[]>, cwd: string) =>
  Shown.open({ file: values['doc'], cwd, surfaces: many['surface'], painted: many['painted'] });

export async function blendDocument(args: string[], cwd: string, print: Print, bands?: BandEvaluator): Promise<void> {
  const { values, many } = options(args, [...OPEN.names, 'out', 'size', 'maps', 'mesh', 'place'], ['doc', 'out'], [], OPEN.repeated);
  const roles = (values['maps']?.split(',') ?? [...BLEND_ROLES]) as BlendRole[];
  for (const role of roles) if (!BLEND_ROLES.includes(role)) throw new UsageError(`--maps takes ${BLEND_ROLES.join(', ')}, not "${role}"`);
  if (values['mesh'] !== undefined && values['place'] !== undefined) throw new UsageError('Give either --mesh, for all of its texture, or --place');
  const size = sizeOf(values, 1024);
  const out = path.resolve(cwd, values['out']);
  await refuseFile(out, values['out']);
  const shown = await open(values, many, cwd);
  const mesh = values['mesh'] ? blendMesh((await readMeshFile(values['mesh'], cwd)).model, shown.body.extentM) : null;
  const placed: Placed = mesh
    ? { material: blendMaterial(shown.stack(), { standing: mesh.standing }), on: null }
    : await shown.placed(roles, placeOf(values['place']), print);
  const { material, on } = placed;
  for (const { message } of material.problems) print(message);
  if (on) print(`Shows ${placeName(on.place)} of the specimen ${shown.body.specimen}`);
  const from = await shown.ingredients(placed, roles);
  const maps = mesh
    ? evaluateOnMesh(material, from, mesh, size, roles, nothing)
    : await evaluateSquare({ bands }, placed, from, size, roles, nothing);
  const stem = path.basename(values['doc']).replace(/\.json$/, '');
  await writeSurface(out, stem, maps, mesh ? { ...materialFacts(material), sizeM: mesh.sideM } : materialFacts(material));
}

/** Maps go into a folder. @throws Error when a file bears its name */
async function refuseFile(folder: string, said: string): Promise<void> {
  const there = await stat(folder).catch(() => null);
  if (there && !there.isDirectory()) throw new Error(`${said} is a file; --out names the folder that the maps are written into. Choose another name`);
}

export async function section(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, many, on } = options(args, [...OPEN.names, 'line', 'samples', 'place'], ['doc', 'line'], ['json'], OPEN.repeated);
  const ends = values['line'].split(',').map(Number);
  if (ends.length !== 4 || ends.some((v) => !Number.isFinite(v))) throw new UsageError(`--line takes u0,v0,u1,v1, not "${values['line']}"`);
  const samples = number(values, 'samples', 256, 1, 65536, true);
  const shown = await open(values, many, cwd);
  const placed = await shown.placed(BLEND_ROLES, placeOf(values['place']), nothing);
  const [ax, ay, bx, by] = ends;
  const cut = cutPlaced(placed, await shown.ingredients(placed, ['height']), { ax, ay, bx, by }, samples);
  const name = (id: string) => shown.body.layers[id].name;
  if (on.has('json')) {
    const layers = cut.layers.map((l) => ({ id: l.id, name: name(l.id), height: [...l.profile], weight: [...l.weight], share: [...l.share] }));
    return print(JSON.stringify({ lengthM: cut.lengthM, height: [...cut.height], layers, winner: [...cut.winner].map((i) => cut.layers[i].id) }));
  }
  const mm = (v: number) => (v * 1000).toFixed(2).padStart(8);
  print(`${(cut.lengthM * 1000).toFixed(0)} mm, ${samples} samples; heights in mm, shares in percent`);
  print(`   along    height  ${cut.layers.map((l) => name(l.id).slice(0, 16).padStart(16)).join('  ')}`);
  for (let i = 0; i < samples; i++)
    print(
      `${mm(((i + 0.5) / samples) * cut.lengthM)}  ${mm(cut.height[i])}  ${cut.layers.map((l) => `${mm(l.profile[i])} ${(l.share[i] * 100).toFixed(1).padStart(6)}%`).join('  ')}`,
    );
}

export async function sentence(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, on } = options(args, ['doc', 'parse'], [], ['json', 'full']);
  if ((values['doc'] === undefined) === (values['parse'] === undefined)) throw new UsageError('Give either --doc FILE or --parse TEXT');
  if (values['parse'] !== undefined) {
    try {
      const { name, coverage } = parseCoverage(values['parse']);
      return print(on.has('json') ? JSON.stringify(coverage, null, 2) : coverageSentence(name ?? 'It is', coverage));
    } catch (error) {
      if (!(error instanceof SentenceError)) throw error;
      throw new Error(`${values['parse']}\n${' '.repeat(error.at)}^\n${error.message}`);
    }
  }
  const body = await readDocument(path.resolve(cwd, values['doc']), 'blend');
  const layers = inOrder(body.layers).map((layer, i) => {
    const coverage = coverageOf(body, layer);
    return {
      id: layer.id,
      name: layer.name,
      ground: i === 0,
      sentence: i ? coverageSentence(layer.name, coverage) : `${layer.name} below everything`,
      text: coverageText(coverage),
    };
  });
  if (on.has('json')) return print(JSON.stringify(layers, null, 2));
  for (const layer of layers) print(on.has('full') && !layer.ground ? `${layer.name} ${layer.text}` : layer.sentence);
}
