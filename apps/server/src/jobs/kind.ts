import type { JobKind, JobPayload, JobRequest, JobResult } from '@pebble/contracts';
import type { AnyDocument, Patch } from '@pebble/core';
import type { DocumentStore, Ports, Report } from '@pebble/usecases';
import type { PgBlobStore } from '../store/blobs';
import type { PgMadeStore } from '../store/made';
import type { PgJobStore } from '../store/jobs';

/** What a job may use while it is done. */
export interface TaskContext {
  ports: Ports & { blobs: PgBlobStore };
  documents: DocumentStore;
  /** Files of deliveries by what they were made of. */
  made: PgMadeStore;
  /** Address of the quarry now, when there is one. */
  quarry: string | null;
  report: Report;
}

/** What is known where a job is asked for. */
export interface AskContext {
  documents: DocumentStore;
  jobs: Pick<PgJobStore, 'list'>;
  /** Address of the quarry, when there is one. */
  quarry: string | null;
}

/** A job to be put into the queue. */
export interface Order<K extends JobKind> {
  label: string;
  payload: JobPayload<K>;
}
/** One to follow another, of any kind. */
export type Following = { [K in JobKind]: Order<K> & { kind: K } }[JobKind];

/** What a finished job asks to be published, all in one transaction. */
export interface Outcome<K extends JobKind = JobKind> {
  create?: { id?: string; body: AnyDocument }[];
  /** New bodies of documents that exist; silent ones make no step of undo. */
  replace?: { id: string; body: AnyDocument; label: string; silent: boolean }[];
  /** Changes to documents that exist, put on top of whatever else happened to them meanwhile. */
  edit?: { id: string; patch: Patch; label: string }[];
  /** Jobs that go on from here. */
  follow?: Following[];
  result: Omit<JobResult<K>, 'documents'>;
}

/** One kind of job: what its route takes, what is refused at once, and how it is done. */
export interface JobDefinition<K extends JobKind> {
  /** Its route, where it can be asked for. */
  ask?: {
    summary: string;
    /** JSON schema of the request. */
    body?: object;
    /** What cannot be done is refused here, not by a job that fails. @throws ServiceError @throws UseCaseError */
    order(request: JobRequest<K>, document: string, around: AskContext): Order<K> | Promise<Order<K>>;
  };
  run(context: TaskContext, payload: JobPayload<K>): Promise<Outcome<K>>;
}
