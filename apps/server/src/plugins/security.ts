import helmet from '@fastify/helmet';
import plugin from 'fastify-plugin';
import { ServiceError } from '../store/errors';

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;

/** Strict headers, and no answers to other names or other sites: a page elsewhere must not reach a workbench on loopback. */
export const security = plugin(
  async (app) => {
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
      const { host = '', origin } = request.headers;
      if (!LOCAL.test(host)) return done(new ServiceError('wrong-host', `This server answers only on this machine, not as "${host}"`));
      if (origin && new URL(origin === 'null' ? 'about:blank' : origin).host !== host)
        return done(new ServiceError('wrong-origin', 'Requests from other sites are refused'));
      done();
    });
  },
  { name: 'security' },
);
