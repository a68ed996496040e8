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
  env: { ...process.env, PEBBLE_ROOT: root },
});
// Ctrl+C reaches the server by itself, being in the same terminal group; a signal to this process alone is passed on.
process.on('SIGINT', () => undefined);
for (const signal of ['SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill(signal));
server.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
