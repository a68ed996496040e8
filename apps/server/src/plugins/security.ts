import helmet from '@fastify/helmet';
import plugin from 'fastify-plugin';
import type { Door } from './door';
import { guarded, isOwnName } from './door';
import { ServiceError } from '../store/errors';

/** What browsers say of requests that this page, or somebody by hand, sends. */
const OWN_SITES = new Set(['same-origin', 'none']);

/** NUL, and halves of characters that need two. */
const UNCLEAN = /[\0\p{Cs}]/u;

/** Where in a value there is text that the database cannot keep; null where all of it is clean. */
function uncleanAt(value: unknown, place = ''): string | null {
  if (typeof value === 'string') return UNCLEAN.test(value) ? place : null;
  if (!value || typeof value !== 'object') return null;
  for (const [key, of] of Object.entries(value)) {
    const here = `${place}/${key.replace(new RegExp(UNCLEAN, 'gu'), '')}`;
    const found = uncleanAt(key, here) ?? uncleanAt(of, here);
    if (found !== null) return found;
  }
  return null;
}

/** Strict headers, and no answers to other names or other sites: a page elsewhere must not reach a workbench on loopback. */
export const security = plugin<{ door: Door | null }>(
  async (app, { door }) => {
    await app.register(helmet, {
      contentSecurityPolicy: {
        useDefaults: true,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          workerSrc: ["'self'", 'blob:'],
          connectSrc: ["'self'", 'blob:', 'data:'],
          imgSrc: ["'self'", 'blob:', 'data:'],
          fontSrc: ["'self'"],
          objectSrc: ["'none'"],
          frameAncestors: ["'none'"],
          upgradeInsecureRequests: null,
        },
      },
      // Shared memory in the browser needs both.
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
    });
    app.addHook('onRequest', (request, _, done) => {
      const { host = '', origin, 'sec-fetch-site': site = 'none', 'sec-fetch-mode': mode } = request.headers;
      if (!isOwnName(host, door))
        return done(
          new ServiceError(
            'wrong-host',
            door ? `This server does not go by the name "${host}"` : `This server answers only on this machine, not as "${host}"`,
          ),
        );
      if (origin && (!URL.canParse(origin) || new URL(origin).host !== host))
        return done(new ServiceError('wrong-origin', 'Requests from other sites are refused'));
      // Some requests of other sites bear no Origin; browsers mark them. A link that leads here is followed.
      const followed = request.method === 'GET' && mode === 'navigate' && !request.url.startsWith('/api/');
      if (!OWN_SITES.has(String(site)) && !followed) return done(new ServiceError('wrong-origin', 'Requests from other sites are refused'));
      done();
    });
    if (door) await app.register(guarded(door));
    app.addHook('preValidation', (request, _, done) => {
      const place = [request.params, request.query, Buffer.isBuffer(request.body) ? null : request.body]
        .map((v) => uncleanAt(v))
        .find((p) => p !== null);
      done(
        place === undefined
          ? undefined
          : new ServiceError('bad-text', `The text at "${place}" holds a NUL or half a character, which nothing can keep. Type it anew`, { place }),
      );
    });
  },
  { name: 'security' },
);
