// Runs Jasmine specs written in TypeScript on Node: node --import tsx tools/jasmine.mjs [--in-order] [--side-by-side] GLOB…
import os from 'node:os';
import Jasmine from 'jasmine';
import ParallelRunner from 'jasmine/parallel';

const SLOW_MS = 8000;
const args = process.argv.slice(2);
// Flows through one running application are told in order; everything else is shuffled.
const inOrder = args.includes('--in-order');
// Files that share nothing run at the same time, one a core.
const sideBySide = args.includes('--side-by-side') && os.availableParallelism() > 1;
const globs = args.filter((a) => !a.startsWith('--'));
const options = { projectBaseDir: process.cwd() };
const runner = sideBySide ? new ParallelRunner({ ...options, numWorkers: Math.min(4, os.availableParallelism()) }) : new Jasmine(options);
const helpers = ['tools/jasmine-patience.mjs'];
runner.loadConfig({ spec_dir: '.', spec_files: globs, helpers, random: !inOrder, jsLoader: 'import' });
runner.configureDefaultReporter({ showColors: process.stdout.isTTY });
// What takes long is told, so that it does not creep.
const slow = [];
runner.addReporter({
  reporterCapabilities: { parallel: true },
  specDone: ({ fullName, duration }) => void (duration > SLOW_MS && slow.push([duration, fullName])),
});
runner.exitOnCompletion = false;
const result = await runner.execute();
for (const [ms, name] of slow.sort(([a], [b]) => b - a).slice(0, 12)) console.log(`${(ms / 1000).toFixed(0).padStart(4)} s  ${name}`);
// What specs share for a whole run, such as the test cluster, is put away by the last one out.
await globalThis.pebbleCleanUp?.();
process.exit(result.overallStatus === 'passed' ? 0 : 1);
