import { PACK_SCHEMA } from '@pebble/contracts';
import { nameSlug } from '@pebble/core';
import { zipStream } from '@pebble/formats';
import { UseCaseError, packRecipe, planRecipe } from '@pebble/usecases';
import { ServiceError, notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

export const pack: JobDefinition<'pack'> = {
  ask: {
    summary: 'Pack a recipe into a zip',
    body: PACK_SCHEMA,
    async order(request, _document, { documents }) {
      const all = await documents.reach([request.recipe]);
      const recipe = all[request.recipe];
      if (recipe?.kind !== 'recipe') throw notFound('This recipe');
      const bad = planRecipe(recipe, all).find((f) => f.problem && !request.skip.includes(f.key));
      if (bad) throw new ServiceError('bad-plan', `${bad.name}: ${bad.problem}. Untick the file or change the recipe`);
      return { label: `Pack ${recipe.name}`, payload: request };
    },
  },
  async run({ ports, report, documents }, { recipe: id, skip }) {
    const all = await documents.reach([id]);
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
