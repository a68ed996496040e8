import type { Runner } from 'graphile-worker';
import { Logger, run } from 'graphile-worker';
import os from 'node:os';
import { randomBytes } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import type pg from 'pg';
import type { Client } from 'pg';
import { transaction } from '../db/pool';
import type { PgDocumentStore } from '../store/documents';
import type { PgJobStore } from '../store/jobs';
import type { Outcome, WorkerMessage, WorkerStart } from './protocol';

export interface RunnerOptions {
  pool: pg.Pool;
  connect: () => Client;
  databaseUrl: string;
  projectId: string;
  jobs: PgJobStore;
  documents: PgDocumentStore;
  workerFile: string;
  lightFile: string;
  concurrency?: number;
  /** Silence after which a worker counts as dead. */
  deadAfterSeconds?: number;
  log?: (text: string) => void;
}

class Fenced extends Error {}

/** Takes jobs from the queue and runs each in a thread of its own. */
export class JobRunner {
  /** Host, process and a random part: a new process with an old number is told apart. */
  readonly name = `${os.hostname()}/${process.pid}/${randomBytes(3).toString('hex')}`;
  private readonly threads = new Map<string, Worker>();
  private runner: Runner | null = null;
  private timer: NodeJS.Timeout | null = null;
  private listener: Client | null = null;

  constructor(private readonly options: RunnerOptions) {}

  async start(): Promise<void> {
    const { pool, jobs, concurrency = 2, deadAfterSeconds = 30 } = this.options;
    await jobs.recover(deadAfterSeconds, await this.goneHere());
    this.listener = this.options.connect();
    this.listener.on('error', () => undefined);
    this.listener.on('notification', (message) => void this.threads.get(message.payload ?? '')?.terminate());
    await this.listener.connect();
    await this.listener.query('listen pebble_cancel');
    this.runner = await run({
      pgPool: pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 2000,
      logger: new Logger(() => () => undefined),
      taskList: { pebble: (payload) => this.perform((payload as { id: string }).id) },
    });
    const beat = async () => {
      await jobs.heartbeat([...this.threads.keys()], this.name);
      await jobs.recover(deadAfterSeconds);
    };
    this.timer = setInterval(() => void beat().catch((e: Error) => this.options.log?.(e.message)), 4000);
    this.timer.unref();
  }

  /** Workers named after processes of this machine that no longer run. */
  private async goneHere(): Promise<string[]> {
    return (await this.options.jobs.runningWorkers()).filter((worker) => {
      const [host, pid] = worker.split('/');
      if (host !== os.hostname() || worker === this.name) return false;
      try {
        process.kill(Number(pid), 0);
        return Number(pid) === process.pid;
      } catch (error) {
        return (error as NodeJS.ErrnoException).code === 'ESRCH';
      }
    });
  }

  private async perform(id: string): Promise<void> {
    const { jobs, pool, databaseUrl, projectId, workerFile, lightFile } = this.options;
    const claimed = await jobs.claim(id, this.name);
    if (!claimed) return;
    const { kind, payload, attempt } = claimed;
    const end = (status: 'failed' | 'cancelled', error?: string) => transaction(pool, (client) => jobs.end(client, id, attempt, status, { error }));
    const start: WorkerStart = { databaseUrl, projectId, lightFile, kind, payload };
    const thread = new Worker(workerFile, { workerData: start, resourceLimits: { maxOldGenerationSizeMb: 4096 } });
    this.threads.set(id, thread);
    try {
      const ended = await new Promise<Outcome | string | null>((resolve) => {
        thread.on('message', (message: WorkerMessage) => {
          if (message.type === 'done') resolve(message.outcome);
          else if (message.type === 'failed') resolve(message.message);
          else
            void jobs.progress(id, attempt, message.done, message.note).then(
              (go) => {
                if (!go) void thread.terminate();
              },
              () => undefined,
            );
        });
        thread.on('error', (error) => resolve(`The work stopped: ${error.message}`));
        thread.on('exit', () => resolve(null));
      });
      if (ended === null) await end('cancelled');
      else if (typeof ended === 'string') await end('failed', ended);
      else await this.publish(id, attempt, ended).catch((error: Error) => (error instanceof Fenced ? undefined : end('failed', error.message)));
    } finally {
      this.threads.delete(id);
      await thread.terminate();
    }
  }

  /** Everything a job made appears in one transaction, or nothing does. */
  private async publish(id: string, attempt: number, outcome: Outcome): Promise<void> {
    const { pool, documents, jobs } = this.options;
    await transaction(pool, async (client) => {
      const created: string[] = [];
      for (const { id: documentId, body } of outcome.create ?? [])
        created.push((await documents.createIn(client, body, `Add ${body.name}`, undefined, documentId)).id);
      for (const { id: documentId, body, label, silent } of outcome.replace ?? [])
        await documents.changeIn(client, documentId, label, () => body, silent);
      if (!(await jobs.end(client, id, attempt, 'done', { result: { ...outcome.result, documents: created } }))) throw new Fenced();
    });
    for (const next of outcome.follow ?? []) await jobs.add(next.kind, next.label, next.payload);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    // Threads are ended first: graphile would wait for them. Their jobs go back to the queue, as after a crash.
    const running = [...this.threads.values()];
    this.threads.clear();
    const { pool } = this.options;
    await pool
      .query("update job set heartbeat = now() - interval '1 day' where worker = $1 and status = 'running'", [this.name])
      .catch(() => undefined);
    await pool
      .query("update job set status = 'waiting', attempt = attempt - 1 where worker = $1 and status = 'running'", [this.name])
      .catch(() => undefined);
    await Promise.all(running.map((t) => t.terminate()));
    await this.runner?.stop().catch(() => undefined);
    await this.listener?.end().catch(() => undefined);
  }
}
