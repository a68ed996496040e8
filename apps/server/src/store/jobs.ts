import type { JobKind, JobPayload, JobStatus, JobView } from '@pebble/contracts';
import { randomUUID } from 'node:crypto';
import type pg from 'pg';
import { transaction } from '../db/pool';
import { ServiceError, notFound } from './errors';
import { addEvent } from './events';

interface Row {
  id: string;
  kind: JobKind;
  label: string;
  status: JobStatus;
  progress: number;
  note: string;
  error: string | null;
  result: Record<string, unknown> | null;
  payload: object;
  attempt: number;
  apart: boolean;
}
const VIEW = 'id, kind, label, status, progress, note, error, result';
export const viewOf = ({ id, kind, label, status, progress, note, error, result }: Row): JobView =>
  ({ id, kind, label, status, progress, note, error, result }) as JobView;

/** A job is given up after it has ended the process of its own so often. */
export const MAX_DEATHS = 2;

/** The queue is looked at every two seconds. */
const OVERDUE_SECONDS = 12;

/** The truth about jobs; the queue of graphile-worker only says when to look. */
export class PgJobStore {
  constructor(
    private readonly pool: pg.Pool,
    private readonly projectId: string,
  ) {}

  async add<K extends JobKind>(kind: K, label: string, payload: JobPayload<K>): Promise<JobView> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>(
        `insert into job (id, project_id, kind, label, payload) values ($1, $2, $3, $4, $5) returning ${VIEW}`,
        [randomUUID(), this.projectId, kind, label, JSON.stringify(payload)],
      );
      await enqueue(client, rows[0].id, kind, payload);
      await addEvent(client, this.projectId, { type: 'job', job: viewOf(rows[0]) });
      return viewOf(rows[0]);
    });
  }

  async get(id: string): Promise<JobView> {
    const { rows } = await this.pool.query<Row>(`select ${VIEW} from job where id = $1 and project_id = $2`, [id, this.projectId]);
    if (!rows[0]) throw notFound('This job');
    return viewOf(rows[0]);
  }

  /** Jobs that are open, and the newest that have ended. */
  async list(): Promise<JobView[]> {
    const { rows } = await this.pool.query<Row>(
      `select ${VIEW} from job where project_id = $1 and (status in ('waiting', 'running') or ended_at > now() - interval '1 hour') order by created_at desc limit 100`,
      [this.projectId],
    );
    return rows.map(viewOf);
  }

  /** Takes a waiting job. Null when it is not waiting any more. */
  async claim(id: string, worker: string): Promise<Pick<Row, 'kind' | 'payload' | 'attempt' | 'label' | 'apart'> | null> {
    const { rows } = await this.pool.query<Row>(
      `update job set status = 'running', worker = $2, heartbeat = now(), attempt = attempt + 1, progress = 0, note = '' where id = $1 and status = 'waiting' and not cancel_asked returning *`,
      [id, worker],
    );
    return rows[0] ?? null;
  }

  /** Notes progress. False when the job is no longer this attempt's: the worker must stop. */
  async progress(id: string, attempt: number, done: number, note: string): Promise<boolean> {
    const { rows } = await this.pool.query<Row & { cancel_asked: boolean }>(
      `update job set progress = $3, note = $4, heartbeat = now() where id = $1 and attempt = $2 and status = 'running' returning ${VIEW}, cancel_asked`,
      [id, attempt, done, note],
    );
    if (!rows[0]) return false;
    await addEvent(this.pool, this.projectId, { type: 'job', job: viewOf(rows[0]) });
    return !rows[0].cancel_asked;
  }

  async heartbeat(ids: readonly string[], worker: string): Promise<void> {
    if (ids.length)
      await this.pool.query("update job set heartbeat = now() where id = any($1) and worker = $2 and status = 'running'", [ids, worker]);
  }

  /** Holds a job until the transaction ends. */
  async hold(client: pg.PoolClient, id: string): Promise<void> {
    await client.query('select 1 from job where id = $1 for update', [id]);
  }

  /** Ends an attempt. False when it was fenced off: then its results must not appear, and the transaction is undone. */
  async end(
    client: pg.PoolClient,
    id: string,
    attempt: number,
    status: 'done' | 'failed' | 'cancelled',
    over: { error?: string; result?: object } = {},
  ): Promise<boolean> {
    const { rows } = await client.query<Row>(
      `update job set status = $3, error = $4, result = $5, ended_at = now(), progress = case when $3 = 'done' then 1 else progress end where id = $1 and attempt = $2 and status = 'running' returning ${VIEW}`,
      [id, attempt, status, over.error ?? null, over.result ? JSON.stringify(over.result) : null],
    );
    if (!rows[0]) return false;
    await addEvent(client, this.projectId, { type: 'job', job: viewOf(rows[0]) });
    return true;
  }

  /** Puts a job back in the queue whose attempt was lost through no fault of its own. */
  giveBack(id: string, attempt: number): Promise<void> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>(
        "select id, kind, payload, label from job where id = $1 and attempt = $2 and status = 'running' for update",
        [id, attempt],
      );
      for (const row of rows) await this.wait(client, row);
    });
  }

  /** All that a worker is at go back to the queue: it ends. */
  giveAllBack(worker: string): Promise<void> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>("select id, kind, payload from job where worker = $1 and status = 'running' for update", [worker]);
      for (const row of rows) await this.wait(client, row);
    });
  }

  /** An attempt ended the process that it had for itself: it is tried once more, then given up. */
  died(id: string, attempt: number): Promise<void> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row & { deaths: number }>(
        "update job set deaths = deaths + 1 where id = $1 and attempt = $2 and status = 'running' returning id, kind, payload, label, deaths",
        [id, attempt],
      );
      for (const row of rows)
        if (row.deaths < MAX_DEATHS) await this.wait(client, row);
        else
          await this.end(client, id, attempt, 'failed', {
            error: `${row.label}: it ended the process it ran in ${row.deaths} times, so it was given up`,
          });
    });
  }

  /** A running job waits again, or ends where somebody has asked for that. */
  private async wait(client: pg.PoolClient, { id, kind, payload }: Pick<Row, 'id' | 'kind' | 'payload'>): Promise<void> {
    const { rows } = await client.query<Row>(
      `update job set status = case when cancel_asked then 'cancelled' else 'waiting' end, ended_at = case when cancel_asked then now() end
       where id = $1 returning ${VIEW}`,
      [id],
    );
    if (rows[0].status === 'waiting') await enqueue(client, id, kind, payload);
    await addEvent(client, this.projectId, { type: 'job', job: viewOf(rows[0]) });
  }

  /** Asks for an end. A waiting job ends at once; a running one as soon as its worker hears of it. */
  async cancel(id: string): Promise<JobView> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>(
        `update job set cancel_asked = true, status = case when status = 'waiting' then 'cancelled' else status end, ended_at = case when status = 'waiting' then now() end
         where id = $1 and project_id = $2 and status in ('waiting', 'running') returning ${VIEW}`,
        [id, this.projectId],
      );
      if (!rows[0]) throw new ServiceError('job-ended', 'This job has ended already');
      await addEvent(client, this.projectId, { type: 'job', job: viewOf(rows[0]) });
      await client.query("select pg_notify('pebble_cancel', $1)", [id]);
      return viewOf(rows[0]);
    });
  }

  /**
   * Puts jobs of dead workers back in the queue: those silent for `seconds`, and those of workers known to be gone. Whether
   * it was the job that ended its worker nobody knows; from now on it has a process for itself, so that it is known.
   * So are waiting ones without an entry that can be taken: it was lost, or is held by a process that died taking it.
   */
  async recover(seconds: number, goneWorkers: readonly string[] = []): Promise<number> {
    return transaction(this.pool, async (client) => {
      const { rows } = await client.query<Row>(
        `select * from job where project_id = $1 and status = 'running' and (heartbeat < now() - make_interval(secs => $2) or worker = any($3)) for update skip locked`,
        [this.projectId, seconds, goneWorkers],
      );
      for (const row of rows) {
        await client.query('update job set apart = true where id = $1', [row.id]);
        await this.wait(client, row);
      }
      const { rows: forgotten } = await client.query<Row>(
        `select id, kind, payload from job where project_id = $1 and status = 'waiting' and not exists
           (select 1 from graphile_worker.jobs entry where entry.key = job.id::text and entry.locked_at is null and entry.attempts < entry.max_attempts)
         for update skip locked`,
        [this.projectId],
      );
      for (const row of forgotten) await enqueue(client, row.id, row.kind, row.payload);
      return rows.length;
    });
  }

  /** Whether there is work that could have been taken for so long that nobody seems to look. */
  async overdue(tasks: readonly string[]): Promise<boolean> {
    const { rowCount } = await this.pool.query(
      `select 1 from graphile_worker.jobs entry join job on job.id::text = entry.key
       where job.project_id = $1 and job.status = 'waiting' and entry.task_identifier = any($2) and entry.locked_at is null
         and entry.attempts < entry.max_attempts and entry.run_at < now() - make_interval(secs => $3) limit 1`,
      [this.projectId, tasks, OVERDUE_SECONDS],
    );
    return (rowCount ?? 0) > 0;
  }

  async runningWorkers(): Promise<string[]> {
    return (
      await this.pool.query<{ worker: string }>(
        "select distinct worker from job where project_id = $1 and status = 'running' and worker is not null",
        [this.projectId],
      )
    ).rows.map((r) => r.worker);
  }
}

/** Place in the queue of work that nobody waits for; what people ask for is at 0, before it. */
const LATER = 10;

/** Names of work in the queue: whoever has no quarry beside it does not take what is fetched from there. */
export const TASKS = { any: 'pebble', quarry: 'pebble-quarry' } as const;

/** A new entry replaces one that a dead worker still holds: the key moves to the new one. */
async function enqueue(client: pg.PoolClient, id: string, kind: JobKind, payload: object): Promise<void> {
  await client.query("select graphile_worker.add_job($3, json_build_object('id', $1::text), job_key => $1, max_attempts => 1, priority => $2)", [
    id,
    'silent' in payload && payload.silent ? LATER : 0,
    kind === 'fetch' ? TASKS.quarry : TASKS.any,
  ]);
}
