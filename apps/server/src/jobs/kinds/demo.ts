import type { GeneratorName } from '@pebble/core';
import { GENERATORS } from '@pebble/core';
import { generateSurfaceDocument } from '@pebble/usecases';
import { DEMO_SEEDS, demoDocuments } from '../../demo';
import { ServiceError } from '../../store/errors';
import type { Following, JobDefinition, Outcome } from '../kind';

/** The example project, small first so that it can be used at once; full-size pixels follow as jobs of their own. */
export const demo: JobDefinition<'demo'> = {
  ask: {
    summary: 'Add the Orrin Ridge example to an empty project',
    async order(_request, _document, { documents, jobs }) {
      if ((await documents.all('surface')).length) throw new ServiceError('not-empty', 'The example is for an empty project; this one has surfaces');
      if ((await jobs.list()).some((j) => j.kind === 'demo' && (j.status === 'waiting' || j.status === 'running')))
        throw new ServiceError('under-way', 'The example is being made already');
      return { label: 'Orrin Ridge', payload: {} };
    },
  },
  async run({ ports, report }) {
    const names = Object.keys(DEMO_SEEDS) as GeneratorName[];
    const create: NonNullable<Outcome['create']> = [];
    for (const [i, name] of names.entries())
      create.push({
        id: name,
        body: await generateSurfaceDocument(ports, { name, seed: DEMO_SEEDS[name], size: 256 }, (done) =>
          report((i + done) / names.length, GENERATORS[name].title),
        ),
      });
    create.push(...demoDocuments());
    const follow = names.map((name): Following => ({
      kind: 'generate',
      label: `${GENERATORS[name].title} at 1024²`,
      payload: { name, seed: DEMO_SEEDS[name], size: 1024, replace: name, silent: true },
    }));
    return {
      create,
      follow: [
        { kind: 'still', label: 'Copper still', payload: {} },
        { kind: 'hillside', label: 'Orrin Ridge hillside', payload: {} },
        ...follow,
        // Of surfaces at full size, and of the still.
        { kind: 'finished', label: 'Still and shed wall, stamped', payload: { silent: true } },
      ],
      result: {},
    };
  },
};
