// npm run references: integrates the reference balls under every sky by brute force and stores them beside the core's tests.
import fs from 'node:fs';
import path from 'node:path';
import { root } from './ensure.mjs';

const { buildAll } = await import('./build.mjs');
await buildAll({ only: 'node' });
const { REFERENCE_BALLS, REFERENCE_PLACES, SKIES, integrateBall } = await import(path.join(root, 'dist/node/core.mjs'));
const round = (v) => Math.round(v * 1e5) / 1e5;
const stored = Object.fromEntries(
  Object.entries(SKIES).map(([name, { sky }]) => [
    name,
    REFERENCE_BALLS.map((ball) => REFERENCE_PLACES.flatMap((p) => integrateBall(sky, ball, p, 8192).map(round))),
  ]),
);
const text = JSON.stringify(stored).replaceAll('],', '],\n');
fs.writeFileSync(
  path.join(root, 'packages/core/src/light/reference-balls.ts'),
  `// Written by \`npm run references\`: rgb at every place of every ball, by sky. Read by the tests alone.\nexport const STORED_BALLS: Record<string, number[][]> = ${text};\n`,
);
