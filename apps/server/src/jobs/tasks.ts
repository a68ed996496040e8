import type { BakeRequest, FetchRequest, LayoutRequest, LookRequest, MeshesRequest, RemapRequest } from '@pebble/contracts';
import type { Amounts, AnyDocument, GeneratorName, ProjectDocument, RecipeDocument } from '@pebble/core';
import { GENERATORS, editBetween, nameSlug, setsOf } from '@pebble/core';
import { FormatError, probeImage, zipStream } from '@pebble/formats';
import { readGltf } from '@pebble/formats/mesh';
import type { IncomingSurface, NamedBlob, SentFile } from '@pebble/usecases';
import {
  UseCaseError,
  changeMaps,
  generateSurfaceDocument,
  importSurface,
  inPlaceOf,
  libraryOf,
  lookAtFiles,
  packRecipe,
  planImport,
  planRequests,
} from '@pebble/usecases';
import { layOut } from '@pebble/usecases/layout';
import { importMesh, keepModel, readAgain } from '@pebble/usecases/specimens';
import { surfaceOfBlend } from '@pebble/usecases/surface-of-blend';
import { randomUUID } from 'node:crypto';
import { Quarry } from '../quarry/client';
import { DEMO_SEEDS, demoDocuments } from '../demo';
import type { Outcome } from './protocol';
import { stillTask } from './still';
import type { TaskContext } from './task';

type Task = (context: TaskContext, payload: never) => Promise<Outcome>;

async function importTask({ ports, report }: TaskContext, { surfaces }: { surfaces: IncomingSurface[] }): Promise<Outcome> {
  const create: NonNullable<Outcome['create']> = [];
  for (const [i, surface] of surfaces.entries())
    create.push({ body: await importSurface(ports, surface, (done, note) => report((i + done) / surfaces.length, `${surface.name}: ${note}`)) });
  return { create, result: {} };
}

async function lookTask({ ports, report }: TaskContext, { files }: LookRequest): Promise<Outcome> {
  return { result: { files: await lookAtFiles(ports, files, report) } };
}

async function fetchTask({ ports, report }: TaskContext, { id, size, author, licence, base }: FetchRequest & { base: string }): Promise<Outcome> {
  const quarry = new Quarry(base);
  const { title, sizeM, reliefM, files } = await quarry.files(id, size);
  const total = files.reduce((sum, f) => sum + f.bytes, 0);
  const kept: { blob: string; fileName: string }[] = [];
  let before = 0;
  for (const file of files) {
    const bytes = await quarry.download(id, size, file, (share, attempt) =>
      report((0.7 * (before + share * file.bytes)) / total, attempt > 1 ? `${file.name}, try ${attempt}` : file.name),
    );
    kept.push({ blob: await ports.blobs.put(bytes, 'application/octet-stream'), fileName: file.name });
    before += file.bytes;
  }
  // What the quarry says that its files hold is looked at like anybody's.
  const plan = planImport(await sentFiles(kept, ports), await lookAtFiles(ports, kept, (done, note) => report(0.7 + 0.1 * done, note)));
  const [bad] = plan.refused;
  if (bad) throw new UseCaseError('unreadable-file', bad.problem ?? 'A file of the quarry cannot be read');
  const maps = planRequests(plan).flatMap((r) => r.surfaces.flatMap((s) => s.maps));
  const incoming = { name: title, sizeM, reliefM, maps, origin: { author, source: `The quarry, ${id} at ${size}²`, licence } };
  return { create: [{ body: await importSurface(ports, incoming, (done, note) => report(0.8 + 0.2 * done, note)) }], result: {} };
}

/** What is said of a file that cannot be read. */
const NO_FILE = { blob: null, width: 0, height: 0, channels: 0, depth: 8 } as const;

/** Files that are kept already, as an upload would have told of them. */
async function sentFiles(files: readonly { blob: string; fileName: string }[], { blobs }: TaskContext['ports']): Promise<SentFile[]> {
  const out: SentFile[] = [];
  for (const { blob, fileName } of files) {
    try {
      out.push({ blob, fileName, ...probeImage(await blobs.get(blob)), problem: null });
    } catch (error) {
      out.push({ ...NO_FILE, fileName, problem: `${fileName}: ${(error as Error).message}` });
    }
  }
  return out;
}

/**
 * Meshes become specimens at once; the pictures that they carry are told of, to be asked about like any others. A file that
 * is there already is not read twice; the only one of its name, come with other bytes, is read again into its specimen.
 */
async function meshesTask({ ports, report, documents }: TaskContext, { meshes, companions }: MeshesRequest): Promise<Outcome> {
  const create: NonNullable<Outcome['create']> = [];
  const edit: NonNullable<Outcome['edit']> = [];
  const there = (await documents()).flatMap(({ id, body }) => (body.kind === 'specimen' ? [{ id, body }] : []));
  const pictures: NamedBlob[] = [];
  const refused: SentFile[] = [];
  for (const [i, mesh] of meshes.entries())
    try {
      const alike = there.filter((s) => s.body.file.fileName === mesh.fileName);
      if (alike.some((s) => s.body.file.blob === mesh.blob)) continue;
      // Several of one name are different things of different folders: none takes the place of another.
      const old = meshes.filter((m) => m.fileName === mesh.fileName).length === 1 && alike.length === 1 ? alike[0] : null;
      const made = await importMesh(ports, mesh, companions, (done, note) => report((i + done) / meshes.length, note));
      if (old) {
        const label = `Read ${mesh.fileName} again`;
        const { patch } = editBetween(old.body, readAgain(old.body, made.body), label);
        edit.push({ id: old.id, patch, label });
      } else create.push({ body: made.body });
      pictures.push(...made.pictures);
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      const where = error.byte === undefined ? '' : ` (byte ${error.byte})`;
      refused.push({ ...NO_FILE, fileName: mesh.fileName, problem: `${mesh.fileName}: ${error.message}${where}.` });
    }
  return { create, edit, result: { files: [...(await sentFiles(pictures, ports)), ...refused] } };
}

async function layoutTask(
  { ports, report, documents }: TaskContext,
  { document, how, level }: LayoutRequest & { document: string },
): Promise<Outcome> {
  const old = (await documents()).find((d) => d.id === document)?.body;
  if (old?.kind !== 'specimen') throw new UseCaseError('missing-specimen', 'This specimen was deleted while it was being laid out');
  const { model } = await readGltf(await ports.blobs.get(old.model));
  // Other levels may have got sets that this one has not.
  const sets = model.lods[level]?.map((p) => setsOf(p).length) ?? [];
  const made = await layOut(model, how, level, Math.max(0, Math.min(old.uvSet, ...sets.map((n) => n - 1))), old, report);
  report(0.95, 'Keeping it');
  const label = how === 'unwrap' ? `Unwrap ${old.name}` : `Lay ${old.name} out again`;
  const { patch } = editBetween(old, { ...old, ...(await keepModel(ports, old.name, made.model, old)), uvSet: made.set }, label);
  return { edit: [{ id: document, patch, label }], result: { set: made.set } };
}

async function remapTask(
  { ports, report, documents }: TaskContext,
  { document, label, changes }: RemapRequest & { document: string },
): Promise<Outcome> {
  const old = (await documents()).find((d) => d.id === document);
  if (old?.body.kind !== 'surface') throw new UseCaseError('missing-surface', 'This surface was deleted while its maps were being made');
  const { patch } = editBetween(old.body, await changeMaps(ports, old.body, changes, report), label);
  return { edit: patch.length ? [{ id: document, patch, label }] : [], result: {} };
}

interface GeneratePayload {
  name: GeneratorName;
  seed: number;
  size: number;
  amounts?: Amounts;
  /** Document whose pixels are drawn anew; its name, size and relief stay. */
  replace?: string;
  silent?: boolean;
}

async function generateTask({ ports, report, documents }: TaskContext, { replace, silent = false, ...order }: GeneratePayload): Promise<Outcome> {
  const made = await generateSurfaceDocument(ports, order, report);
  if (!replace) return { create: [{ body: made }], result: {} };
  const old = (await documents()).find((d) => d.id === replace);
  if (old?.body.kind !== 'surface') throw new UseCaseError('missing-surface', `${GENERATORS[order.name].title} was deleted while it was being drawn`);
  const title = old.body.name;
  return {
    replace: [
      {
        id: replace,
        body: await inPlaceOf(ports, old.body, made, report),
        label: order.amounts ? `Draw ${title} anew` : `Draw ${title} from seed ${order.seed}`,
        silent,
      },
    ],
    result: {},
  };
}

async function packTask({ ports, report, documents }: TaskContext, { recipe, skip }: { recipe: string; skip: string[] }): Promise<Outcome> {
  const all: Record<string, AnyDocument> = Object.fromEntries((await documents()).map((d) => [d.id, d.body]));
  const body = all[recipe] as RecipeDocument | undefined;
  if (body?.kind !== 'recipe') throw new UseCaseError('missing-recipe', 'This recipe was deleted before it could be packed');
  const project = Object.values(all).find((d): d is ProjectDocument => d.kind === 'project');
  const names: string[] = [];
  const entries = packRecipe(ports, body, all, project?.exportNormal ?? 'y+', new Set(skip), report);
  const named = (async function* () {
    for await (const entry of entries) {
      names.push(entry.name);
      yield entry;
    }
  })();
  const { hash, bytes } = await ports.blobs.putStream(zipStream(named), 'application/zip');
  return { result: { blob: hash, bytes, files: names, fileName: `${nameSlug(body.name)}.zip` } };
}

async function bakeTask(
  { ports, report, documents }: TaskContext,
  { document, size, specimen, asset, slot: key, place }: BakeRequest & { document: string },
): Promise<Outcome> {
  const all: Record<string, AnyDocument> = Object.fromEntries((await documents()).map((d) => [d.id, d.body]));
  const blend = all[document];
  if (blend?.kind !== 'blend') throw new UseCaseError('missing-blend', 'This blend was deleted before it could be baked');
  const of = asset === undefined ? null : all[asset];
  const slot = of?.kind === 'asset' ? of.slots[key ?? ''] : undefined;
  if (of !== null && !slot) throw new UseCaseError('missing-slot', 'This slot of the asset was deleted before it could be baked');
  const onto = of?.kind === 'asset' ? of.specimen : specimen;
  const id = randomUUID();
  return { create: [{ id, body: await surfaceOfBlend(ports, blend, libraryOf(all), { size, onto, slot, place }, report) }], result: { surface: id } };
}

/** The example project, small first so that it can be used at once; full-size pixels follow as jobs of their own. */
async function demoTask({ ports, report }: TaskContext): Promise<Outcome> {
  const names = Object.keys(DEMO_SEEDS) as GeneratorName[];
  const create: NonNullable<Outcome['create']> = [];
  for (const [i, name] of names.entries())
    create.push({
      id: name,
      body: await generateSurfaceDocument(ports, { name, seed: DEMO_SEEDS[name], size: 256 }, (done) =>
        report((i + done) / names.length, GENERATORS[name].title),
      ),
    });
  create.push(...demoDocuments());
  const follow = names.map((name) => ({
    kind: 'generate',
    label: `${GENERATORS[name].title} at 1024²`,
    payload: { name, seed: DEMO_SEEDS[name], size: 1024, replace: name, silent: true },
  }));
  return { create, follow: [{ kind: 'still', label: 'Copper still', payload: {} }, ...follow], result: {} };
}

export const TASKS: Record<string, Task> = {
  look: lookTask,
  fetch: fetchTask,
  import: importTask,
  meshes: meshesTask,
  layout: layoutTask,
  remap: remapTask,
  generate: generateTask,
  pack: packTask,
  bake: bakeTask,
  demo: demoTask,
  still: stillTask,
};
