import type { LookRequest, RemapRequest, StoredDocument } from '@pebble/contracts';
import type { Amounts, AnyDocument, GeneratorName, ProjectDocument, RecipeDocument } from '@pebble/core';
import { GENERATORS, editBetween, nameSlug } from '@pebble/core';
import { zipStream } from '@pebble/formats';
import type { IncomingSurface, Ports, Report } from '@pebble/usecases';
import { UseCaseError, changeMaps, generateSurfaceDocument, importSurface, inPlaceOf, lookAtFiles, packRecipe } from '@pebble/usecases';
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
  import: importTask,
  remap: remapTask,
  generate: generateTask,
  pack: packTask,
  demo: demoTask,
};
