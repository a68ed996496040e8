// npm run screenshots: the pictures of the main views at 1280×800, from the demo, into docs/screenshots.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { chromium, ensureChromium, ensurePostgres, root } from './ensure.mjs';

const { buildAll } = await import('./build.mjs');
ensurePostgres();
await buildAll();
ensureChromium();
const result = spawnSync(process.execPath, ['--import', 'tsx', path.join(root, 'e2e/screenshots.ts'), ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, CHROME_BIN: chromium },
});
process.exit(result.status ?? 1);
