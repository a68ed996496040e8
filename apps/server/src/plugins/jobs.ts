import type { AskedKind, JobKind, JobRequest } from '@pebble/contracts';
import { JOBS } from '@pebble/contracts';
import type { FastifyInstance } from 'fastify';
import type { AskContext, JobDefinition, Order } from '../jobs/kind';
import { DEFINITIONS } from '../jobs/kinds';
import type { PgJobStore } from '../store/jobs';

const ID = { type: 'object', required: ['id'], properties: { id: { type: 'string', format: 'uuid' } } } as const;
const DOCUMENT = { type: 'object', required: ['id'], properties: { id: { type: 'string', pattern: '^[A-Za-z0-9_-]{1,64}$' } } } as const;

/** Long work: started here, done by workers, followed through events. */
export function jobs(store: PgJobStore, around: Omit<AskContext, 'jobs'>) {
  return async (app: FastifyInstance) => {
    app.get('/jobs', { schema: { summary: 'Open jobs and those that ended lately' } }, () => store.list());
    app.get<{ Params: { id: string } }>('/jobs/:id', { schema: { summary: 'One job', params: ID } }, ({ params }) => store.get(params.id));
    app.post<{ Params: { id: string } }>('/jobs/:id/cancel', { schema: { summary: 'Ask a job to end', params: ID } }, ({ params }) =>
      store.cancel(params.id),
    );
    for (const kind of Object.keys(DEFINITIONS) as JobKind[]) asked(kind, DEFINITIONS[kind]);

    function asked<K extends JobKind>(kind: K, { ask }: JobDefinition<K>): void {
      if (!ask) return;
      const path = JOBS[kind as AskedKind].path;
      const { summary, body } = ask;
      app.post<{ Params: { id?: string }; Body: unknown }>(
        path,
        { schema: { summary, ...(body ? { body } : {}), ...(path.includes(':id') ? { params: DOCUMENT } : {}) } },
        async ({ params, body: request }) => {
          const { label, payload }: Order<K> = await ask.order(request as JobRequest<K>, params.id ?? '', { ...around, jobs: store });
          return store.add(kind, label, payload);
        },
      );
    }
  };
}
