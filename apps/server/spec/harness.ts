import type { StoredDocument } from '@pebble/contracts';
import type { AnyDocument } from '@pebble/core';
import { randomBytes } from 'node:crypto';
import os from 'node:os';
import path from 'node:path';
import pg from 'pg';
import type { App } from '../src/app';
import { makeApp } from '../src/app';
import type { LocalPg } from '../src/db/cluster';
import { startPg } from '../src/db/cluster';

export const ROOT = process.env['PEBBLE_ROOT'] ?? path.resolve(import.meta.dirname, '../../..');
let cluster: Promise<LocalPg> | null = null;

/** A throw-away cluster that all spec files of a run share; it writes without waiting for the disk. */
export function testCluster(): Promise<LocalPg> {
  const root = process.env['PEBBLE_TEST_DATA'] ?? path.join(os.tmpdir(), `pebble-test-${process.getuid?.() ?? 0}`);
  cluster ??= heldCluster(root);
  return cluster;
}

/** Keeps a connection as long as this process lives: another that ends before it then leaves the cluster running. */
async function heldCluster(root: string): Promise<LocalPg> {
  for (;;) {
    const started = await startPg({ root, database: 'pebble', durable: false });
    const hold = new pg.Client({ connectionString: started.url });
    // Whoever ends the cluster under a test has a reason.
    hold.on('error', () => undefined);
    try {
      await hold.connect();
    } catch {
      // Its last user ended it just now.
      continue;
    }
    Object.assign(globalThis, {
      pebbleCleanUp: async () => {
        await hold.end().catch(() => undefined);
        await started.stop({ ifIdle: true });
      },
    });
    return started;
  }
}

export interface TestDatabase {
  name: string;
  url: string;
  drop: () => Promise<void>;
}

/** A new database. @param like the name of one that it begins as a copy of; nobody may be connected to that */
export async function testDatabase(like?: string): Promise<TestDatabase> {
  const base = await testCluster();
  const name = `t_${randomBytes(6).toString('hex')}`;
  const run = async (sql: string) => {
    const client = new pg.Client({ connectionString: base.url });
    await client.connect();
    await client.query(sql);
    await client.end();
  };
  await run(`create database ${name}${like ? ` template ${like}` : ''}`);
  return { name, url: base.url.replace(/\/[^/]*$/, `/${name}`), drop: () => run(`drop database if exists ${name} with (force)`) };
}

export interface TestApp extends App {
  url: string;
  stop: () => Promise<void>;
}

export async function testApp(options: { work?: boolean; deadAfterSeconds?: number; quarry?: string } = {}): Promise<TestApp> {
  const database = await testDatabase();
  const app = await makeApp({ databaseUrl: database.url, root: ROOT, ...options });
  return {
    ...app,
    url: database.url,
    stop: async () => {
      await app.close();
      await database.drop();
    },
  };
}

/** All documents whole, in the order in which they were made. */
export const allDocuments = async <T = AnyDocument>({ documents }: App): Promise<StoredDocument<T>[]> =>
  (await documents.several((await documents.list()).map((d) => d.id))) as StoredDocument<T>[];
export const opId = (): string => crypto.randomUUID();
/** How long anything may take: far longer than it does, since a machine may be slow and busy. */
const PATIENCE_MS = 240_000;
export const until = async <T>(read: () => Promise<T | null | undefined | false>): Promise<T> => {
  const end = Date.now() + PATIENCE_MS;
  for (;;) {
    const value = await read();
    if (value) return value;
    if (Date.now() > end) throw new Error('It did not happen in time');
    await new Promise((r) => setTimeout(r, 60));
  }
};
