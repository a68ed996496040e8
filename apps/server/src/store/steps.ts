import type { History, HistoryStep } from '@pebble/contracts';
import type { Patch } from '@pebble/core';
import type pg from 'pg';

export type Turn = 'undo' | 'redo';
/** What made a version: what undo knows, a turn, or the start (and what undo is not to know). */
export type Kind = 'create' | 'edit' | Turn;

/** Where a document stands: its newest step in effect and the newest undo that can be turned back. */
export interface Standing {
  top: number | null;
  undone: number | null;
}
/** A step to be turned, with what then lies on top. */
export interface Turning {
  target: number;
  label: string;
  patch: Patch;
  inverse: Patch;
  after: Standing;
  /** What the revision that turns it lies on. */
  below: number | null;
}

/** Steps a page: more than a list of them shows at once. */
export const PAGE = 100;

interface StepRow {
  version: number;
  label: string;
  created_at: Date;
  below: number | null;
}

/** The step that an undo or redo turns, and what follows of it; null where there is none. Looks at one or two rows, however many there are. */
export async function turning(client: pg.PoolClient, id: string, { top, undone }: Standing, turn: Turn): Promise<Turning | null> {
  const read = async (version: number) =>
    (
      await client.query<{ target: number | null; label: string; patch: Patch; inverse: Patch; below: number | null }>(
        'select target, label, patch, inverse, below from revision where document_id = $1 and version = $2',
        [id, version],
      )
    ).rows[0];
  if (turn === 'undo') {
    if (top === null) return null;
    const { label, patch, inverse, below } = await read(top);
    // The undo becomes the newest that can be turned back: which version it has is known when it is written.
    return { target: top, label, patch: inverse, inverse: patch, after: { top: below, undone: null }, below: undone };
  }
  if (undone === null) return null;
  const back = await read(undone);
  const target = back.target ?? 0;
  const { label, patch, inverse } = await read(target);
  return { target, label, patch, inverse, after: { top: target, undone: back.below }, below: top };
}

/** Up to `limit` revisions, each of which lies on the next one, from a version on. */
async function walk(db: pg.Pool, id: string, from: number | null, limit: number): Promise<StepRow[]> {
  if (from === null) return [];
  // A recursive query is carried on only as far as its rows are taken.
  const { rows } = await db.query<StepRow>(
    `with recursive s as (
       select version, label, created_at, below from revision where document_id = $1 and version = $2
       union all select r.version, r.label, r.created_at, r.below from revision r join s on r.document_id = $1 and r.version = s.below
     ) select * from s limit $3`,
    [id, from, limit],
  );
  return rows;
}

/**
 * A page of the named steps of a document, newest last: what is undone and the newest in effect, or those before a version.
 * `more` is the version to ask for what comes before.
 */
export async function history(db: pg.Pool, id: string, standing: Standing, before: number | null, limit = PAGE): Promise<History> {
  const step =
    (inEffect: boolean) =>
    (r: StepRow): HistoryStep => ({ version: r.version, label: r.label, at: r.created_at.toISOString(), done: inEffect });
  let from = standing.top;
  if (before !== null)
    from =
      (await db.query<{ below: number | null }>("select below from revision where document_id = $1 and version = $2 and kind = 'edit'", [id, before]))
        .rows[0]?.below ?? null;
  const page = await walk(db, id, from, limit);
  const undone = before === null ? await undoneOf(db, id, standing.undone, limit) : [];
  return {
    steps: [...page.map(step(true)).reverse(), ...undone.map(step(false))],
    undo: before === null ? (page[0]?.label ?? null) : null,
    redo: undone[0]?.label ?? null,
    more: page.length === limit && page[limit - 1].below !== null ? page[limit - 1].version : null,
  };
}

/** Steps that are undone, the one that comes first when they are done again first. */
async function undoneOf(db: pg.Pool, id: string, from: number | null, limit: number): Promise<StepRow[]> {
  const turns = await walk(db, id, from, limit);
  if (!turns.length) return [];
  const { rows } = await db.query<StepRow>(
    `select step.version, step.label, step.created_at, step.below
     from unnest($2::integer[]) with ordinality as turn (version, place)
     join revision undo on undo.document_id = $1 and undo.version = turn.version
     join revision step on step.document_id = $1 and step.version = undo.target
     order by turn.place`,
    [id, turns.map((t) => t.version)],
  );
  return rows;
}
