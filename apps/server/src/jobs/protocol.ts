import type { JobKind } from '@pebble/contracts';
import type { Outcome } from './kind';

/** What a worker thread is started with. */
export interface WorkerStart {
  databaseUrl: string;
  /** Address of the quarry, when there is one. */
  quarry: string | null;
  projectId: string;
  lightFile: string;
}
/** What it is asked to do, one job after the other. */
export interface WorkerJob {
  kind: JobKind;
  payload: unknown;
}

export type WorkerMessage =
  | { type: 'progress'; done: number; note: string }
  | { type: 'done'; outcome: Outcome }
  | { type: 'failed'; message: string }
  /** The database went away under the work: it is worth another try. */
  | { type: 'lost' };
