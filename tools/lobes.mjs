// npm run lobes: fits the taps that stand for specular lobes and stores them. Minutes of work, done when the fit changes.
import fs from 'node:fs';
import path from 'node:path';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { root } from './ensure.mjs';

if (isMainThread) {
  const { buildAll } = await import('./build.mjs');
  await buildAll({ only: 'node' });
}
const { FIRST_FITS, LOBE_GRID, LOBE_NUMBERS, LOBE_SCALE, fitLobe } = await import(path.join(root, 'dist/node/core.mjs'));
const { columns, rows } = LOBE_GRID;

/** One roughness, from straight above to grazing: each angle starts at its neighbour's fit. */
function row(r) {
  const shapes = [];
  let starts = FIRST_FITS;
  for (let c = columns - 1; c >= 0; c--) {
    // At the ends themselves a lobe has no plane of incidence, or no lobe.
    const nDotV = Math.min(0.998, Math.max(0.004, c / (columns - 1)));
    const tried = starts.map((from) => fitLobe(nDotV, r / (rows - 1), from));
    const { fit, shape } = tried.reduce((a, b) => (b.error < a.error ? b : a));
    starts = [fit, ...FIRST_FITS];
    shapes.unshift(LOBE_NUMBERS.map((name) => Math.round(shape[name] * LOBE_SCALE)));
  }
  return shapes;
}

if (!isMainThread) {
  for (const r of workerData) parentPort.postMessage([r, row(r)]);
} else {
  const done = [];
  const share = (k) =>
    new Promise((resolve, reject) =>
      new Worker(import.meta.filename, { workerData: Array.from({ length: rows }, (_, r) => r).filter((r) => r % 2 === k) })
        .on('message', ([r, shapes]) => (done[r] = shapes))
        .on('error', reject)
        .on('exit', resolve),
    );
  await Promise.all([share(0), share(1)]);
  const text = done.map((shapes) => `  ${shapes.map((s) => s.join(', ')).join(', ')},\n`).join('');
  fs.writeFileSync(
    path.join(root, 'packages/core/src/light/lobe-fits.ts'),
    `// Written by \`npm run lobes\`: thousandths, a roughness a line, shapes in it by n·v.\n// prettier-ignore\nexport const LOBE_FITS: readonly number[] = [\n${text}];\n`,
  );
}
