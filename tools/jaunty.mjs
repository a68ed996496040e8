// npm run -s jaunty -- COMMAND …: the command line, built when stale.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { root } from './ensure.mjs';

const write = console.log;
// Standard output belongs to the command.
console.log = (...args) => process.stderr.write(`${args.join(' ')}\n`);
const { buildAll } = await import('./build.mjs');
await buildAll({ only: 'node' });
console.log = write;
const result = spawnSync(process.execPath, [path.join(root, 'dist/node/cli.mjs'), ...process.argv.slice(2)], { stdio: 'inherit' });
process.exit(result.status ?? 1);
