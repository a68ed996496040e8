/** An error with a code, a sentence for people, a place, and the HTTP status that fits it. */
export class ServiceError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(message);
    this.name = 'ServiceError';
  }
}
export const notFound = (what: string): ServiceError =>
  new ServiceError(404, 'not-found', `${what} does not exist, or no longer. Reload to see what there is`);
