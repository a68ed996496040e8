import { applyPatch } from '@pebble/core';
import type { Runner } from 'graphile-worker';
import { Logger, run } from 'graphile-worker';
import os from 'node:os';
import { createHash, randomBytes } from 'node:crypto';
import { readFileSync, readlinkSync } from 'node:fs';
import type pg from 'pg';
import type { Client } from 'pg';
import { Listener } from '../db/listener';
import type { Address } from '../db/pool';
import { isAway, transaction, whenBack } from '../db/pool';
import type { PgDocumentStore } from '../store/documents';
import type { PgJobStore } from '../store/jobs';
import { TASKS } from '../store/jobs';
import type { Hand } from './hands';
import { ownProcess, thread } from './hands';
import type { Outcome } from './kind';
import type { WorkerJob, WorkerMessage, WorkerStart } from './protocol';

export interface RunnerOptions {
  pool: pg.Pool;
  connect: () => Client;
  address: Address;
  /** Address of the quarry, when there is one. */
  quarry: string | null;
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

/** Where a process number means one process: machines may share a name, and containers of one machine number their own. */
function world(): string {
  const parts = [os.hostname()];
  try {
    parts.push(readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim(), readlinkSync('/proc/self/ns/pid'));
  } catch {
    // Elsewhere a name has to do.
  }
  return `${os.hostname()}:${createHash('sha256').update(parts.join()).digest('hex').slice(0, 8)}`;
}
const HERE = world();

/** How an attempt ended. */
type Ended = Exclude<WorkerMessage, { type: 'progress' }> | { type: 'cancelled' } | { type: 'died' };

/**
 * Takes jobs from the queue and runs each in a thread; threads whose job ended by itself are kept for the next one. A job
 * whose worker has died under it, as far as anybody knows by its doing, has a process for itself.
 */
export class JobRunner {
  /** Where it runs, process and a random part: a new process with an old number is told apart. */
  readonly name = `${HERE}/${process.pid}/${randomBytes(3).toString('hex')}`;
  private readonly hands = new Map<string, Hand>();
  private readonly idle = new Set<Hand>();
  private readonly listener: Listener;
  private runner: Runner | null = null;
  private timer: NodeJS.Timeout | null = null;
  private stopped = false;

  constructor(private readonly options: RunnerOptions) {
    this.listener = new Listener(options.connect, 'pebble_cancel', (id) => void this.hands.get(id)?.end());
  }

  async start(): Promise<void> {
    const { jobs, deadAfterSeconds = 30, log = () => undefined } = this.options;
    await jobs.recover(deadAfterSeconds, await this.goneHere());
    await this.listener.start();
    await this.take();
    const beat = async () => {
      await jobs.heartbeat([...this.hands.keys()], this.name);
      // What died on this machine need not be waited for.
      await jobs.recover(deadAfterSeconds, await this.goneHere());
      await this.lookAfter();
    };
    this.timer = setInterval(() => void beat().catch((e: Error) => log(e.message)), 4000);
    this.timer.unref();
  }

  /** Takes from the queue; should that end because the database went away, begins again. */
  private async take(): Promise<void> {
    const { pool, log = () => undefined } = this.options;
    const perform = (payload: unknown) => this.perform((payload as { id: string }).id).catch((e: Error) => log(e.message));
    const runner = await run({
      pgPool: pool,
      concurrency: this.concurrency,
      noHandleSignals: true,
      pollInterval: 2000,
      logger: new Logger(() => () => undefined),
      taskList: Object.fromEntries(this.tasks.map((task) => [task, perform])),
    });
    // It may have been asked to end meanwhile.
    if (this.stopped) return runner.stop();
    this.runner = runner;
    const again = () => {
      if (!this.stopped && this.runner === runner) setTimeout(() => void this.take().catch(again), 1000).unref();
    };
    runner.promise.then(again, again);
  }

  /**
   * The queue's own loop may come to rest without a word when the database is killed under it. Where something has waited
   * that should have been taken many times over, another loop begins.
   */
  private async lookAfter(): Promise<void> {
    if (this.stopped || this.hands.size >= this.concurrency || !(await this.options.jobs.overdue(this.tasks))) return;
    const resting = this.runner;
    await this.take();
    await resting?.stop().catch(() => undefined);
  }
  private get concurrency(): number {
    return this.options.concurrency ?? 2;
  }
  /** What is taken here: what is fetched from the quarry only where there is one. */
  private get tasks(): string[] {
    return this.options.quarry === null ? [TASKS.any] : [TASKS.any, TASKS.quarry];
  }

  /** Workers named after processes of this machine that no longer run. */
  private async goneHere(): Promise<string[]> {
    return (await this.options.jobs.runningWorkers()).filter((worker) => {
      const [host, pid] = worker.split('/');
      if (host !== HERE || worker === this.name) return false;
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
    const { kind, payload, attempt, apart } = claimed;
    const end = (status: 'failed' | 'cancelled', error?: string) => transaction(pool, (client) => jobs.end(client, id, attempt, status, { error }));
    const ended = await this.attempt(id, attempt, apart, { kind, payload });
    if (this.stopped) return;
    await whenBack(async () => {
      if (ended.type === 'cancelled') await end('cancelled');
      else if (ended.type === 'lost') await jobs.giveBack(id, attempt);
      else if (ended.type === 'died') await jobs.died(id, attempt);
      else if (ended.type === 'failed') await end('failed', ended.message);
      else
        await this.publish(id, attempt, ended.outcome).catch((error: Error) => {
          if (isAway(error)) throw error;
          return error instanceof Fenced ? undefined : end('failed', error.message);
        });
    });
  }

  private hand(apart: boolean): Hand {
    const { address, quarry, projectId, lightFile, workerFile } = this.options;
    const start: WorkerStart = { databaseUrl: address(), quarry, projectId, lightFile };
    if (apart) return ownProcess(workerFile, start);
    for (const kept of this.idle) {
      this.idle.delete(kept);
      if (kept.databaseUrl === start.databaseUrl) return kept;
      // The database has moved meanwhile.
      void kept.end();
    }
    const made = thread(workerFile, start);
    const drop = () => void this.idle.delete(made);
    made.hear({ message: () => undefined, error: drop, exit: drop });
    return made;
  }

  /** Runs one attempt until it ends by itself or is ended. */
  private async attempt(id: string, attempt: number, apart: boolean, job: WorkerJob): Promise<Ended> {
    const hand = this.hand(apart);
    this.hands.set(id, hand);
    const progress = (done: number, note: string) =>
      this.options.jobs.progress(id, attempt, done, note).then(
        // What comes late must not end the job that the thread has gone on to.
        (go) => (go || this.hands.get(id) !== hand ? undefined : void hand.end()),
        // The database is away: the thread finds that out by itself.
        () => undefined,
      );
    let deaf: () => void = () => undefined;
    const ended = await new Promise<Ended>((settle) => {
      deaf = hand.hear({
        message: (message) => (message.type === 'progress' ? void progress(message.done, message.note) : settle(message)),
        error: (error) => settle({ type: 'failed', message: `The work stopped: ${error.message}` }),
        exit: (ours) => settle({ type: ours ? 'cancelled' : 'died' }),
      });
      hand.begin(job);
    });
    deaf();
    this.hands.delete(id);
    // A thread whose job was ended from outside, or lost the database, does not go on with another.
    if (!this.stopped && !apart && (ended.type === 'done' || ended.type === 'failed')) this.idle.add(hand);
    else await hand.end();
    return ended;
  }

  /** Everything a job made appears in one transaction, or nothing does. */
  private async publish(id: string, attempt: number, outcome: Outcome): Promise<void> {
    const { pool, documents, jobs } = this.options;
    await transaction(pool, async (client) => {
      const created: string[] = [];
      // Job, then documents, then the project's count of events: whoever holds several of them takes them in this order.
      await jobs.hold(client, id);
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
    await Promise.all([...this.hands.values(), ...this.idle].map((hand) => hand.end()));
    await this.runner?.stop().catch(() => undefined);
    // Not before nothing is taken any more: it would be taken again here.
    await this.options.jobs.giveAllBack(this.name).catch(() => undefined);
    await this.listener.stop();
  }
}
