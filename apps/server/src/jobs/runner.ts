import { applyPatch } from '@pebble/core';
import type { Runner } from 'graphile-worker';
import { Logger, run } from 'graphile-worker';
import os from 'node:os';
import { randomBytes } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import type pg from 'pg';
import type { Client } from 'pg';
import { Listener } from '../db/listener';
import { isAway, transaction, whenBack } from '../db/pool';
import type { PgDocumentStore } from '../store/documents';
import type { PgJobStore } from '../store/jobs';
import type { Outcome } from './kind';
import type { WorkerJob, WorkerMessage, WorkerStart } from './protocol';

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

/** How an attempt ended. */
type Ended = Exclude<WorkerMessage, { type: 'progress' }> | { type: 'cancelled' };

/** Takes jobs from the queue and runs each in a thread; threads whose job ended by itself are kept for the next one. */
export class JobRunner {
  /** Host, process and a random part: a new process with an old number is told apart. */
  readonly name = `${os.hostname()}/${process.pid}/${randomBytes(3).toString('hex')}`;
  private readonly threads = new Map<string, Worker>();
  private readonly idle = new Set<Worker>();
  private readonly listener: Listener;
  private runner: Runner | null = null;
  private timer: NodeJS.Timeout | null = null;
  private stopped = false;

  constructor(private readonly options: RunnerOptions) {
    this.listener = new Listener(options.connect, 'pebble_cancel', (id) => void this.threads.get(id)?.terminate());
  }

  async start(): Promise<void> {
    const { jobs, deadAfterSeconds = 30, log = () => undefined } = this.options;
    await jobs.recover(deadAfterSeconds, await this.goneHere());
    await this.listener.start();
    await this.take();
    const beat = async () => {
      await jobs.heartbeat([...this.threads.keys()], this.name);
      await jobs.recover(deadAfterSeconds);
    };
    this.timer = setInterval(() => void beat().catch((e: Error) => log(e.message)), 4000);
    this.timer.unref();
  }

  /** Takes from the queue; should that end because the database went away, begins again. */
  private async take(): Promise<void> {
    const { pool, concurrency = 2, log = () => undefined } = this.options;
    this.runner = await run({
      pgPool: pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 2000,
      logger: new Logger(() => () => undefined),
      taskList: { pebble: (payload) => this.perform((payload as { id: string }).id).catch((e: Error) => log(e.message)) },
    });
    const again = () => {
      if (!this.stopped) setTimeout(() => void this.take().catch(again), 1000).unref();
    };
    this.runner.promise.then(again, again);
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
    const { jobs, pool } = this.options;
    const claimed = await jobs.claim(id, this.name);
    if (!claimed) return;
    const { kind, payload, attempt } = claimed;
    const end = (status: 'failed' | 'cancelled', error?: string) => transaction(pool, (client) => jobs.end(client, id, attempt, status, { error }));
    const ended = await this.inThread(id, attempt, { kind, payload });
    if (this.stopped) return;
    await whenBack(async () => {
      if (ended.type === 'cancelled') await end('cancelled');
      else if (ended.type === 'lost') await jobs.giveBack(id, attempt);
      else if (ended.type === 'failed') await end('failed', ended.message);
      else
        await this.publish(id, attempt, ended.outcome).catch((error: Error) => {
          if (isAway(error)) throw error;
          return error instanceof Fenced ? undefined : end('failed', error.message);
        });
    });
  }

  private thread(): Worker {
    for (const kept of this.idle) {
      this.idle.delete(kept);
      return kept;
    }
    const { databaseUrl, projectId, lightFile, workerFile } = this.options;
    const workerData: WorkerStart = { databaseUrl, projectId, lightFile };
    const made = new Worker(workerFile, { workerData, resourceLimits: { maxOldGenerationSizeMb: 4096 } });
    const drop = () => void this.idle.delete(made);
    return made.on('exit', drop).on('error', drop);
  }

  /** Runs one attempt in a thread until it ends by itself or is ended. */
  private async inThread(id: string, attempt: number, job: WorkerJob): Promise<Ended> {
    const thread = this.thread();
    this.threads.set(id, thread);
    const progress = (done: number, note: string) =>
      this.options.jobs.progress(id, attempt, done, note).then(
        // What comes late must not end the job that the thread has gone on to.
        (go) => (go || this.threads.get(id) !== thread ? undefined : void thread.terminate()),
        // The database is away: the thread finds that out by itself.
        () => undefined,
      );
    let settle: (ended: Ended) => void = () => undefined;
    const ending = new Promise<Ended>((resolve) => (settle = resolve));
    const onMessage = (message: WorkerMessage) => (message.type === 'progress' ? void progress(message.done, message.note) : settle(message));
    const onError = (error: Error) => settle({ type: 'failed', message: `The work stopped: ${error.message}` });
    const onExit = () => settle({ type: 'cancelled' });
    thread.on('message', onMessage).on('error', onError).on('exit', onExit);
    thread.postMessage(job);
    const ended = await ending;
    thread.off('message', onMessage).off('error', onError).off('exit', onExit);
    this.threads.delete(id);
    // A thread whose job was ended from outside, or lost the database, does not go on with another.
    if (!this.stopped && (ended.type === 'done' || ended.type === 'failed')) this.idle.add(thread);
    else await thread.terminate();
    return ended;
  }

  /** Everything a job made appears in one transaction, or nothing does. */
  private async publish(id: string, attempt: number, outcome: Outcome): Promise<void> {
    const { pool, documents, jobs } = this.options;
    await transaction(pool, async (client) => {
      const created: string[] = [];
      await documents.hold(
        client,
        [...(outcome.replace ?? []), ...(outcome.edit ?? [])].map((d) => d.id),
      );
      for (const { id: documentId, body } of outcome.create ?? [])
        created.push((await documents.createIn(client, body, `Add ${body.name}`, undefined, documentId)).id);
      for (const { id: documentId, body, label, silent } of outcome.replace ?? [])
        await documents.changeIn(client, documentId, label, () => body, silent);
      for (const { id: documentId, patch, label } of outcome.edit ?? [])
        await documents.changeIn(client, documentId, label, (now) => applyPatch(now, patch));
      if (!(await jobs.end(client, id, attempt, 'done', { result: { ...outcome.result, documents: created } }))) throw new Fenced();
    });
    for (const next of outcome.follow ?? []) await jobs.add(next.kind, next.label, next.payload);
  }

  /** Ends the threads; their jobs go back to the queue, as after a crash. */
  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearInterval(this.timer);
    const { pool } = this.options;
    await pool
      .query("update job set status = 'waiting', attempt = attempt - 1 where worker = $1 and status = 'running'", [this.name])
      .catch(() => undefined);
    await pool
      .query(
        "select graphile_worker.add_job('pebble', json_build_object('id', id::text), job_key => id::text, max_attempts => 1) from job where worker = $1 and status = 'waiting'",
        [this.name],
      )
      .catch(() => undefined);
    await Promise.all([...this.threads.values(), ...this.idle].map((t) => t.terminate()));
    await this.runner?.stop().catch(() => undefined);
    await this.listener.stop();
  }
}
