// Builds what is stale: the light (data), the Node programs (esbuild) and the web application (Angular).
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { writeNotices } from './notices.mjs';
import { checkNode, ensurePackages, fail, fingerprint, root } from './ensure.mjs';

const dist = (...parts) => path.join(root, 'dist', ...parts);
const PACKAGES = ['packages', 'tsconfig.base.json', 'package-lock.json'];

/** Runs a step unless its sources are what they were when it last succeeded. */
async function step(name, sources, product, make) {
  const stamp = dist(`.${name}`);
  const now = fingerprint([...sources, 'tools/build.mjs']);
  if (fs.existsSync(product) && fs.existsSync(stamp) && fs.readFileSync(stamp, 'utf8') === now) return;
  const began = Date.now();
  console.log(`Building ${name} …`);
  await make();
  fs.mkdirSync(dist(), { recursive: true });
  fs.writeFileSync(stamp, now);
  console.log(`Built ${name} in ${((Date.now() - began) / 1000).toFixed(1)} s`);
}

/** Our packages by name, the longest first, or @pebble/formats would swallow @pebble/formats/node. */
function aliases() {
  const alias = Object.fromEntries(
    Object.entries(JSON.parse(fs.readFileSync(path.join(root, 'tsconfig.base.json'), 'utf8')).compilerOptions.paths).map(([k, [v]]) => [
      k,
      path.join(root, v),
    ]),
  );
  return Object.fromEntries(Object.entries(alias).sort(([a], [b]) => b.length - a.length));
}

async function bundle(entries) {
  const { build } = await import('esbuild');
  await build({
    entryPoints: entries,
    outdir: dist('node'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    packages: 'external',
    alias: aliases(),
    sourcemap: true,
    logLevel: 'warning',
    absWorkingDir: root,
  });
}

async function light() {
  const core = dist('node/core.mjs');
  const { SKIES } = await import(core);
  fs.mkdirSync(dist('light'), { recursive: true });
  const names = Object.keys(SKIES);
  const share = (k) =>
    new Promise((resolve, reject) =>
      new Worker(path.join(root, 'tools/light.mjs'), { workerData: { core, skies: names.filter((_, i) => i % 2 === k), folder: dist('light') } })
        .on('error', reject)
        .on('exit', resolve),
    );
  await Promise.all([share(0), share(1)]);
}

/** The target stand-in: a page, its loader, and the transcoder that lies beside them. */
async function target() {
  const { build } = await import('esbuild');
  const common = {
    bundle: true,
    platform: 'browser',
    // Of a library, where it runs on Node.
    external: ['node:*'],
    loader: { '.woff2': 'file' },
    target: 'es2022',
    alias: aliases(),
    sourcemap: true,
    minify: true,
    logLevel: 'warning',
    absWorkingDir: root,
    outdir: dist('target'),
  };
  await build({ ...common, entryPoints: ['apps/target/src/page.ts', 'apps/target/src/page.css'], format: 'esm' });
  // A classic script, for the transcoder is one that it loads.
  await build({ ...common, entryPoints: ['apps/target/src/loader.ts'], format: 'iife' });
  fs.copyFileSync(path.join(root, 'apps/target/src/index.html'), dist('target/index.html'));
  for (const file of ['basis_transcoder.js', 'basis_transcoder.wasm'])
    fs.copyFileSync(path.join(root, 'node_modules/three/examples/jsm/libs/basis', file), dist('target', file));
}

function web() {
  const result = spawnSync(process.execPath, [path.join(root, 'node_modules/@angular/cli/bin/ng.js'), 'build', 'web', '--progress=false'], {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, NG_CLI_ANALYTICS: 'false' },
  });
  if (result.status !== 0) fail('The web application could not be built; the lines above say why.');
  writeNotices(dist('web'));
}

export async function buildAll({ only } = {}) {
  checkNode();
  ensurePackages();
  await step('node', [...PACKAGES, 'apps/server', 'apps/cli', 'apps/quarry', 'bench', 'e2e'], dist('node/server.mjs'), () =>
    bundle({
      server: 'apps/server/src/main.ts',
      work: 'apps/server/src/work.ts',
      'job-worker': 'apps/server/src/jobs/worker.ts',
      cli: 'apps/cli/src/main.ts',
      quarry: 'apps/quarry/src/main.ts',
      core: 'packages/core/src/index.ts',
      cluster: 'apps/server/src/db/cluster/index.ts',
      'band-worker': 'packages/usecases/src/band-worker.ts',
      'finish-worker': 'packages/usecases/src/deliver/finish-worker.ts',
      bench: 'bench/main.ts',
    }),
  );
  await step('light', ['packages/core/src/light', 'tools/light.mjs'], dist('light/shed.bin'), light);
  if (only !== 'node') await step('target', [...PACKAGES, 'apps/target'], dist('target/index.html'), target);
  if (only !== 'node') await step('web', [...PACKAGES, 'apps/web', 'angular.json', 'LICENSE', 'tools/notices.mjs'], dist('web/index.html'), web);
}

if (process.argv[1] === import.meta.filename) await buildAll({ only: process.argv[2] });
