import { IMPORT_SCHEMA } from '@pebble/contracts';
import { importSurface } from '@pebble/usecases';
import type { JobDefinition, Outcome } from '../kind';

export const imports: JobDefinition<'import'> = {
  ask: {
    summary: 'Make surfaces of uploaded files',
    body: IMPORT_SCHEMA,
    order: (request) => ({
      label: request.surfaces.length === 1 ? `Import ${request.surfaces[0].name}` : `Import ${request.surfaces.length} surfaces`,
      payload: request,
    }),
  },
  async run({ ports, report }, { surfaces }) {
    const create: NonNullable<Outcome['create']> = [];
    for (const [i, surface] of surfaces.entries())
      create.push({ body: await importSurface(ports, surface, (done, note) => report((i + done) / surfaces.length, `${surface.name}: ${note}`)) });
    return { create, result: {} };
  },
};
