import type { Problem } from '@pebble/contracts';
import { UseCaseError } from '@pebble/usecases';
import type { FastifyError, FastifyReply, FastifyRequest } from 'fastify';
import plugin from 'fastify-plugin';
import type { Socket } from 'node:net';
import { isAway } from '../db/pool';
import { ServiceError } from '../store/errors';

/** Every error leaves as an RFC 9457 problem document with a code and a sentence for people; each request has a line in the log. */
export const problems = plugin(
  (app, _, done) => {
    app.setErrorHandler(sendProblem);
    app.addHook('onResponse', (request, reply, next) => {
      const { method, routeOptions } = request;
      request.log.info({ method, route: routeOptions.url ?? 'none', status: reply.statusCode, ms: Math.round(reply.elapsedTime) }, 'answered');
      next();
    });
    done();
  },
  { name: 'problems' },
);

export function sendProblem(error: FastifyError | Error, request: FastifyRequest, reply: FastifyReply): void {
  const problem = problemOf(error, request.id);
  if (problem.status >= 500) request.log.error(error);
  void reply.status(problem.status).type('application/problem+json').send(problem);
}

/** What is told of an error. @param request its id in the log, where that has more to say */
export function problemOf(error: FastifyError | Error, request?: string): Problem {
  const make = (status: number, code: string, detail: string, extra: object = {}): Problem => ({
    type: 'about:blank',
    title: TITLES[status] ?? 'Error',
    status,
    code,
    detail,
    ...extra,
  });
  if (error instanceof ServiceError) return make(error.status, error.code, error.message, error.extra);
  if (error instanceof UseCaseError)
    return make(error.kind === 'missing' ? 404 : 422, error.code, error.message, error.place ? { place: error.place } : {});
  const { validation, validationContext, statusCode, code } = error as FastifyError;
  if (validation)
    return make(
      400,
      'invalid-request',
      `The request is not as it should be: ${validationContext ?? ''}${validation[0].instancePath} ${validation[0].message ?? ''}`,
      { place: validation[0].instancePath },
    );
  if (code === 'FST_REQ_FILE_TOO_LARGE' || code === 'FST_ERR_CTP_BODY_TOO_LARGE' || code === 'FST_FILES_LIMIT')
    return make(413, 'too-large', 'This is more than can be taken at once. Send fewer or smaller files');
  if (statusCode && statusCode < 500) return make(statusCode, 'bad-request', error.message);
  // SQLSTATE disk_full. PostgreSQL, appendix A.
  if ((code as string | undefined) === '53100')
    return make(
      507,
      'disk-full',
      'The disk that holds the data folder is full, so nothing more can be kept. Make some room: your edit is kept and tried again',
    );
  if (isAway(error)) return make(503, 'database-away', 'The database does not answer at the moment. Your edit is kept and tried again');
  return make(
    500,
    'unexpected',
    `Something went wrong inside the server. Its log has the details${request ? ` (request ${request})` : ''}; try again`,
    request ? { request } : {},
  );
}

/** What bytes that make no request are answered with, by the parser's code. */
const UNREADABLE: Readonly<Record<string, readonly [status: number, detail: string]>> = {
  ERR_HTTP_REQUEST_TIMEOUT: [408, 'The request took too long to arrive. Send it again'],
  HPE_HEADER_OVERFLOW: [431, 'The headers of the request are larger than can be taken. Send fewer or shorter ones'],
};
/** Headers of an answer that no hook has seen: nothing is run, framed, kept or read by other sites. */
const BARE_HEADERS = {
  'content-security-policy': "default-src 'none'; frame-ancestors 'none'",
  'x-content-type-options': 'nosniff',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  'referrer-policy': 'no-referrer',
  'cache-control': 'no-store',
  connection: 'close',
};

/** Answers what could not be routed: no hook has seen it, so the headers are set here. */
export function refuseUnrouted(error: FastifyError, request: FastifyRequest, reply: FastifyReply): void {
  sendProblem(error, request, reply.headers(BARE_HEADERS));
}

/** Answers what is no request at all, so that there is nothing to route: the socket itself is written to. */
export function refuseUnreadable(error: NodeJS.ErrnoException, socket: Socket): void {
  if (error.code === 'ECONNRESET' || !socket.writable) return void socket.destroy();
  const [status, detail] = UNREADABLE[error.code ?? ''] ?? [400, 'What was sent is no request that can be read. Send it as HTTP/1.1'];
  const body = JSON.stringify({ type: 'about:blank', title: TITLES[status], status, code: 'bad-request', detail } satisfies Problem);
  socket.end(
    [
      `HTTP/1.1 ${status} ${TITLES[status]}`,
      'content-type: application/problem+json',
      `content-length: ${Buffer.byteLength(body)}`,
      ...Object.entries(BARE_HEADERS).map(([name, value]) => `${name}: ${value}`),
      '',
      body,
    ].join('\r\n'),
  );
}

const TITLES: Record<number, string> = {
  400: 'Bad request',
  401: 'Not known here',
  403: 'Refused',
  404: 'Not found',
  406: 'Not offered',
  408: 'Too slow',
  409: 'Conflict',
  413: 'Too large',
  414: 'Too long',
  415: 'Not understood',
  422: 'Cannot be done',
  431: 'Too large',
  500: 'Unexpected',
  503: 'Unavailable',
  507: 'No room',
};
