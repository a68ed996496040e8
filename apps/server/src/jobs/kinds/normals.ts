import { NORMALS_SCHEMA } from '@pebble/contracts';
import type { NormalsRequest } from '@pebble/contracts';
import { editBetween } from '@pebble/core';
import type { DocumentStore } from '@pebble/usecases';
import { UseCaseError } from '@pebble/usecases';
import { planTurn, turnedSurface } from '@pebble/usecases/turned-normals';
import { notFound } from '../../store/errors';
import { assetAround } from '../asset-around';
import type { JobDefinition } from '../kind';

/** What is to be turned, as it is now; null where the asset is gone. */
async function planned(documents: DocumentStore, document: string, request: NormalsRequest) {
  const found = await assetAround(documents, document, [request.surface]);
  return found && planTurn(found.asset, request, found);
}

/** The normal map of what a mesh wears is turned by the mesh: into its tangents, or along the axes of the object. */
export const normals: JobDefinition<'normals'> = {
  ask: {
    summary: 'Turn the normals of what slots of an asset wear into tangents of the mesh, or along its axes',
    body: NORMALS_SCHEMA,
    async order(request, document, { documents }) {
      const plan = await planned(documents, document, request);
      if (!plan) throw notFound('This asset');
      return { label: `Turn the normals of ${plan.surface.name}`, payload: { ...request, document } };
    },
  },
  async run({ ports, report, documents }, { document, ...request }) {
    const plan = await planned(documents, document, request);
    if (!plan) throw new UseCaseError('missing-specimen', 'This asset was deleted before its normals could be turned');
    const body = await turnedSurface(ports, plan, request.to, report);
    const label = request.to === 'tangent' ? 'Normals into tangents' : 'Normals along the object';
    return { edit: [{ id: request.surface, patch: editBetween(plan.surface, body, label).patch, label }], result: {} };
  },
};
