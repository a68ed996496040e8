import { createHash } from 'node:crypto';
import { readFile, readdir } from 'node:fs/promises';
import path from 'node:path';
import type pg from 'pg';

/** The database does not fit this program. The message is for people. */
export class MigrationError extends Error {}

/** Any number; all programs that migrate this database use the same. */
const LOCK = 726_011_940;

/**
 * Applies the numbered SQL files that are missing, in order, each in a transaction.
 * @throws MigrationError when the database has migrations that are newer than, or different from, these files.
 */
export async function migrate(pool: pg.Pool, folder: string): Promise<number> {
  const files = (await readdir(folder)).filter((f) => /^\d{3}-.*\.sql$/.test(f)).sort();
  const client = await pool.connect();
  try {
    // A migration may take its time, and so may the one that another program is at.
    await client.query('set statement_timeout = 0; set lock_timeout = 0');
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    await client.query(
      'create table if not exists migration (name text primary key, checksum text not null, applied_at timestamptz not null default now())',
    );
    const applied = new Map(
      (await client.query<{ name: string; checksum: string }>('select name, checksum from migration')).rows.map((r) => [r.name, r.checksum]),
    );
    const newer = [...applied.keys()].filter((name) => !files.includes(name));
    if (newer.length)
      throw new MigrationError(
        `The data folder was last used by a newer version of Jaunty Pebble (it has ${newer.join(', ')}). Update the program, or start with another --data folder`,
      );
    let count = 0;
    for (const file of files) {
      const sql = await readFile(path.join(folder, file), 'utf8');
      const checksum = createHash('sha256').update(sql).digest('hex');
      const known = applied.get(file);
      if (known && known !== checksum)
        throw new MigrationError(`The migration ${file} was changed after it had been applied. Restore the file; changes belong in a new one`);
      if (known) continue;
      await client.query('begin');
      try {
        await client.query(sql);
        await client.query('insert into migration (name, checksum) values ($1, $2)', [file, checksum]);
        await client.query('commit');
      } catch (error) {
        await client.query('rollback');
        throw error;
      }
      count++;
    }
    return count;
  } finally {
    await client.query('select pg_advisory_unlock($1)', [LOCK]).catch(() => undefined);
    await client.query('reset statement_timeout; reset lock_timeout').catch(() => undefined);
    client.release();
  }
}
