import { LAYOUT_SCHEMA } from '@pebble/contracts';
import { editBetween, setsOf } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { UseCaseError } from '@pebble/usecases';
import { layOut } from '@pebble/usecases/layout';
import { keepModel } from '@pebble/usecases/specimens';
import { ServiceError, notFound } from '../../store/errors';
import type { JobDefinition } from '../kind';

export const layout: JobDefinition<'layout'> = {
  ask: {
    summary: 'Add a set of texture coordinates: cut anew, or laid out again',
    body: LAYOUT_SCHEMA,
    async order(request, document, { documents }) {
      const specimen = await documents.find('specimen', document);
      if (!specimen) throw notFound('This specimen');
      if (!Object.values(specimen.parts).some((p) => p.level === request.level))
        throw new ServiceError('no-level', `${specimen.name} has no level of detail ${request.level}`);
      return { label: `${request.how === 'unwrap' ? 'Unwrap' : 'Lay out'} ${specimen.name}`, payload: { ...request, document } };
    },
  },
  async run({ ports, report, documents }, { document, how, level }) {
    const old = await documents.find('specimen', document);
    if (!old) throw new UseCaseError('missing-specimen', 'This specimen was deleted while it was being laid out');
    const { model } = await readGltf(await ports.blobs.get(old.model));
    // Other levels may have got sets that this one has not.
    const sets = model.lods[level]?.map((p) => setsOf(p).length) ?? [];
    const made = await layOut(model, how, level, Math.max(0, Math.min(old.uvSet, ...sets.map((n) => n - 1))), old, report);
    report(0.95, 'Keeping it');
    const label = how === 'unwrap' ? `Unwrap ${old.name}` : `Lay ${old.name} out again`;
    const { patch } = editBetween(old, { ...old, ...(await keepModel(ports, old.name, made.model, old)), uvSet: made.set }, label);
    return { edit: [{ id: document, patch, label }], result: { set: made.set } };
  },
};
