/** Every code of an error that the server itself tells, with the HTTP status that fits it. */
const STATUSES = {
  'bad-text': 400,
  'bad-upload': 400,
  'not-multipart': 400,
  'no-token': 401,
  'wrong-host': 403,
  'wrong-origin': 403,
  'not-found': 404,
  'edit-conflict': 409,
  'id-taken': 409,
  'job-ended': 409,
  'not-empty': 409,
  'op-taken': 409,
  'nothing-to-redo': 409,
  'nothing-to-undo': 409,
  'under-way': 409,
  'version-conflict': 409,
  'not-bytes': 415,
  'bad-plan': 422,
  'invalid-document': 422,
  'invalid-edit': 422,
  'newer-format': 422,
  'no-level': 422,
  'no-picture': 422,
  'no-slot': 422,
  'no-specimen': 422,
  'older-format': 422,
  stamped: 422,
  'too-large': 422,
  'unknown-generator': 422,
  'unknown-structure': 422,
  quarry: 502,
  'no-quarry': 503,
} as const;
export type ServiceCode = keyof typeof STATUSES;

/** An error with a code, a sentence for people, a place, and the HTTP status that fits it. */
export class ServiceError extends Error {
  readonly status: number;

  constructor(
    readonly code: ServiceCode,
    message: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(message);
    this.name = 'ServiceError';
    this.status = STATUSES[code];
  }
}
export const notFound = (what: string): ServiceError =>
  new ServiceError('not-found', `${what} does not exist, or no longer. Reload to see what there is`);
export const noQuarry = (): ServiceError =>
  new ServiceError('no-quarry', 'There is no quarry beside this server. Start it with npm start, or set PEBBLE_QUARRY');
