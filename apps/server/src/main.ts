// The server as the start command runs it: cluster, migrations, demo, routes, workers; Ctrl+C ends them in turn.
import type { ChildProcess } from 'node:child_process';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { makeApp } from './app';
import type { App } from './app';
import type { LocalPg } from './db/cluster';
import { freePort, serverPids, startPg } from './db/cluster';
import { isAway } from './db/pool';
import type { Door } from './plugins/door';
import { MIN_TOKEN, isLoopback } from './plugins/door';
import { onEnd } from './ending';
import { plainly } from './plainly';
import { serverStaysBehind } from './priority';
import { startQuarry } from './quarry/process';
import { seed } from './seed';

const say = (text: string) => process.stdout.write(`${text}\n`);
const root = process.env['PEBBLE_ROOT'] ?? process.cwd();

let dataFolder = '.data';

async function start(): Promise<void> {
  serverStaysBehind();
  const { values } = parseArgs({
    options: {
      port: { type: 'string', default: '4780' },
      data: { type: 'string', default: '.data' },
      'no-demo': { type: 'boolean', default: false },
      host: { type: 'string', default: '127.0.0.1' },
      token: { type: 'string' },
    },
  });
  const port = Number(values.port);
  if (!Number.isInteger(port) || port < 1 || port > 65535) throw new Error(`--port takes a number from 1 to 65535, not "${values.port}".`);
  const { host } = values;
  const door = doorOf(host, values.token ?? process.env['PEBBLE_TOKEN']);
  // Elsewhere listening itself tells.
  if (!door && (await freePort(port)) === null)
    throw new Error(`Port ${port} is taken by another program. Stop it, or start with --port and another number.`);
  const data = (dataFolder = path.resolve(process.env['INIT_CWD'] ?? root, values.data));
  let cluster: LocalPg | null = null;
  /** A database that is being started has to be waited for before it can be stopped. */
  let beginning: Promise<LocalPg> | null = null;
  let app: App | null = null;
  let stopping = false;
  let quarryProcess: ChildProcess | null = null;
  const stop = async (code: number) => {
    if (stopping) return;
    stopping = true;
    say('Stopping …');
    quarryProcess?.kill();
    await app?.close().catch((e: Error) => say(e.message));
    cluster ??= (await beginning?.catch(() => null)) ?? null;
    await cluster?.stop({ ifIdle: true }).catch((e: Error) => say(e.message));
    process.exit(code);
  };
  onEnd(() => void stop(0));
  const clusterOptions = { root: data, database: 'pebble', log: say };
  /** A database that was killed is started again, on the same port, so that pools and workers find it. */
  const keepAlive = (options: Parameters<typeof startPg>[0]) => {
    let busy = false;
    setInterval(() => {
      if (busy || stopping || !cluster || serverPids(cluster.dataDir).includes(cluster.pid)) return;
      busy = true;
      say('The database has stopped; starting it again …');
      startPg(options)
        .then(
          (again) => (cluster = again),
          (e: Error) => say(e.message),
        )
        .finally(() => (busy = false));
    }, 1000).unref();
  };
  /** The stand-in library; without it everything else works. */
  const quarryBeside = async (): Promise<string | undefined> => {
    try {
      const started = await startQuarry(path.join(root, 'dist/node/quarry.mjs'));
      quarryProcess = started.process;
      if (stopping) quarryProcess.kill();
      return started.url;
    } catch (error) {
      say((error as Error).message);
      return undefined;
    }
  };
  const given = process.env['DATABASE_URL'];
  if (!given) {
    beginning = startPg(clusterOptions);
    cluster = await beginning;
  }
  /** A database that was started again may be on another port. */
  const databaseUrl = () => given || cluster!.url;
  // What was asked to end meanwhile does not go on.
  const ended = () => new Promise<never>(() => undefined);
  if (stopping) return ended();
  keepAlive(clusterOptions);
  try {
    const quarry = process.env['PEBBLE_QUARRY'] ?? (await quarryBeside());
    if (stopping) return await ended();
    app = await makeApp({ databaseUrl, root, log: say, quarry, door, logFolder: path.join(data, 'log') });
    if (stopping) {
      await app.close().catch(() => undefined);
      return await ended();
    }
    await seed(app, !values['no-demo']);
    await app.server.listen({ port, host });
  } catch (error) {
    if (stopping) return ended();
    await app?.close().catch(() => undefined);
    await cluster?.stop({ ifIdle: true }).catch(() => undefined);
    throw error;
  }
  say(`Jaunty Pebble is at http://${called(host)}:${port}/`);
}

/** How an address is written where others are to type it; one that stands for all of this machine is called by its name. */
function called(host: string): string {
  if (host === '0.0.0.0' || host === '::') return os.hostname();
  return host.includes(':') ? `[${host}]` : host;
}

/** How it is entered off this machine; none is needed on it. @throws Error where others could reach it without a token */
function doorOf(host: string, token: string | undefined): Door | undefined {
  if (isLoopback(host)) return undefined;
  if (token && token.length >= MIN_TOKEN) return { host, token };
  throw new Error(
    `At ${host} others can reach this server: it does not start there without a token of at least ${MIN_TOKEN} characters, which they are asked for. Set PEBBLE_TOKEN, or start with --token`,
  );
}

// The queue's own book-keeping rejects into nowhere while the database is away; the work itself is tried again by us.
process.on('unhandledRejection', (error) => {
  if (!isAway(error)) throw error;
  say(`database: ${(error as Error).message}`);
});

start().catch((error: Error) => {
  const [data, databaseUrl] = [dataFolder, process.env['DATABASE_URL']];
  process.stderr.write(`${plainly(error, { data, databaseUrl })}\n`);
  process.exit(1);
});
