// npm run bench [PART…]: medians and ratios, measured side by side in one run.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { chromium, ensureChromium, root } from './ensure.mjs';

const { buildAll } = await import('./build.mjs');
await buildAll();
ensureChromium();
const result = spawnSync(process.execPath, ['--expose-gc', path.join(root, 'dist/node/bench.mjs'), ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, PEBBLE_ROOT: root, CHROME_BIN: chromium },
});
process.exit(result.status ?? 1);
