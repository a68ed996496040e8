// A running server as the command line asks it.
import type { AskedKind, JobOf, JobRequest } from '@pebble/contracts';
import { jobPath } from '@pebble/contracts';
import { UsageError } from './options';

/** Pauses between two looks at a job. */
const PAUSE_MS = 200;

/** A running server, asked as its pages do. */
export class Server {
  constructor(private readonly base: string) {}

  async ask<T>(route: string, body?: object | FormData): Promise<T> {
    const answer = await this.fetch(route, body);
    const json = (await answer.json().catch(() => null)) as T | null;
    if (json === null) throw new Error(`The server answered ${answer.status} and nothing that can be read`);
    return json;
  }

  /** @throws Error with what the server said */
  async fetch(route: string, body?: object | FormData): Promise<Response> {
    const form = body instanceof FormData;
    // A server that others can reach asks for its token.
    const token = process.env['PEBBLE_TOKEN'];
    let answer: Response;
    try {
      answer = await fetch(new URL(`/api${route}`, this.base), {
        method: body ? 'POST' : 'GET',
        headers: { ...(body && !form && { 'content-type': 'application/json' }), ...(token && { authorization: `Bearer ${token}` }) },
        body: form ? body : body && JSON.stringify(body),
      });
    } catch {
      throw new Error(`No server answers at ${this.base}. Start it, or give another --server`);
    }
    if (answer.ok) return answer;
    const problem = (await answer.json().catch(() => null)) as { detail?: string } | null;
    throw new Error(problem?.detail ?? `The server answered ${answer.status}`);
  }

  /** The job when it has ended well. @throws Error with what the server said */
  async run<K extends AskedKind>(kind: K, request: JobRequest<K>): Promise<JobOf<K>> {
    let job = await this.ask<JobOf<K>>(jobPath(kind), request);
    while (job.status === 'waiting' || job.status === 'running') {
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
      job = await this.ask<JobOf<K>>(`/jobs/${job.id}`);
    }
    if (job.status !== 'done') throw new Error(job.error ?? 'The import was cancelled on the server');
    return job;
  }
}

/** The server of `--server`. @throws UsageError for what is no address */
export function serverAt(address: string): Server {
  if (!URL.canParse(address)) throw new UsageError(`--server takes an address such as http://127.0.0.1:4780, not "${address}"`);
  return new Server(address);
}
