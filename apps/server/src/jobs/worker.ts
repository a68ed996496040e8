// A worker, in a thread or a process of its own: one job at a time, its own database connections. What jobs compiled stays
// warm for the next. Results go to the parent, which publishes them and ends the thread when a job is cancelled.
import type { LightData } from '@pebble/core';
import { unpackLight } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { letGoAfter, nodeCodec } from '@pebble/formats/node';
import { writeTexture } from '@pebble/formats/write';
import { BandPool } from '@pebble/usecases/bands';
import { FinishPool } from '@pebble/usecases/finish-pool';
import { readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { isAway, makePool } from '../db/pool';
import { BEHIND, stayBehind } from '../priority';
import { PgBlobStore } from '../store/blobs';
import { PgDocumentStore } from '../store/documents';
import { PgMadeStore } from '../store/made';
import type { WorkerJob, WorkerMessage, WorkerStart } from './protocol';
import { DEFINITIONS } from './kinds';

/** Progress is told at most this often. */
const EVERY_MS = 250;

stayBehind(BEHIND.jobs);

const inProcess = process.env['PEBBLE_WORK'];
const start = (parentPort || !inProcess ? workerData : JSON.parse(inProcess)) as WorkerStart;
const post = (message: WorkerMessage) => (parentPort ? parentPort.postMessage(message) : process.send?.(message));
const pool = makePool(start.databaseUrl, 3);
const documents = new PgDocumentStore(pool, start.projectId);
let light: LightData | null = null;
// Beside this file in the built server. One thread a core, at most four.
const bands = new BandPool(path.join(import.meta.dirname, 'band-worker.mjs'), Math.min(4, availableParallelism()));
const writers = new FinishPool(path.join(import.meta.dirname, 'finish-worker.mjs'), Math.min(4, availableParallelism()));

async function perform({ kind, payload }: WorkerJob): Promise<WorkerMessage> {
  let told = 0;
  try {
    const definition = DEFINITIONS[kind];
    if (!definition) throw new Error(`There is no job of kind ${kind}`);
    const outcome = await definition.run(
      {
        ports: {
          blobs: new PgBlobStore(pool),
          codec: nodeCodec,
          write: writeTexture,
          finish: writers.finish,
          light: () => (light ??= unpackLight(readFileSync(start.lightFile))),
          model: async (bytes) => (await readGltf(bytes)).model,
          bands,
        },
        documents,
        made: new PgMadeStore(pool),
        quarry: start.quarry,
        report: (done, note) => {
          const now = performance.now();
          if (now - told < EVERY_MS) return;
          told = now;
          post({ type: 'progress', done, note });
        },
      },
      payload as never,
    );
    return { type: 'done', outcome };
  } catch (error) {
    return isAway(error) ? { type: 'lost' } : { type: 'failed', message: (error as Error).message };
  }
}

(parentPort ?? process).on('message', (job: WorkerJob) => void perform(job).then(post).then(letGoAfter));
// A process does not outlive the one that has asked for its work.
if (!parentPort) process.on('disconnect', () => process.exit());
