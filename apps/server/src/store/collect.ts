import type pg from 'pg';

/** How old, in seconds, what nothing names must be before it is collected. */
export interface Ages {
  /** Pixels and files that no document has ever named: of refused uploads, of imports that were not finished. */
  blob: number;
  /** Chunks of uploads that never ended. */
  upload: number;
  /** Documents that were removed, with their steps. */
  removed: number;
  /** Jobs that have ended, and what they made for download. */
  job: number;
}
const DAY = 86_400;
export const AGES: Ages = { blob: 7 * DAY, upload: DAY / 24, removed: 30 * DAY, job: 7 * DAY };
/** Events that are kept: twice of what is told at once, so that no window that is told them meets the gap. */
export const EVENTS_KEPT = 10_000;
/** Blobs a statement: none holds its rows long. */
const LOT = 40;
/** Any number; of all programs at this database one collects at a time. */
const LOCK = 726_011_941;

export interface Collected {
  documents: number;
  jobs: number;
  events: number;
  blobs: number;
  bytes: number;
}

/**
 * Lets go of what nothing needs any more. Never of pixels that any document has ever named (its old steps, and named
 * versions, go on naming them), nor of those that a job names. Null when another program is at it.
 *
 * A blob that is put or named again meanwhile is young again (`useAgain`), which the row that is being deleted is looked at
 * for once more.
 */
export async function collect(pool: pg.Pool, ages: Ages = AGES, goOn: () => boolean = () => true): Promise<Collected | null> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    const { rows } = await client.query<{ ours: boolean }>('select pg_try_advisory_lock($1) as ours', [LOCK]);
    if (!rows[0].ours) return null;
    const count = async (sql: string, values: unknown[]) => (await client.query(sql, values)).rowCount ?? 0;
    const documents = await count(
      `delete from document d where deleted and deleted_at < now() - make_interval(secs => $1)
         and not exists (select 1 from kept_document k where k.document_id = d.id)`,
      [ages.removed],
    );
    const jobs = await count("delete from job where status in ('done', 'failed', 'cancelled') and ended_at < now() - make_interval(secs => $1)", [
      ages.job,
    ]);
    const events = await count('delete from event e using project p where p.id = e.project_id and e.seq <= p.event_seq - $1', [EVENTS_KEPT]);
    await client.query('delete from upload_chunk where created_at < now() - make_interval(secs => $1)', [ages.upload]);
    const of = { documents, jobs, events, blobs: 0, bytes: 0 };
    for (let more = true; more && goOn();) {
      const { rows: gone } = await client.query<{ bytes: string }>(
        `with named as materialized (
           select distinct m[1] as hash from job, regexp_matches(payload::text || coalesce(result::text, ''), '[0-9a-f]{64}', 'g') m
         ), old as (
           select hash from blob b where used_at < now() - make_interval(secs => $1)
             and not exists (select 1 from blob_ref r where r.hash = b.hash) and not exists (select 1 from named n where n.hash = b.hash)
           limit $2
         )
         delete from blob using old where blob.hash = old.hash and used_at < now() - make_interval(secs => $1) returning blob.bytes`,
        [ages.blob, LOT],
      );
      of.blobs += gone.length;
      of.bytes += gone.reduce((sum, { bytes }) => sum + Number(bytes), 0);
      more = gone.length === LOT;
    }
    return of;
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    if (!broken) await client.query('select pg_advisory_unlock($1)', [LOCK]).catch((e: Error) => (broken = e));
    client.release(broken);
  }
}

const FIRST_MS = 60_000;
const EVERY_MS = 3_600_000;

/** Collects in the background from now on. Gives what ends it. */
export function collecting(pool: pg.Pool, log: (text: string) => void): () => void {
  let ended = false;
  const run = async () => {
    try {
      const of = await collect(pool, AGES, () => !ended);
      if (of && (of.blobs || of.documents))
        log(
          `Collected ${of.blobs} pictures and files that nothing named (${(of.bytes / 2 ** 20).toFixed(1)} MB) and ${of.documents} removed documents`,
        );
    } catch (error) {
      log(`Nothing was collected this time: ${(error as Error).message}`);
    }
  };
  let timer = setTimeout(again, FIRST_MS);
  function again(): void {
    void run().finally(() => {
      if (ended) return;
      timer = setTimeout(again, EVERY_MS);
      timer.unref();
    });
  }
  timer.unref();
  return () => {
    ended = true;
    clearTimeout(timer);
  };
}
