import fs from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import pg from 'pg';

export const USER = 'pebble';
const CONNECT_MS = 5000;

/** Whether a process runs; one that has ended and is not yet collected does not. */
export function isRunning(pid: number): boolean {
  try {
    return !/^\d+ \(.*\) [ZX]/s.test(fs.readFileSync(`/proc/${pid}/stat`, 'utf8'));
  } catch {
    return false;
  }
}

/** Every server process of a cluster: all of them work in its data folder. */
export function serverPids(dataDir: string): number[] {
  return fs
    .readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .map(Number)
    .filter((pid) => {
      try {
        return fs.readlinkSync(`/proc/${pid}/cwd`) === dataDir && path.basename(fs.readlinkSync(`/proc/${pid}/exe`)).startsWith('postgres');
      } catch {
        // Gone meanwhile, or not ours.
        return false;
      }
    });
}

/** What the server wrote down of itself; null where it did not. */
export function pidFile(dataDir: string): { pid: number; port: number; status: string } | null {
  try {
    const lines = fs.readFileSync(path.join(dataDir, 'postmaster.pid'), 'utf8').split('\n');
    return { pid: Math.abs(Number(lines[0])), port: Number(lines[3] ?? 0), status: (lines[7] ?? '').trim() };
  } catch {
    return null;
  }
}

/** Listens on a port for a moment; gives its number, or null where it is taken. 0 finds a free one. */
export const freePort = (port = 0): Promise<number | null> =>
  new Promise((resolve) => {
    const probe = net
      .createServer()
      .once('error', () => resolve(null))
      .listen(port, '127.0.0.1', () => {
        const found = (probe.address() as net.AddressInfo).port;
        probe.close(() => resolve(found));
      });
  });

/** A connection, or why there is none. */
export async function tryConnect(port: number, password: string, database = 'postgres'): Promise<pg.Client | (Error & { code?: string })> {
  const client = new pg.Client({
    host: '127.0.0.1',
    port,
    user: USER,
    password,
    database,
    connectionTimeoutMillis: CONNECT_MS,
    application_name: 'pg-local',
  });
  client.on('error', () => undefined);
  try {
    await client.connect();
    return client;
  } catch (error) {
    await client.end().catch(() => undefined);
    return error as Error & { code?: string };
  }
}
