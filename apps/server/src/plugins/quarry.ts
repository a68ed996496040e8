import type { FetchRequest } from '@pebble/contracts';
import { FETCH_SCHEMA } from '@pebble/contracts';
import type { FastifyInstance } from 'fastify';
import { Quarry, QuarryError } from '../quarry/client';
import { ServiceError } from '../store/errors';
import type { PgJobStore } from '../store/jobs';

const ID = { type: 'object', required: ['id'], properties: { id: { type: 'string', pattern: '^[a-z0-9-]{1,64}$' } } } as const;
const QUERY = {
  type: 'object',
  properties: {
    text: { type: 'string', maxLength: 100 },
    tag: { type: 'string', maxLength: 100 },
    page: { type: 'integer', minimum: 0, maximum: 1e5 },
  },
} as const;

/** The library of surfaces from outside: searched and fetched from, never trusted. */
export function quarry(url: string | null, jobs: PgJobStore) {
  const client = url ? new Quarry(url) : null;
  const ask = async <T>(run: (c: Quarry) => Promise<T>): Promise<T> => {
    if (!client) throw new ServiceError(503, 'no-quarry', 'There is no quarry beside this server. Start it with npm start, or set PEBBLE_QUARRY');
    try {
      return await run(client);
    } catch (error) {
      if (error instanceof QuarryError) throw new ServiceError(502, 'quarry', `${error.message[0].toUpperCase()}${error.message.slice(1)}`);
      throw error;
    }
  };
  return async (app: FastifyInstance) => {
    app.get<{ Querystring: { text?: string; tag?: string; page?: number } }>(
      '/quarry',
      { schema: { summary: 'Surfaces of the quarry', querystring: QUERY } },
      ({ query }) => ask((c) => c.search(query.text ?? '', query.tag ?? '', query.page ?? 0)),
    );
    app.get<{ Params: { id: string } }>(
      '/quarry/:id/preview',
      { schema: { summary: 'Picture of one of them', params: ID } },
      async ({ params }, reply) =>
        reply
          .type('image/png')
          .header('cache-control', 'private, max-age=3600')
          .send(Buffer.from(await ask((c) => c.preview(params.id)))),
    );
    app.post<{ Body: FetchRequest }>('/quarry', { schema: { summary: 'Fetch a surface from the quarry', body: FETCH_SCHEMA } }, ({ body }) =>
      ask(async () => jobs.add('fetch', `Fetch ${body.id.replace(/-/g, ' ')}`, { ...body, base: url })),
    );
  };
}
