import type { FetchRequest, LookRequest, RemapRequest, StoredDocument } from '@pebble/contracts';
import type { Amounts, AnyDocument, GeneratorName, ProjectDocument, RecipeDocument } from '@pebble/core';
import { GENERATORS, editBetween, nameSlug } from '@pebble/core';
import { probeImage, zipStream } from '@pebble/formats';
import type { IncomingSurface, Ports, Report, SentFile } from '@pebble/usecases';
import {
  UseCaseError,
  changeMaps,
  generateSurfaceDocument,
  importSurface,
  inPlaceOf,
  lookAtFiles,
  packRecipe,
  planImport,
  planRequests,
} from '@pebble/usecases';
import { Quarry } from '../quarry/client';
import type { PgBlobStore } from '../store/blobs';
import { DEMO_SEEDS, demoDocuments } from '../demo';
import type { Outcome } from './protocol';

export interface TaskContext {
  ports: Ports & { blobs: PgBlobStore };
  documents: () => Promise<StoredDocument[]>;
  report: Report;
}
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

/** Files that are kept already, as an upload would have told of them. */
async function sentFiles(files: readonly { blob: string; fileName: string }[], { blobs }: TaskContext['ports']): Promise<SentFile[]> {
  const out: SentFile[] = [];
  for (const { blob, fileName } of files) {
    try {
      out.push({ blob, fileName, ...probeImage(await blobs.get(blob)), problem: null });
    } catch (error) {
      out.push({ blob: null, fileName, width: 0, height: 0, channels: 0, depth: 8, problem: `${fileName}: ${(error as Error).message}` });
    }
  }
  return out;
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
  return { create, follow, result: {} };
}

export const TASKS: Record<string, Task> = {
  look: lookTask,
  fetch: fetchTask,
  import: importTask,
  remap: remapTask,
  generate: generateTask,
  pack: packTask,
  demo: demoTask,
};
