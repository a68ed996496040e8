// Takes jobs from a database that a server elsewhere stands on: `npm run worker`, on a second machine.
import path from 'node:path';
import pg from 'pg';
import { PROJECT } from './app';
import { assertMigrated } from './db/migrate';
import { isAway, makePool } from './db/pool';
import { onEnd } from './ending';
import { JobRunner } from './jobs/runner';
import { plainly } from './plainly';
import { PgDocumentStore } from './store/documents';
import { PgJobStore } from './store/jobs';

const say = (text: string) => process.stdout.write(`${text}\n`);
const root = process.env['PEBBLE_ROOT'] ?? process.cwd();
const databaseUrl = process.env['DATABASE_URL'];

async function start(): Promise<void> {
  if (!databaseUrl) throw new Error('A worker needs to know where the database is: set DATABASE_URL to the one that the server uses.');
  const pool = makePool(databaseUrl, 8, (error) => say(`database: ${error.message}`));
  await assertMigrated(pool, path.join(root, 'db/migrations'));
  const runner = new JobRunner({
    pool,
    connect: () => new pg.Client({ connectionString: databaseUrl, application_name: 'jaunty-pebble-listen' }),
    address: () => databaseUrl,
    quarry: process.env['PEBBLE_QUARRY'] ?? null,
    projectId: PROJECT,
    jobs: new PgJobStore(pool, PROJECT),
    documents: new PgDocumentStore(pool, PROJECT),
    log: say,
    workerFile: path.join(root, 'dist/node/job-worker.mjs'),
    lightFile: path.join(root, 'dist/light/overcast.bin'),
  });
  let stopping = false;
  onEnd(() => {
    if (stopping) return;
    stopping = true;
    say('Stopping; what is under way goes back to the queue …');
    void runner
      .stop()
      .then(() => pool.end())
      .catch((e: Error) => say(e.message))
      .finally(() => process.exit(0));
  });
  await runner.start();
  say(`Taking jobs as ${runner.name}`);
}

// The queue's own book-keeping rejects into nowhere while the database is away; the work itself is tried again by us.
process.on('unhandledRejection', (error) => {
  if (!isAway(error)) throw error;
  say(`database: ${(error as Error).message}`);
});

start().catch((error: Error) => {
  process.stderr.write(`${plainly(error, { data: root, databaseUrl })}\n`);
  process.exit(1);
});
