import { STATE_NAME } from '@pebble/contracts';
import type { FastifyInstance } from 'fastify';
import type { PgStateStore } from '../store/states';

const UUID = { type: 'string', format: 'uuid' } as const;
const ID = { type: 'object', required: ['id'], properties: { id: UUID } } as const;
type WithId = { Params: { id: string } };

/** Named versions of the project: kept, compared, gone back to, let go. */
export function states(store: PgStateStore) {
  return async (app: FastifyInstance) => {
    app.get<{ Querystring: { document?: string } }>(
      '/states',
      {
        schema: {
          summary: 'Named versions of the project, newest first; with the version of one document in each',
          querystring: { type: 'object', properties: { document: { type: 'string', pattern: '^[A-Za-z0-9_-]{1,64}$' } } },
        },
      },
      ({ query }) => store.list(query.document),
    );
    app.post<{ Body: { id: string; name: string } }>(
      '/states',
      {
        schema: {
          summary: 'Keep the project as it is now under a name',
          body: { type: 'object', required: ['id', 'name'], additionalProperties: false, properties: { id: UUID, name: STATE_NAME } },
        },
      },
      async ({ body }, reply) => {
        await store.keep(body.name.trim(), body.id);
        return reply.status(204).send();
      },
    );
    app.get<WithId>('/states/:id/differences', { schema: { summary: 'What is otherwise now', params: ID } }, ({ params }) =>
      store.differences(params.id),
    );
    app.post<WithId & { Body: { keepAs: string } }>(
      '/states/:id/back',
      {
        schema: {
          summary: 'Go back to it; what there is now is kept as a named version first',
          params: ID,
          body: { type: 'object', required: ['keepAs'], additionalProperties: false, properties: { keepAs: UUID } },
        },
      },
      async ({ params, body }, reply) => {
        await store.goBack(params.id, body.keepAs);
        return reply.status(204).send();
      },
    );
    app.delete<WithId>('/states/:id', { schema: { summary: 'Let go of it', params: ID } }, async ({ params }, reply) => {
      await store.letGo(params.id);
      return reply.status(204).send();
    });
  };
}
