import { hillsideDocuments } from '@pebble/usecases/hillside';
import type { JobDefinition } from '../kind';

/** The hillside of the example, with its ground. */
export const hillside: JobDefinition<'hillside'> = {
  run: async ({ ports, report }) => ({ create: await hillsideDocuments(ports, report), result: {} }),
};
