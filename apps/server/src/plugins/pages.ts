import serveStatic from '@fastify/static';
import type { FastifyInstance } from 'fastify';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { notFound } from '../store/errors';

/** The built application and the target stand-in: hashed files for ever, the page itself never from a cache; unknown paths open the page. */
export function pages(folder: string, target: string) {
  return async (app: FastifyInstance) => {
    // The stand-in for a device, at its own address; only our own pages may show it within theirs.
    if (existsSync(path.join(target, 'index.html')))
      await app.register(async (own) => {
        own.addHook('onSend', (_, reply, payload, done) => {
          const policy = String(reply.getHeader('content-security-policy') ?? '');
          reply.header('content-security-policy', policy.replace("frame-ancestors 'none'", "frame-ancestors 'self'")).removeHeader('x-frame-options');
          done(null, payload);
        });
        await own.register(serveStatic, { root: target, prefix: '/target/', decorateReply: false, cacheControl: false });
      });
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
