import { PREFLIGHT_SCHEMA } from '@pebble/contracts';
import { lookAtMeshes, planDelivery, targetsOf } from '@pebble/usecases/deliver';
import type { JobDefinition } from '../kind';
import { projectDocuments } from './project-documents';

export const preflight: JobDefinition<'preflight'> = {
  ask: {
    summary: 'Look at the meshes of what would be delivered; everything else documents tell by themselves',
    body: PREFLIGHT_SCHEMA,
    async order(request, _, { documents }) {
      targetsOf(await projectDocuments(documents), request);
      return { label: 'Preflight', payload: request };
    },
  },
  async run({ ports, report, documents }, request) {
    const all = await projectDocuments(documents);
    return { result: { seen: await lookAtMeshes(ports, planDelivery(all, request), all, report) } };
  },
};
