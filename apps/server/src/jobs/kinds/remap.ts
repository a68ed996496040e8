import { REMAP_SCHEMA } from '@pebble/contracts';
import { editBetween } from '@pebble/core';
import { UseCaseError, changeMaps } from '@pebble/usecases';
import { ServiceError, notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

export const remap: JobDefinition<'remap'> = {
  ask: {
    summary: 'Make maps of a surface anew: other files, flags or steps',
    body: REMAP_SCHEMA,
    async order(request, document, { documents }) {
      const surface = await documents.find('surface', document);
      if (!surface) throw notFound('This surface');
      if (surface.stamped)
        throw new ServiceError(
          'stamped',
          `The maps of ${surface.name} come of another surface and the stamps on it. Change that one, then press its stamps anew in Paint`,
        );
      return { label: request.label, payload: { ...request, document } };
    },
  },
  async run({ ports, report, documents }, { document, label, changes }) {
    const old = await documents.find('surface', document);
    if (!old) throw new UseCaseError('missing-surface', 'This surface was deleted while its maps were being made');
    const { patch } = editBetween(old, await changeMaps(ports, old, changes, report), label);
    return { edit: patch.length ? [{ id: document, patch, label }] : [], result: {} };
  },
};
