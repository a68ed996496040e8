import swagger from '@fastify/swagger';
import type { FastifyInstance } from 'fastify';
import plugin from 'fastify-plugin';

interface Described {
  paths?: Record<string, Record<string, { summary?: string }>>;
}
const escape = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** The API described as OpenAPI 3.1 (JSON) and as a page to read. Registered before the routes it describes. */
export const description = plugin(
  async (app: FastifyInstance) => {
    await app.register(swagger, {
      openapi: {
        openapi: '3.1.0',
        info: { title: 'Jaunty Pebble', version: '1', description: 'The API of the workbench. Errors are RFC 9457 problem documents.' },
      },
    });
    app.get('/api/docs/openapi.json', { schema: { hide: true } }, () => app.swagger());
    app.get('/api/docs', { schema: { hide: true } }, (_, reply) => {
      const { paths = {} } = app.swagger() as Described;
      const rows = Object.entries(paths).flatMap(([path, methods]) =>
        Object.entries(methods).map(
          ([method, d]) =>
            `<tr><td><code>${method.toUpperCase()}</code></td><td><code>${escape(path)}</code></td><td>${escape(d.summary ?? '')}</td></tr>`,
        ),
      );
      return reply
        .type('text/html')
        .send(
          `<!doctype html><html lang="en"><meta charset="utf-8"><title>API of Jaunty Pebble</title><style>body{font:15px/1.5 sans-serif;margin:2rem;max-width:60rem;color:#23282b;background:#f6f4ef}td{padding:.3rem 1rem .3rem 0;vertical-align:top}</style><h1>API of Jaunty Pebble</h1><p>Machine-readable: <a href="/api/docs/openapi.json">openapi.json</a>. Errors are RFC 9457 problem documents.</p><table>${rows.join('')}</table></html>`,
        );
    });
  },
  { name: 'description' },
);
