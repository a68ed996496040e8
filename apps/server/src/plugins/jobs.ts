import { BAKE_SCHEMA, GENERATE_SCHEMA, IMPORT_SCHEMA, LAYOUT_SCHEMA, LOOK_SCHEMA, MESHES_SCHEMA, PACK_SCHEMA, REMAP_SCHEMA } from '@pebble/contracts';
import type { BakeRequest, ImportRequest, LayoutRequest, LookRequest, MeshesRequest, RemapRequest } from '@pebble/contracts';
import { GENERATORS, isGeneratorName, recipeOf } from '@pebble/core';
import { libraryOf, planRecipe, stackOf } from '@pebble/usecases';
import type { FastifyInstance } from 'fastify';
import type { PgDocumentStore } from '../store/documents';
import { ServiceError } from '../store/errors';
import type { PgJobStore } from '../store/jobs';

const ID = { type: 'object', required: ['id'], properties: { id: { type: 'string', format: 'uuid' } } } as const;

const DOCUMENT = { type: 'object', required: ['id'], properties: { id: { type: 'string', pattern: '^[A-Za-z0-9_-]{1,64}$' } } } as const;

/** Long work: started here, done by workers, followed through events. */
export function jobs(store: PgJobStore, documents: PgDocumentStore) {
  return async (app: FastifyInstance) => {
    app.get('/jobs', { schema: { summary: 'Open jobs and those that ended lately' } }, () => store.list());
    app.get<{ Params: { id: string } }>('/jobs/:id', { schema: { summary: 'One job', params: ID } }, ({ params }) => store.get(params.id));
    app.post<{ Params: { id: string } }>('/jobs/:id/cancel', { schema: { summary: 'Ask a job to end', params: ID } }, ({ params }) =>
      store.cancel(params.id),
    );

    app.post<{ Body: LookRequest }>(
      '/looks',
      { schema: { summary: 'Say what uploaded files are, from content and name', body: LOOK_SCHEMA } },
      ({ body }) => store.add('look', body.files.length === 1 ? `Look at ${body.files[0].fileName}` : `Look at ${body.files.length} files`, body),
    );

    app.post<{ Body: MeshesRequest }>('/specimens', { schema: { summary: 'Make specimens of uploaded meshes', body: MESHES_SCHEMA } }, ({ body }) =>
      store.add('meshes', body.meshes.length === 1 ? `Read ${body.meshes[0].fileName}` : `Read ${body.meshes.length} meshes`, body),
    );

    app.post<{ Params: { id: string }; Body: LayoutRequest }>(
      '/specimens/:id/layout',
      { schema: { summary: 'Add a set of texture coordinates: cut anew, or laid out again', params: DOCUMENT, body: LAYOUT_SCHEMA } },
      async ({ params, body }) => {
        const specimen = await documents.get(params.id);
        if (specimen.body.kind !== 'specimen') throw new ServiceError(422, 'no-specimen', 'Only specimens have texture coordinates');
        if (!Object.values(specimen.body.parts).some((p) => p.level === body.level))
          throw new ServiceError(422, 'no-level', `${specimen.body.name} has no level of detail ${body.level}`);
        return store.add('layout', `${body.how === 'unwrap' ? 'Unwrap' : 'Lay out'} ${specimen.body.name}`, { ...body, document: params.id });
      },
    );

    app.post<{ Params: { id: string }; Body: RemapRequest }>(
      '/surfaces/:id/maps',
      { schema: { summary: 'Make maps of a surface anew: other files, flags or steps', params: DOCUMENT, body: REMAP_SCHEMA } },
      async ({ params, body }) => {
        if ((await documents.get(params.id)).kind !== 'surface') throw new ServiceError(422, 'no-surface', 'Only surfaces have maps');
        return store.add('remap', body.label, { ...body, document: params.id });
      },
    );

    app.post<{ Body: ImportRequest }>('/imports', { schema: { summary: 'Make surfaces of uploaded files', body: IMPORT_SCHEMA } }, ({ body }) => {
      const count = body.surfaces.length;
      return store.add('import', count === 1 ? `Import ${body.surfaces[0].name}` : `Import ${count} surfaces`, body);
    });

    app.post<{ Body: { name: string; seed: number; size: number; replace?: string; amounts?: Record<string, number> } }>(
      '/generate',
      { schema: { summary: 'Draw a surface from a seed', body: GENERATE_SCHEMA } },
      ({ body }) => {
        if (!isGeneratorName(body.name))
          throw new ServiceError(
            422,
            'unknown-generator',
            `There is no generated surface called ${body.name}; there are ${Object.keys(GENERATORS).join(', ')}`,
          );
        const { structures } = recipeOf(body.name);
        const strange = Object.keys(body.amounts ?? {}).find((s) => !Object.hasOwn(structures, s));
        if (strange)
          throw new ServiceError(
            422,
            'unknown-structure',
            `${GENERATORS[body.name].title} has no structure called ${strange}; it has ${Object.keys(structures).join(', ')}`,
          );
        return store.add('generate', `Draw ${GENERATORS[body.name].title.toLowerCase()}`, body);
      },
    );

    app.post<{ Params: { id: string }; Body: BakeRequest }>(
      '/blends/:id/surface',
      { schema: { summary: 'Make a surface of a blend: over its square, or into the texture of a specimen', params: DOCUMENT, body: BAKE_SCHEMA } },
      async ({ params, body }) => {
        const all = Object.fromEntries((await documents.list()).map((d) => [d.id, d.body]));
        const blend = all[params.id];
        if (blend?.kind !== 'blend') throw new ServiceError(404, 'not-found', 'This blend does not exist, or no longer');
        const asset = body.asset === undefined ? null : all[body.asset];
        if (asset !== null && !(asset?.kind === 'asset' && asset.slots[body.slot ?? '']))
          throw new ServiceError(422, 'no-slot', 'This asset, or this slot of it, does not exist, or no longer');
        const onto = asset?.kind === 'asset' ? asset.specimen : body.specimen;
        if (onto !== undefined && all[onto]?.kind !== 'specimen')
          throw new ServiceError(422, 'no-specimen', 'Only a specimen that was brought in has a texture of its own. Choose one, or bake the square');
        // What cannot be shown is said now, not by a job that fails.
        stackOf(blend, libraryOf(all));
        return store.add('bake', `Make a surface of ${blend.name}`, { ...body, document: params.id });
      },
    );

    app.post<{ Body: { recipe: string; skip: string[] } }>(
      '/pack',
      { schema: { summary: 'Pack a recipe into a zip', body: PACK_SCHEMA } },
      async ({ body }) => {
        const all = Object.fromEntries((await documents.list()).map((d) => [d.id, d.body]));
        const recipe = all[body.recipe];
        if (recipe?.kind !== 'recipe') throw new ServiceError(404, 'not-found', 'This recipe does not exist, or no longer');
        const problem = planRecipe(recipe, all).find((f) => f.problem && !body.skip.includes(f.key));
        if (problem) throw new ServiceError(422, 'bad-plan', `${problem.name}: ${problem.problem}. Untick the file or change the recipe`);
        return store.add('pack', `Pack ${recipe.name}`, body);
      },
    );

    app.post('/demo', { schema: { summary: 'Add the Orrin Ridge example to an empty project' } }, async () => {
      if ((await documents.list()).some((d) => d.kind === 'surface'))
        throw new ServiceError(409, 'not-empty', 'The example is for an empty project; this one has surfaces');
      if ((await store.list()).some((j) => j.kind === 'demo' && (j.status === 'waiting' || j.status === 'running')))
        throw new ServiceError(409, 'under-way', 'The example is being made already');
      return store.add('demo', 'Orrin Ridge', {});
    });
  };
}
