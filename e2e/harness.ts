import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import pg from 'pg';
import type { Browser, Page } from 'playwright-core';
import type { JobView, ListedDocument, StoredDocument } from '@pebble/contracts';
import { MAX_WHOLE } from '@pebble/contracts';
import type { AnyDocument } from '@pebble/core';
import type { TestDatabase } from '../apps/server/spec/harness';
import { freePort, isRunning } from '../apps/server/src/db/cluster';
import { testCluster, testDatabase, until } from '../apps/server/spec/harness';

export const ROOT = process.env['PEBBLE_ROOT'] ?? path.resolve(import.meta.dirname, '..');

/** Jobs of the demo: its own, nine surfaces at full size, the still, the hillside, and what is stamped. */
export const DEMO_JOBS = 13;

export interface Served {
  url: string;
  process: ChildProcess;
  output: () => string;
  /** Ends it as Ctrl+C does; gives the exit code. */
  stop: () => Promise<number | null>;
  kill: () => Promise<void>;
}

/** A port that nobody listens on; 0, which the server refuses, where there is none. */
export const somePort = async (): Promise<number> => (await freePort()) ?? 0;

/** The built server as people run it. Resolves when it says where it is; rejects with its output when it ends before. */
export async function serve(args: string[] = [], env: NodeJS.ProcessEnv = {}, port?: number, detached = false): Promise<Served> {
  const at = port ?? (await somePort());
  const child = spawn(process.execPath, [path.join(ROOT, 'dist/node/server.mjs'), '--port', String(at), ...args], {
    cwd: ROOT,
    env: { ...process.env, PEBBLE_ROOT: ROOT, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
    // The start command gives the server a session of its own, which then waits for the browser's.
    detached,
  });
  let output = '';
  const gone = new Promise<number | null>((resolve) => child.once('close', resolve));
  // A server that dies of its own accord says why; its tests only see that it is gone.
  void gone.then((code) => code && console.error(`The server ended (${code}):\n${output}`));
  await new Promise<void>((resolve, reject) => {
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (d) => {
        output += d;
        if (/is at http/.test(output)) resolve();
      });
    void gone.then((code) => reject(new Error(`The server ended (${code}): ${output}`)));
  });
  return {
    url: /is at (http:\S+?)\/?\s/.exec(output)?.[1] ?? `http://127.0.0.1:${at}`,
    process: child,
    output: () => output,
    stop: async () => {
      child.kill('SIGINT');
      return gone;
    },
    kill: async () => {
      child.kill('SIGKILL');
      await gone;
    },
  };
}

export type ServedFresh = Served & { databaseUrl: string; end: () => Promise<void> };

/** A server on a new database of the test cluster. */
export const serveFresh = async (args: string[] = []): Promise<ServedFresh> => serveOn(await testDatabase(), args);

async function serveOn(database: TestDatabase, args: string[]): Promise<ServedFresh> {
  // Its log is its own.
  const { dir, remove } = scratch();
  const served = await serve(['--data', dir, ...args], { DATABASE_URL: database.url });
  return {
    ...served,
    databaseUrl: database.url,
    end: async () => {
      await served.stop();
      await database.drop();
      remove();
    },
  };
}

/** Processes of one run share what takes long to make: it is called after the one that began them all. */
const RUN = Number(process.env['PEBBLE_RUN'] ?? process.pid);
const DEMO = /^demo_(\d+)$/;

/** A server on which the demo is there, with all that follows it: made once for all flows of a run, each gets a copy. */
export const serveDemo = async (): Promise<ServedFresh> => serveOn(await testDatabase(await madeDemo()), []);

/** Makes the demo, unless another process of this run has or is about to; gives the name of its database. */
async function madeDemo(): Promise<string> {
  const name = `demo_${RUN}`;
  const client = new pg.Client({ connectionString: (await testCluster()).url });
  await client.connect();
  try {
    await client.query("select pg_advisory_lock(hashtext('demo'))");
    const { rows } = await client.query<{ datname: string }>("select datname from pg_database where datname like 'demo%'");
    const there = rows.map((r) => r.datname);
    for (const other of there) if (!isRunning(Number(DEMO.exec(other)?.[1]))) await client.query(`drop database if exists ${other} with (force)`);
    if (!there.includes(name)) {
      const database = await testDatabase();
      await fillDemo(database.url);
      // Whole from the first moment on which it has its name.
      await client.query(`alter database ${database.name} rename to ${name}`);
    }
    return name;
  } finally {
    await client.end();
  }
}
async function fillDemo(databaseUrl: string): Promise<void> {
  const { dir, remove } = scratch();
  const served = await serve(['--data', dir], { DATABASE_URL: databaseUrl });
  const jobs = () => api<JobView[]>(served.url, '/jobs');
  await until(async () => (await jobs()).length >= DEMO_JOBS && (await jobs()).every((j) => j.status === 'done'));
  await served.stop();
  remove();
}
/** A page that fails the test on any error it reports. */
/** @param smooth edges at rest, which take time that flows have no use for; what they are is looked at where pixels are */
export async function openPage(
  browser: Browser,
  url: string,
  size = { width: 1280, height: 800 },
  smooth = false,
): Promise<{ page: Page; errors: string[] }> {
  const page = await browser.newPage({ viewport: size, acceptDownloads: true });
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));
  page.on('console', (m) => {
    if (m.type() === 'error' && !/Failed to load resource/.test(m.text())) errors.push(m.text());
  });
  if (!smooth)
    await page.addInitScript(() => {
      try {
        if (!localStorage.getItem('pebble-light')) localStorage.setItem('pebble-light', JSON.stringify({ smooth: false }));
      } catch {
        // A page that may keep nothing is looked at as well.
      }
    });
  await page.goto(url);
  return { page, errors };
}

export function scratch(): { dir: string; remove: () => void } {
  const dir = mkdtempSync(path.join(os.tmpdir(), 'pebble-e2e-'));
  // A cluster in here runs as another user.
  chmodSync(dir, 0o755);
  return { dir, remove: () => rmSync(dir, { recursive: true, force: true }) };
}

/** What the server answers; a refusal is an error that says what it said. */
export const api = async <T>(url: string, pathname: string, body?: unknown): Promise<T> => {
  const response = await fetch(
    `${url}/api${pathname}`,
    body === undefined ? {} : { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) },
  );
  if (!response.ok) throw new Error(`${pathname}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
};
/** All documents of a project whole, in the order in which they were made. */
export async function allDocuments<T = AnyDocument>(url: string): Promise<StoredDocument<T>[]> {
  const ids = (await api<ListedDocument[]>(url, '/documents')).map((d) => d.id);
  const whole: StoredDocument<T>[] = [];
  for (let at = 0; at < ids.length; at += MAX_WHOLE)
    whole.push(...(await api<StoredDocument<T>[]>(url, '/documents/whole', { ids: ids.slice(at, at + MAX_WHOLE) })));
  return whole;
}

/** Waits until everything done so far is kept by the server. The page says so from its next frame on. */
export async function saved(page: Page): Promise<void> {
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
  await page.waitForFunction(() => document.querySelector('.saved')?.textContent?.trim() === 'Saved');
}
