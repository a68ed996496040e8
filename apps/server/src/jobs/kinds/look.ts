import { LOOK_SCHEMA } from '@pebble/contracts';
import { lookAtFiles } from '@pebble/usecases';
import type { JobDefinition } from '../kind';

export const look: JobDefinition<'look'> = {
  ask: {
    summary: 'Say what uploaded files are, from content and name',
    body: LOOK_SCHEMA,
    order: (request) => ({
      label: request.files.length === 1 ? `Look at ${request.files[0].fileName}` : `Look at ${request.files.length} files`,
      payload: request,
    }),
  },
  run: async ({ ports, report }, { files }) => ({ result: { files: await lookAtFiles(ports, files, report) } }),
};
