import { REMAP_SCHEMA } from '@pebble/contracts';
import { editBetween } from '@pebble/core';
import { UseCaseError, changeMaps } from '@pebble/usecases';
import { notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

export const remap: JobDefinition<'remap'> = {
  ask: {
    summary: 'Make maps of a surface anew: other files, flags or steps',
    body: REMAP_SCHEMA,
    async order(request, document, { documents }) {
      if (!(await documents.find('surface', document))) throw notFound('This surface');
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
