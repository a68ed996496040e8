// npm run contact [NAME…]: a sheet of every generated surface, to be judged as pictures, into dist/contact.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { root } from './ensure.mjs';

const { buildAll } = await import('./build.mjs');
await buildAll({ only: 'node' });
const { GENERATORS } = await import(path.join(root, 'dist/node/core.mjs'));
const names = process.argv.length > 2 ? process.argv.slice(2) : Object.keys(GENERATORS);
for (const name of names) {
  const out = path.join(root, 'dist/contact', `${name}.png`);
  const { status } = spawnSync(process.execPath, [path.join(root, 'dist/node/cli.mjs'), 'sheet', name, '--seed', '4', '--out', out], {
    stdio: 'inherit',
  });
  if (status !== 0) process.exit(status ?? 1);
  console.log(path.relative(root, out));
}
