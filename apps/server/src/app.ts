import compress from '@fastify/compress';
import type { FastifyInstance } from 'fastify';
import Fastify from 'fastify';
import { randomBytes } from 'node:crypto';
import path from 'node:path';
import pg from 'pg';
import type { Address } from './db/pool';
import { makePool } from './db/pool';
import { migrate } from './db/migrate';
import { upgradeDocuments } from './db/upgrade';
import { logInto } from './log';
import { JobRunner } from './jobs/runner';
import { blobs } from './plugins/blobs';
import { description } from './plugins/description';
import { deliveries } from './plugins/deliveries';
import type { Door } from './plugins/door';
import { documents } from './plugins/documents';
import { events } from './plugins/events';
import { jobs } from './plugins/jobs';
import { pages } from './plugins/pages';
import { problems, refuseUnreadable, refuseUnrouted } from './plugins/problems';
import { quarry } from './plugins/quarry';
import { security } from './plugins/security';
import { states } from './plugins/states';
import { PgBlobStore } from './store/blobs';
import { PgDocumentStore } from './store/documents';
import { EventHub } from './store/events';
import { PgJobStore } from './store/jobs';
import { PgStateStore } from './store/states';
import { collecting } from './store/collect';
import { runMigrations as migrateQueue } from 'graphile-worker';

export interface AppOptions {
  /** Where the database is; a function where that may change. */
  databaseUrl: string | Address;
  /** Root of the checkout: migrations and built files are found from here. */
  root: string;
  log?: (text: string) => void;
  /** False: jobs stay in the queue. */
  work?: boolean;
  deadAfterSeconds?: number;
  /** Address of the quarry, when there is one. */
  quarry?: string;
  /** How it is entered where others can reach it. */
  door?: Door;
  /** Folder of the log; none is written without. */
  logFolder?: string;
}
export const PROJECT = 'main';

export interface App {
  server: FastifyInstance;
  pool: pg.Pool;
  documents: PgDocumentStore;
  jobs: PgJobStore;
  runner: JobRunner | null;
  close(): Promise<void>;
}

/** How long a connection may be silent in the middle of a request or an answer, and how long its headers may take. */
const SILENT_MS = 45_000;
const HEADERS_MS = 15_000;

/** Migrates, builds the server and starts its workers; listening is left to the caller. */
export async function makeApp(options: AppOptions): Promise<App> {
  const { databaseUrl, root, log = () => undefined, work = true } = options;
  const address = typeof databaseUrl === 'string' ? () => databaseUrl : databaseUrl;
  const pool = makePool(address, 14, (error) => log(`database: ${error.message}`));
  await migrate(pool, path.join(root, 'db/migrations'));
  const changed = await upgradeDocuments(pool);
  if (changed) log(`${changed} document${changed === 1 ? '' : 's'} brought up to date`);
  await migrateQueue({ pgPool: pool });
  const connect = () => new pg.Client({ connectionString: address(), application_name: 'jaunty-pebble-listen' });
  const documentStore = new PgDocumentStore(pool, PROJECT);
  const jobStore = new PgJobStore(pool, PROJECT);
  const blobStore = new PgBlobStore(pool);
  const hub = new EventHub(pool, PROJECT, connect);
  await hub.start();
  const logging = options.logFolder ? logInto(options.logFolder) : null;
  const server = Fastify({
    bodyLimit: 8 << 20,
    forceCloseConnections: true,
    connectionTimeout: SILENT_MS,
    // One without a name for us is refused by our own rule, in our own words.
    http: { headersTimeout: HEADERS_MS, requireHostHeader: false },
    genReqId: () => randomBytes(6).toString('base64url'),
    ...logging?.options,
    // What fails before there is a route is told like anything else.
    frameworkErrors: refuseUnrouted,
    clientErrorHandler: refuseUnreadable,
  });
  await server.register(problems);
  await server.register(security, { door: options.door ?? null });
  // On one machine it would cost more than it saves.
  if (options.door) await server.register(compress, { encodings: ['gzip', 'identity'], threshold: 4096, zlibOptions: { level: 3 } });
  await server.register(description);
  await server.register(
    async (api) => {
      api.get('/health', { schema: { summary: 'Whether server and database answer' } }, async () => {
        await pool.query('select 1');
        return { ok: true };
      });
      await api.register(documents(documentStore));
      await api.register(states(new PgStateStore(pool, PROJECT, documentStore)));
      await api.register(blobs(blobStore));
      await api.register(deliveries(blobStore));
      await api.register(jobs(jobStore, { documents: documentStore, quarry: options.quarry ?? null }));
      await api.register(quarry(options.quarry ?? null));
      await api.register(events(hub));
    },
    { prefix: '/api' },
  );
  await pages(path.join(root, 'dist/web'), path.join(root, 'dist/target'))(server);
  const note = (text: string) => {
    log(text);
    server.log.warn(text);
  };
  const runner = work
    ? new JobRunner({
        pool,
        connect,
        address,
        quarry: options.quarry ?? null,
        projectId: PROJECT,
        jobs: jobStore,
        documents: documentStore,
        log: note,
        deadAfterSeconds: options.deadAfterSeconds,
        workerFile: path.join(root, 'dist/node/job-worker.mjs'),
        lightFile: path.join(root, 'dist/light/overcast.bin'),
      })
    : null;
  await runner?.start();
  const endCollecting = work ? collecting(pool, note) : () => undefined;
  return {
    server,
    pool,
    documents: documentStore,
    jobs: jobStore,
    runner,
    async close() {
      endCollecting();
      await server.close();
      await runner?.stop();
      await hub.stop();
      await logging?.end();
      await pool.end().catch(() => undefined);
    },
  };
}
