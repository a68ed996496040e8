// npm start: everything from a fresh checkout to a served application. Plain Node, no packages needed to begin.
import { spawn } from 'node:child_process';
import path from 'node:path';
import { checkNode, ensurePackages, ensurePostgres, root } from './ensure.mjs';

checkNode();
ensurePackages();
ensurePostgres();
const { buildAll } = await import('./build.mjs');
await buildAll();

const server = spawn(process.execPath, ['--enable-source-maps', path.join(root, 'dist/node/server.mjs'), ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, PEBBLE_ROOT: root, PEBBLE_STARTER: String(process.pid) },
  // A session of its own, which gives way to that of the browser; so signals are passed on.
  detached: true,
});
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill(signal));
// Signals to npm may end it alone.
const parent = process.ppid;
if (process.env.npm_lifecycle_event) setInterval(() => process.ppid !== parent && server.kill('SIGTERM'), 1000).unref();
server.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
