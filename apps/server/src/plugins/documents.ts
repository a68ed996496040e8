import { EDIT_SCHEMA, MAX_WHOLE } from '@pebble/contracts';
import type { FastifyInstance } from 'fastify';
import type { EditRequest, PgDocumentStore } from '../store/documents';

const ID = { type: 'object', required: ['id'], properties: { id: { type: 'string', pattern: '^[A-Za-z0-9_-]{1,64}$' } } } as const;
const OP = { type: 'string', pattern: '^[0-9a-f-]{36}$' } as const;
type WithId = { Params: { id: string } };

/** Documents: read, create, edit, undo, redo, history, delete and bring back. */
export function documents(store: PgDocumentStore) {
  return async (app: FastifyInstance) => {
    app.get('/documents', { schema: { summary: 'All documents of the project, as lists show them' } }, () => store.list());
    app.post<{ Body: { ids: string[] } }>(
      '/documents/whole',
      {
        schema: {
          summary: 'Several documents whole; those that are not there are left out',
          body: {
            type: 'object',
            required: ['ids'],
            additionalProperties: false,
            properties: { ids: { type: 'array', maxItems: MAX_WHOLE, items: ID.properties.id } },
          },
        },
      },
      ({ body }) => store.several(body.ids),
    );
    app.get<WithId>('/documents/:id', { schema: { summary: 'One document', params: ID } }, ({ params }) => store.get(params.id));
    app.post<{ Body: { body: unknown; label: string; opId: string; id?: string } }>(
      '/documents',
      {
        schema: {
          summary: 'Create a document',
          body: {
            type: 'object',
            required: ['body', 'label', 'opId'],
            additionalProperties: false,
            properties: { body: { type: 'object' }, label: { type: 'string', minLength: 1, maxLength: 200 }, opId: OP, id: ID.properties.id },
          },
        },
      },
      ({ body }) => store.create(body.body, body.label, body.opId, body.id),
    );
    app.post<WithId & { Body: EditRequest }>(
      '/documents/:id/edits',
      { schema: { summary: 'One gesture: a JSON Patch and its inverse', params: ID, body: EDIT_SCHEMA } },
      async ({ params, body }) => {
        const { version } = await store.edit(params.id, body);
        return { version };
      },
    );
    for (const turn of ['undo', 'redo'] as const)
      app.post<WithId & { Body: { opId: string } }>(
        `/documents/:id/${turn}`,
        {
          schema: {
            summary: turn === 'undo' ? 'Take back the newest step' : 'Do the newest undone step again',
            params: ID,
            body: { type: 'object', required: ['opId'], additionalProperties: false, properties: { opId: OP } },
          },
        },
        ({ params, body }) => store.turn(params.id, turn, body.opId),
      );
    app.get<WithId & { Querystring: { before?: number; limit?: number } }>(
      '/documents/:id/history',
      {
        schema: {
          summary: 'Named steps of a document, a page at a time: the newest, or those before a version',
          params: ID,
          querystring: {
            type: 'object',
            properties: { before: { type: 'integer', minimum: 1, maximum: 2147483647 }, limit: { type: 'integer', minimum: 1, maximum: 1000 } },
          },
        },
      },
      ({ params, query }) => store.history(params.id, query.before ?? null, query.limit),
    );
    app.get<{ Params: { id: string; version: number } }>(
      '/documents/:id/at/:version',
      {
        schema: {
          summary: 'A document as it was at one of its versions',
          params: {
            type: 'object',
            required: ['id', 'version'],
            properties: { ...ID.properties, version: { type: 'integer', minimum: 1, maximum: 2147483647 } },
          },
        },
      },
      ({ params }) => store.at(params.id, params.version),
    );
    app.delete<WithId>('/documents/:id', { schema: { summary: 'Hide a document', params: ID } }, async ({ params }, reply) => {
      await store.setDeleted(params.id, true);
      return reply.status(204).send();
    });
    app.post<WithId>('/documents/:id/restore', { schema: { summary: 'Bring a hidden document back', params: ID } }, async ({ params }) => {
      await store.setDeleted(params.id, false);
      return store.get(params.id);
    });
  };
}
