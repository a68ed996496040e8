// npm test: installs what is missing, then every part in turn; `N passed, N failed` is the last line.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { checkNode, chromium, ensureChromium, ensureImages, ensureModels, ensurePackages, ensurePostgres, images, models, root } from './ensure.mjs';

const bin = (name) => path.join(root, 'node_modules', name);
const node = (...args) => ({ command: process.execPath, args });
const jasmine = (...globs) => node('--import', 'tsx', path.join(root, 'tools/jasmine.mjs'), ...globs);

/** A check that either holds or not. */
const check = (...steps) => ({ steps, count: (_, ok) => (ok ? [1, 0] : [0, 1]) });
/** What runs of specs told, added up; one that told nothing failed. */
const counted = (runs) => (out) => {
  const all = [...out.matchAll(/(\d+) specs?, (\d+) failures?/g)];
  const failed = all.reduce((sum, m) => sum + Number(m[2]), runs - all.length);
  return [all.reduce((sum, m) => sum + Number(m[1]), runs - all.length) - failed, failed];
};
/** Specs; those of files that share nothing may run side by side. */
const specs = (...globs) => ({ steps: [jasmine(...globs)], count: counted(1) });
/** Flows: a process for each file, the longest first, as many at a time as there are cores. */
const flows = (folder) => {
  const files = fs
    .readdirSync(path.join(root, folder))
    .filter((f) => f.endsWith('.spec.ts'))
    .map((f) => path.join(folder, f));
  const length = (f) => fs.statSync(path.join(root, f)).size;
  files.sort((a, b) => length(b) - length(a));
  return { steps: files.map((f) => jasmine('--in-order', f)), count: counted(files.length) };
};
/** What is checked together sees the same world: without any, Node's, a browser's, both. Folders have theirs for editors. */
const projects = ['tsconfig.node.json', 'tsconfig.browser.json', 'tsconfig.plain.json', 'packages/stage'];

const PARTS = {
  lint: check(node(bin('eslint/bin/eslint.js'), '.', '--max-warnings=0'), node(bin('prettier/bin/prettier.cjs'), '--check', '--log-level=warn', '.')),
  types: check(
    ...projects.map((p) => node(bin('typescript/bin/tsc'), '-p', p)),
    node(bin('@angular/compiler-cli/bundles/src/bin/ngc.js'), '-p', 'apps/web/tsconfig.app.json', '--noEmit'),
  ),
  imports: check(
    node(bin('dependency-cruiser/bin/dependency-cruise.mjs'), '--config', '.dependency-cruiser.cjs', 'packages', 'apps', '--output-type', 'err'),
  ),
  core: specs('--side-by-side', 'packages/core/src/**/*.spec.ts'),
  stage: specs('packages/stage/src/**/*.spec.ts'),
  contracts: specs('packages/contracts/src/**/*.spec.ts'),
  formats: specs('--side-by-side', 'packages/formats/src/**/*.spec.ts'),
  usecases: { ...specs('packages/usecases/src/**/*.spec.ts'), build: 'node' },
  cli: { ...specs('apps/cli/spec/**/*.spec.ts'), build: 'node' },
  server: { ...specs('apps/{server,quarry}/spec/**/*.spec.ts'), build: 'node', postgres: true },
  web: {
    steps: [node(bin('@angular/cli/bin/ng.js'), 'test', 'web', '--progress=false')],
    build: 'node',
    chromium: true,
    count: (out) => {
      const all = [...out.matchAll(/Executed (\d+) of (\d+)(?: \((\d+) FAILED\))?/g)].at(-1);
      return all ? [all[1] - (all[3] ?? 0), Number(all[3] ?? 0) + (all[2] - all[1])] : [0, 1];
    },
  },
  gpu: { ...specs('e2e/gpu/*.spec.ts'), chromium: true, build: 'node' },
  e2e: { ...flows('e2e/flows'), chromium: true, postgres: true, build: 'all' },
};

/** Left out of a whole run: the same faults ten times over, and public collections of meshes and pictures. */
const DEEP = {
  deep: {
    ...specs(
      'packages/formats/src/faults.spec.ts',
      'packages/formats/src/mesh/reading.spec.ts',
      'packages/formats/src/mesh/draco.spec.ts',
      'packages/formats/src/public-models.deep.ts',
      'packages/formats/src/public-images.deep.ts',
      'e2e/gpu/planted.deep.ts',
    ),
    chromium: true,
    build: 'node',
    collections: true,
    env: { PEBBLE_FAULTS: '1000', PEBBLE_MODELS: models, PEBBLE_IMAGES: images },
  },
  // Each part of the bench once, so that it cannot rot; what it measures then says nothing.
  benches: { ...check(node(path.join(root, 'tools/bench.mjs'))), env: { PEBBLE_BENCH_SHORT: '1' }, chromium: true, postgres: true },
};

const wanted = process.argv.slice(2);
for (const name of wanted)
  if (!PARTS[name] && !DEEP[name]) {
    console.error(`There is no part called ${name}; there are ${Object.keys({ ...PARTS, ...DEEP }).join(', ')}.`);
    process.exit(2);
  }
const names = wanted.length ? wanted : Object.keys(PARTS);
checkNode();
ensurePackages();
const parts = { ...PARTS, ...DEEP };
if (names.some((n) => parts[n].postgres)) ensurePostgres();
if (names.some((n) => parts[n].chromium)) ensureChromium();
if (names.some((n) => parts[n].collections)) {
  ensureModels();
  ensureImages();
}

/** Runs a command, its output kept and shown, at once or in one piece when it has ended. */
function run({ command, args }, env = {}, live = true) {
  return new Promise((resolve) => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: {
        PEBBLE_RUN: String(process.pid),
        ...process.env,
        ...env,
        CHROME_BIN: chromium,
        NG_CLI_ANALYTICS: 'false',
        FORCE_COLOR: '0',
        NO_COLOR: '1',
        JASMINE_NO_COLOR: '1',
      },
    });
    let out = '';
    for (const [stream, to] of [
      [child.stdout, process.stdout],
      [child.stderr, process.stderr],
    ])
      stream.on('data', (d) => {
        out += d;
        if (live) to.write(d);
      });
    child.on('close', (code) => {
      if (!live) process.stdout.write(out);
      resolve({ out, ok: code === 0 });
    });
  });
}

let passed = 0;
let failed = 0;
const table = [];
for (const name of names) {
  const part = parts[name];
  console.log(`\n== ${name} ==`);
  const began = Date.now();
  let counts = [0, 1];
  try {
    if (part.build) {
      const { buildAll } = await import('./build.mjs');
      await buildAll({ only: part.build === 'all' ? undefined : part.build });
    }
    let text = '';
    let ok = true;
    // Steps that do not know of each other are made side by side; what each says is shown in one piece once it is over.
    const waiting = [...part.steps];
    const work = async () => {
      for (let step = waiting.shift(); step; step = waiting.shift()) {
        const result = await run(step, part.env, part.steps.length === 1);
        text += result.out;
        ok &&= result.ok;
      }
    };
    await Promise.all(Array.from({ length: Math.min(4, Math.max(2, os.availableParallelism())) }, work));
    counts = part.count(text, ok).map(Number);
    if (!ok && counts[1] === 0) counts[1] = 1;
  } catch (error) {
    console.error(error);
  }
  passed += counts[0];
  failed += counts[1];
  table.push(
    `${name.padEnd(10)} ${String(counts[0]).padStart(4)} passed  ${String(counts[1]).padStart(2)} failed  ${((Date.now() - began) / 1000).toFixed(0).padStart(4)} s`,
  );
}
fs.rmSync(path.join(root, '.tmp/test'), { recursive: true, force: true });
console.log(`\n${table.join('\n')}\n`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed || !passed ? 1 : 0);
