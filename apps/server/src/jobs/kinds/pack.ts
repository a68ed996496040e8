import { PACK_SCHEMA } from '@pebble/contracts';
import type { AnyDocument } from '@pebble/core';
import { nameSlug } from '@pebble/core';
import { zipStream } from '@pebble/formats';
import type { DocumentStore } from '@pebble/usecases';
import { UseCaseError, packRecipe, planRecipe } from '@pebble/usecases';
import { ServiceError, notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

/** A recipe with all that it names, and the project and its targets, which names may hold. */
async function around(documents: DocumentStore, recipe: string): Promise<Readonly<Record<string, AnyDocument>>> {
  const others = [...(await documents.all('project')), ...(await documents.all('target'))];
  return { ...Object.fromEntries(others.map(({ id, body }) => [id, body])), ...(await documents.reach([recipe])) };
}

export const pack: JobDefinition<'pack'> = {
  ask: {
    summary: 'Pack a recipe into a zip',
    body: PACK_SCHEMA,
    async order(request, _document, { documents }) {
      const all = await around(documents, request.recipe);
      const recipe = all[request.recipe];
      if (recipe?.kind !== 'recipe') throw notFound('This recipe');
      const bad = planRecipe(recipe, all).find((f) => f.problem && !request.skip.includes(f.key));
      if (bad) throw new ServiceError('bad-plan', `${bad.name}: ${bad.problem}. Untick the file or change the recipe`);
      return { label: `Pack ${recipe.name}`, payload: request };
    },
  },
  async run({ ports, report, documents }, { recipe: id, skip }) {
    const all = await around(documents, id);
    const recipe = all[id];
    if (recipe?.kind !== 'recipe') throw new UseCaseError('missing-recipe', 'This recipe was deleted before it could be packed');
    const [project] = await documents.all('project');
    const files: string[] = [];
    const entries = packRecipe(ports, recipe, all, project?.body.exportNormal ?? 'y+', new Set(skip), report);
    const named = (async function* () {
      for await (const entry of entries) {
        files.push(entry.name);
        yield entry;
      }
    })();
    const { hash, bytes } = await ports.blobs.putStream(zipStream(named), 'application/zip');
    return { result: { blob: hash, bytes, files, fileName: `${nameSlug(recipe.name)}.zip` } };
  },
};
