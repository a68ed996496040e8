// A worker thread: one job, its own database connections, then gone. Results go to the parent, which publishes them.
import { unpackLight } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { BandPool } from '@pebble/usecases/bands';
import { readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { isAway, makePool } from '../db/pool';
import { PgBlobStore } from '../store/blobs';
import { PgDocumentStore } from '../store/documents';
import type { WorkerMessage, WorkerStart } from './protocol';
import { TASKS } from './tasks';

/** Progress is told at most this often. */
const EVERY_MS = 250;

const start = workerData as WorkerStart;
const post = (message: WorkerMessage) => parentPort?.postMessage(message);
const pool = makePool(start.databaseUrl, 3);
// Beside this file in the built server. One thread a core, at most four.
const bands = new BandPool(path.join(import.meta.dirname, 'band-worker.mjs'), Math.min(4, availableParallelism()));
let told = 0;
try {
  const task = TASKS[start.kind];
  if (!task) throw new Error(`There is no job of kind ${start.kind}`);
  const outcome = await task(
    {
      ports: { blobs: new PgBlobStore(pool), codec: nodeCodec, light: () => unpackLight(readFileSync(start.lightFile)), bands },
      documents: () => new PgDocumentStore(pool, start.projectId).list(),
      report: (done, note) => {
        const now = performance.now();
        if (now - told < EVERY_MS) return;
        told = now;
        post({ type: 'progress', done, note });
      },
    },
    start.payload as never,
  );
  post({ type: 'done', outcome });
} catch (error) {
  post(isAway(error) ? { type: 'lost' } : { type: 'failed', message: (error as Error).message });
} finally {
  await bands.close();
  await pool.end().catch(() => undefined);
  parentPort?.close();
}
