import { mkdirSync } from 'node:fs';
import type { FastifyServerOptions } from 'fastify';
import { LogController } from 'fastify';
import { createStream } from 'rotating-file-stream';

/** How large a log becomes before the next begins, and how many stay. */
const LOG_BYTES = 5 * 2 ** 20;
const LOGS = 5;

/** A password within the address of a database. */
const SECRETS = /(postgres(?:ql)?:\/\/[^:@/\s]*):[^@\s]*@/g;
const plain = (text: string | undefined) => text?.replace(SECRETS, '$1:…@');

/**
 * Fastify's own logger, a JSON line each, into `server.log` of a folder; it rolls. What people made or named is not in it:
 * of a request its id, method, route (not the address with its ids and words), status and time, of an error its kind, code,
 * message and where it happened, passwords of databases left out.
 */
export function logInto(
  folder: string,
  bytes = LOG_BYTES,
): { options: Pick<FastifyServerOptions, 'logger' | 'logController'>; end: () => Promise<void> } {
  mkdirSync(folder, { recursive: true });
  const stream = createStream('server.log', { path: folder, size: `${bytes}B`, maxFiles: LOGS, history: '.rolled' });
  // A disk that is full must not end what still works without a log.
  stream.on('error', () => undefined);
  stream.on('warning', () => undefined);
  return {
    options: {
      // Its own lines have addresses of requests in them; the hook in problems.ts writes ours.
      logController: new LogController({ disableRequestLogging: true }),
      logger: {
        level: 'info',
        stream,
        base: null,
        timestamp: () => `,"time":"${new Date().toISOString()}"`,
        serializers: {
          err: (error: Error & { code?: string }) => ({
            type: error.name,
            code: error.code,
            message: plain(error.message) ?? '',
            stack: plain(error.stack) ?? '',
          }),
        },
      },
    },
    end: () => new Promise((resolve) => stream.end(() => resolve())),
  };
}
