import type { Problem } from '@pebble/contracts';
import { UseCaseError } from '@pebble/usecases';
import type { FastifyError } from 'fastify';
import plugin from 'fastify-plugin';
import { isAway } from '../db/pool';
import { ServiceError } from '../store/errors';

/** Every error leaves as an RFC 9457 problem document with a code and a sentence for people. */
export const problems = plugin(
  (app, _, done) => {
    app.setErrorHandler((error: FastifyError | Error, request, reply) => {
      const problem = problemOf(error);
      if (problem.status >= 500) request.log.error(error);
      void reply.status(problem.status).type('application/problem+json').send(problem);
    });
    done();
  },
  { name: 'problems' },
);

export function problemOf(error: FastifyError | Error): Problem {
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
  if (isAway(error)) return make(503, 'database-away', 'The database does not answer at the moment. Your edit is kept and tried again');
  return make(500, 'unexpected', 'Something went wrong inside the server. Its log has the details; try again');
}

const TITLES: Record<number, string> = {
  400: 'Bad request',
  403: 'Refused',
  404: 'Not found',
  409: 'Conflict',
  413: 'Too large',
  422: 'Cannot be done',
  500: 'Unexpected',
  503: 'Unavailable',
};
