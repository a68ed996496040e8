import { createHash } from 'node:crypto';
import { readFile, readdir } from 'node:fs/promises';
import path from 'node:path';
import type pg from 'pg';

/** The database does not fit this program. The message is for people. */
export class MigrationError extends Error {}

/** Any number; all programs that migrate this database use the same. */
const LOCK = 726_011_940;

const FILE = /^\d{3}-.*\.sql$/;

/** The files, and what was applied of them with which checksums. @throws MigrationError when the database is newer than the files */
async function known(db: pg.Pool | pg.PoolClient, folder: string): Promise<{ files: string[]; applied: ReadonlyMap<string, string> }> {
  const files = (await readdir(folder)).filter((f) => FILE.test(f)).sort();
  const { rows } = await db.query<{ name: string; checksum: string }>('select name, checksum from migration');
  const newer = rows.map((r) => r.name).filter((name) => !files.includes(name));
  if (newer.length)
    throw new MigrationError(
      `The data folder was last used by a newer version of Jaunty Pebble (it has ${newer.join(', ')}). Update the program, or start with another --data folder`,
    );
  return { files, applied: new Map(rows.map((r) => [r.name, r.checksum])) };
}

/** For a program that only uses a database which another keeps up to date. @throws MigrationError when it does not fit these files */
export async function assertMigrated(pool: pg.Pool, folder: string): Promise<void> {
  const { rows } = await pool.query<{ there: string | null }>("select to_regclass('migration') as there");
  if (rows[0].there === null)
    throw new MigrationError('DATABASE_URL names a database that no Jaunty Pebble has used yet. Start the server on it first');
  const { files, applied } = await known(pool, folder);
  const missing = files.filter((f) => !applied.has(f));
  if (missing.length)
    throw new MigrationError(
      `The database is that of an older version (it lacks ${missing.join(', ')}). Start the server of this version on it first, or work with the older program`,
    );
}

/**
 * Applies the numbered SQL files that are missing, in order, each in a transaction.
 * @throws MigrationError when the database has migrations that are newer than, or different from, these files.
 */
export async function migrate(pool: pg.Pool, folder: string): Promise<number> {
  const client = await pool.connect();
  try {
    // A migration may take its time, and so may the one that another program is at.
    await client.query('set statement_timeout = 0; set lock_timeout = 0');
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    await client.query(
      'create table if not exists migration (name text primary key, checksum text not null, applied_at timestamptz not null default now())',
    );
    const { files, applied } = await known(client, folder);
    let count = 0;
    for (const file of files) {
      const sql = await readFile(path.join(folder, file), 'utf8');
      const checksum = createHash('sha256').update(sql).digest('hex');
      const before = applied.get(file);
      if (before && before !== checksum)
        throw new MigrationError(`The migration ${file} was changed after it had been applied. Restore the file; changes belong in a new one`);
      if (before) continue;
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
