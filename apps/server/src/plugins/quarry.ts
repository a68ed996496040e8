import type { FastifyInstance } from 'fastify';
import { Quarry, QuarryError } from '../quarry/client';
import { ServiceError, noQuarry } from '../store/errors';

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
export function quarry(url: string | null) {
  const client = url ? new Quarry(url) : null;
  const ask = async <T>(run: (c: Quarry) => Promise<T>): Promise<T> => {
    if (!client) throw noQuarry();
    try {
      return await run(client);
    } catch (error) {
      if (error instanceof QuarryError) throw new ServiceError('quarry', `${error.message[0].toUpperCase()}${error.message.slice(1)}`);
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
  };
}
