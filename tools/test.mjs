// npm test: installs what is missing, then every part in turn; `N passed, N failed` is the last line.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { checkNode, chromium, ensureChromium, ensureImages, ensureModels, ensurePackages, ensurePostgres, images, models, root } from './ensure.mjs';

const bin = (name) => path.join(root, 'node_modules', name);
const node = (...args) => ({ command: process.execPath, args });
const jasmine = (...globs) => node('--import', 'tsx', path.join(root, 'tools/jasmine.mjs'), ...globs);

/** A check that either holds or not, however busy the machine. */
const check = (...steps) => ({ steps, timeless: true, count: (_, ok) => (ok ? [1, 0] : [0, 1]) });
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
  core: { ...specs('--side-by-side', 'packages/core/src/**/*.spec.ts'), wide: true },
  stage: specs('packages/stage/src/**/*.spec.ts'),
  contracts: specs('packages/contracts/src/**/*.spec.ts'),
  formats: { ...specs('--side-by-side', 'packages/formats/src/**/*.spec.ts'), wide: true },
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
      'packages/formats/src/hard-files.deep.ts',
      'packages/formats/src/public-models.deep.ts',
      'packages/formats/src/public-images.deep.ts',
      'e2e/gpu/planted.deep.ts',
      'packages/core/src/graph/graph.spec.ts',
      'e2e/gpu/parity.spec.ts',
      'e2e/flows/refused.deep.ts',
      'e2e/flows/kept.deep.ts',
    ),
    chromium: true,
    postgres: true,
    build: 'all',
    collections: true,
    env: { PEBBLE_FAULTS: '1000', PEBBLE_GRAPHS: '500', PEBBLE_MODELS: models, PEBBLE_IMAGES: images },
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

/** Runs a command; its output is kept, and shown in one piece when it has ended, or at once where nothing else runs. */
function run({ command, args }, env, live) {
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
    const hear = (d) => {
      out += d;
      if (live) process.stdout.write(d);
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('error', (error) => resolve({ out: String(error), ok: false }));
    child.on('close', (code) => resolve({ out, ok: code === 0 }));
  });
}

const builds = new Set(names.map((n) => parts[n].build).filter(Boolean));
if (builds.size) {
  const { buildAll } = await import('./build.mjs');
  await buildAll({ only: builds.has('all') ? undefined : 'node' });
  // Building the application has checked its types and templates as they are now.
  if (builds.has('all') && parts.types) parts.types.steps.splice(projects.length);
}

// Steps know nothing of each other: as many run at a time as there are cores, those that use all of them by themselves first.
const cores = Math.min(4, Math.max(2, os.availableParallelism()));
// The last parts take longest: begun first, nobody waits for them at the end.
const steps = [...names].reverse().flatMap((name) => parts[name].steps.map((step) => ({ name, step })));
// Said once more at the end, where a reader of a long output looks first.
const failures = [];
const LAST_LINES = 60;
/** More steps than this fail for a reason. */
const AGAIN_AT_MOST = 3;
/** What a step says of its failures: the specs that failed with their reasons, or else its last lines. */
function whatFailed(out) {
  const specs = /^Failures:\s*$([\s\S]*?)^\d+ specs?, /m.exec(out)?.[1];
  return (specs ?? out.trim().split('\n').slice(-LAST_LINES).join('\n')).trim();
}
const alone = steps.filter(({ name }) => parts[name].wide);
const beside = steps.filter(({ name }) => !parts[name].wide);
/** Of a part with steps for several files, which of them it is. */
const title = ({ name, step }) => (parts[name].steps.length > 1 && !parts[name].timeless ? `${name}: ${path.basename(step.args.at(-1))}` : name);
/** Runs a step; what it told replaces what it told before. */
async function perform(one) {
  const began = Date.now();
  const live = steps.length === 1;
  const { out, ok } = await run(one.step, parts[one.name].env, live);
  const ms = Date.now() - began;
  Object.assign(one, { out, ok, ms: (one.ms ?? 0) + ms });
  if (!live) console.log(`\n== ${title(one)}, ${(ms / 1000).toFixed(0)} s ==\n${out.trim()}`);
}
for (const one of alone) await perform(one);
const waiting = [...beside];
await Promise.all(
  Array.from({ length: cores }, async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) await perform(next);
  }),
);

// Specs that fail beside others are run once more with nothing beside them. What holds then leaned on time: it is told, and no failure.
const fell = beside.filter(({ name, ok }) => !ok && !parts[name].timeless);
const leaned = [];
if (beside.length > 1 && fell.length <= AGAIN_AT_MOST)
  for (const one of fell) {
    const before = whatFailed(one.out);
    await perform(one);
    if (one.ok) leaned.push(`-- ${title(one)}\n${before}`);
  }
if (steps.length > 1) for (const one of steps) if (!one.ok) failures.push(`-- ${title(one)}\n${whatFailed(one.out)}`);

let passed = 0;
let failed = 0;
const table = names.map((name) => {
  const mine = steps.filter((one) => one.name === name);
  const text = mine.map(({ out }) => out).join('');
  const ok = mine.every((one) => one.ok);
  const ms = mine.reduce((sum, one) => sum + one.ms, 0);
  const counts = parts[name].count(text, ok).map(Number);
  if (!ok && counts[1] === 0) counts[1] = 1;
  passed += counts[0];
  failed += counts[1];
  return `${name.padEnd(10)} ${String(counts[0]).padStart(4)} passed  ${String(counts[1]).padStart(2)} failed  ${(ms / 1000).toFixed(0).padStart(4)} s`;
});
fs.rmSync(path.join(root, '.tmp/test'), { recursive: true, force: true });
if (leaned.length) console.log(`\n== failed beside others, held alone ==\n${leaned.join('\n\n')}`);
if (failures.length) console.log(`\n== what failed ==\n${failures.join('\n\n')}`);
console.log(`\n${table.join('\n')}\n`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed || !passed ? 1 : 0);
