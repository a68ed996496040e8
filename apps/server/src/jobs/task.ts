import type { StoredDocument } from '@pebble/contracts';
import type { Ports, Report } from '@pebble/usecases';
import type { PgBlobStore } from '../store/blobs';

/** What a task may use. */
export interface TaskContext {
  ports: Ports & { blobs: PgBlobStore };
  documents: () => Promise<StoredDocument[]>;
  report: Report;
}
