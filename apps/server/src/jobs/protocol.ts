import type { AnyDocument, Patch } from '@pebble/core';

/** What a worker thread is started with. */
export interface WorkerStart {
  databaseUrl: string;
  projectId: string;
  lightFile: string;
}
/** What it is asked to do, one job after the other. */
export interface WorkerJob {
  kind: string;
  payload: unknown;
}

/** What a finished job asks to be published, all in one transaction. */
export interface Outcome {
  create?: { id?: string; body: AnyDocument }[];
  /** New bodies of documents that exist; silent ones make no step of undo. */
  replace?: { id: string; body: AnyDocument; label: string; silent: boolean }[];
  /** Changes to documents that exist, put on top of whatever else happened to them meanwhile. */
  edit?: { id: string; patch: Patch; label: string }[];
  /** Jobs that go on from here. */
  follow?: { kind: string; label: string; payload: object }[];
  result: Record<string, unknown>;
}

export type WorkerMessage =
  | { type: 'progress'; done: number; note: string }
  | { type: 'done'; outcome: Outcome }
  | { type: 'failed'; message: string }
  /** The database went away under the work: it is worth another try. */
  | { type: 'lost' };
