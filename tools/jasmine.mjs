// Runs Jasmine specs written in TypeScript on Node: node --import tsx tools/jasmine.mjs [--in-order] GLOB…
import Jasmine from 'jasmine';

// Flows through one running application are told in order; everything else is shuffled.
const args = process.argv.slice(2);
const inOrder = args.includes('--in-order');
const globs = args.filter((a) => !a.startsWith('--'));
const runner = new Jasmine({ projectBaseDir: process.cwd() });
runner.loadConfig({ spec_dir: '.', spec_files: globs, random: !inOrder, jsLoader: 'import' });
runner.jasmine.DEFAULT_TIMEOUT_INTERVAL = 60_000;
runner.configureDefaultReporter({ showColors: process.stdout.isTTY });
runner.exitOnCompletion = false;
const result = await runner.execute();
// What specs share for a whole run, such as the test cluster, is put away by the last one out.
await globalThis.pebbleCleanUp?.();
process.exit(result.overallStatus === 'passed' ? 0 : 1);
