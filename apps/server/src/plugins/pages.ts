import serveStatic from '@fastify/static';
import type { FastifyInstance } from 'fastify';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { notFound } from '../store/errors';

/** The built application: hashed files for ever, the page itself never from a cache; unknown paths open the page. */
export function pages(folder: string) {
  return async (app: FastifyInstance) => {
    const built = existsSync(path.join(folder, 'index.html'));
    if (built)
      await app.register(serveStatic, {
        root: folder,
        cacheControl: false,
        setHeaders: (response, file) =>
          void response.header('cache-control', /-[A-Z0-9]{8}\.\w+$/.test(file) ? 'public, max-age=31536000, immutable' : 'no-cache'),
      });
    app.setNotFoundHandler((request, reply) => {
      if (built && request.method === 'GET' && !request.url.startsWith('/api/') && !/\.\w+$/.test(request.url.split('?')[0]))
        return reply.sendFile('index.html');
      throw notFound(request.url);
    });
  };
}
