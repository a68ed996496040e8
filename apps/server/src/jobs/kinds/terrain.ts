import { TERRAIN_SCHEMA } from '@pebble/contracts';
import { FormatError } from '@pebble/formats';
import { UseCaseError } from '@pebble/usecases';
import { terrainSpecimen } from '@pebble/usecases/terrain';
import type { JobDefinition } from '../kind';

/** Heights become a specimen in true metres. */
export const terrain: JobDefinition<'terrain'> = {
  ask: {
    summary: 'Make a terrain of heights',
    body: TERRAIN_SCHEMA,
    order: (request) => ({ label: `Make the terrain ${request.name}`, payload: request }),
  },
  async run({ ports, report }, request) {
    try {
      return { create: [{ body: await terrainSpecimen(ports, request, report) }], result: {} };
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      throw new UseCaseError('unreadable-file', `${request.heights?.fileName ?? ''}: ${error.message}`, request.heights?.fileName);
    }
  },
};
