import { documentProblem } from '@pebble/contracts';
import { DOCUMENT_VERSIONS, upgraded } from '@pebble/core';
import type { DocumentKind } from '@pebble/core';
import type pg from 'pg';
import { MigrationError } from './migrate';

/**
 * Brings stored documents, deleted ones that may come back included, to the versions that are written today: all or none.
 * Gives how many were changed. Their history stays; a step that no longer fits is refused when it is undone.
 * @throws Error naming a document that does not fit afterwards
 */
export async function upgradeDocuments(pool: pg.Pool): Promise<number> {
  const client = await pool.connect();
  let count = 0;
  try {
    await client.query('begin');
    await refuseNewer(client);
    const { rows: known } = await client.query<{ id: string }>("select id from document where kind = 'blend'");
    const blends = new Set(known.map((r) => r.id));
    for (const [kind, version] of Object.entries(DOCUMENT_VERSIONS) as [DocumentKind, number][]) {
      const { rows } = await client.query<{ id: string; body: unknown }>(
        "select id, body from document where kind = $1 and (body->>'version')::int < $2 for update",
        [kind, version],
      );
      for (const { id, body } of rows) {
        const next = upgraded(body, (other) => blends.has(other));
        const problem = documentProblem(next);
        if (problem) throw new Error(`The ${kind} ${id} could not be brought to version ${version}: ${problem}. Nothing was changed`);
        await client.query('update document set body = $2 where id = $1', [id, JSON.stringify(next)]);
        count++;
      }
    }
    await client.query('commit');
    return count;
  } catch (error) {
    await client.query('rollback').catch(() => undefined);
    throw error;
  } finally {
    client.release();
  }
}

/** @throws MigrationError when a newer program has written documents here: they are not guessed at, and not written over */
async function refuseNewer(client: pg.PoolClient): Promise<void> {
  const { rows } = await client.query<{ name: string; kind: string; version: number; count: string }>(
    `select body->>'name' as name, kind, (body->>'version')::int as version, count(*) over () as count from document
     where (body->>'version')::int > coalesce(($1::jsonb->>kind)::int, 0) order by id limit 1`,
    [JSON.stringify(DOCUMENT_VERSIONS)],
  );
  if (!rows[0]) return;
  const { name, kind, version, count } = rows[0];
  const others = Number(count) > 1 ? ` and ${Number(count) - 1} more` : '';
  throw new MigrationError(
    `The data folder holds documents of a newer version of Jaunty Pebble: the ${kind} ${name} (format ${version})${others}. Update the program, or start with another --data folder`,
  );
}
