import { GENERATE_SCHEMA } from '@pebble/contracts';
import { GENERATORS, isGeneratorName, recipeOf } from '@pebble/core';
import { UseCaseError, generateSurfaceDocument, inPlaceOf } from '@pebble/usecases';
import { ServiceError } from '../../store/errors';
import type { JobDefinition } from '../kind';

export const generate: JobDefinition<'generate'> = {
  ask: {
    summary: 'Draw a surface from a seed',
    body: GENERATE_SCHEMA,
    order(request) {
      const { name } = request;
      if (!isGeneratorName(name))
        throw new ServiceError(
          'unknown-generator',
          `There is no generated surface called ${String(name)}; there are ${Object.keys(GENERATORS).join(', ')}`,
        );
      const { title } = GENERATORS[name];
      const { structures } = recipeOf(name);
      const strange = Object.keys(request.amounts ?? {}).find((s) => !Object.hasOwn(structures, s));
      if (strange)
        throw new ServiceError('unknown-structure', `${title} has no structure called ${strange}; it has ${Object.keys(structures).join(', ')}`);
      return { label: `Draw ${title.toLowerCase()}`, payload: request };
    },
  },
  async run({ ports, report, documents }, { replace, silent = false, ...order }) {
    const made = await generateSurfaceDocument(ports, order, report);
    if (!replace) return { create: [{ body: made }], result: {} };
    const old = await documents.find('surface', replace);
    if (!old) throw new UseCaseError('missing-surface', `${GENERATORS[order.name].title} was deleted while it was being drawn`);
    const label = order.amounts ? `Draw ${old.name} anew` : `Draw ${old.name} from seed ${order.seed}`;
    return { replace: [{ id: replace, body: await inPlaceOf(ports, old, made, report), label, silent }], result: {} };
  },
};
