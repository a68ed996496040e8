// npm run dev: the application while it is worked on. The interface reloads when it changes, the server is built and
// started again when it or a package does; the API stands behind a proxy, so there is one address.
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { checkNode, ensurePackages, ensurePostgres, root } from './ensure.mjs';

const API_PORT = 4781;
/** Milliseconds in which nothing more is saved before a build begins. */
const QUIET_MS = 300;
const WATCHED = ['packages', 'apps/server', 'apps/quarry', 'db/migrations'];

checkNode();
ensurePackages();
ensurePostgres();
const { buildAll } = await import('./build.mjs');
await buildAll();

let server = null;
let ending = false;
const startServer = () => {
  const own = spawn(
    process.execPath,
    ['--enable-source-maps', path.join(root, 'dist/node/server.mjs'), '--port', String(API_PORT), ...process.argv.slice(2)],
    { cwd: root, stdio: 'inherit', env: { ...process.env, PEBBLE_ROOT: root }, detached: true },
  );
  server = own;
  own.on('exit', (code) => {
    if (server === own && !ending) console.error(`The server ended (${code}). It starts again when something is saved.`);
  });
};
const stopServer = () =>
  new Promise((resolve) => {
    if (!server || server.exitCode !== null) return resolve();
    server.once('exit', resolve);
    server.kill('SIGTERM');
  });

let timer = null;
let busy = false;
async function again() {
  if (busy) return soon();
  busy = true;
  // In a process of its own: a mistake in the sources must not end this one.
  const built = spawnSync(process.execPath, ['-e', "import('./tools/build.mjs').then((b) => b.buildAll({ only: 'node' }))"], {
    cwd: root,
    stdio: 'inherit',
  });
  if (built.status === 0) {
    await stopServer();
    if (!ending) startServer();
  }
  busy = false;
}
function soon() {
  clearTimeout(timer);
  timer = setTimeout(() => void again(), QUIET_MS);
}
for (const folder of WATCHED)
  fs.watch(path.join(root, folder), { recursive: true }, (_, file) => {
    if (file && /\.(ts|sql)$/.test(file) && !/\.spec\.ts$|node_modules/.test(file)) soon();
  });

startServer();
const ng = [path.join(root, 'node_modules/@angular/cli/bin/ng.js'), 'serve', 'web', '--host', '127.0.0.1', '--port', '4780'];
const web = spawn(process.execPath, ng, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, NG_CLI_ANALYTICS: 'false' } });
const end = async (code) => {
  if (ending) return;
  ending = true;
  web.kill('SIGTERM');
  await stopServer();
  process.exit(code);
};
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void end(0));
web.on('exit', (code) => void end(code ?? 1));
