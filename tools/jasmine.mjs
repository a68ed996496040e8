// Runs Jasmine specs written in TypeScript on Node: node --import tsx tools/jasmine.mjs GLOB…
import Jasmine from 'jasmine';

const runner = new Jasmine({ projectBaseDir: process.cwd() });
runner.loadConfig({ spec_dir: '.', spec_files: process.argv.slice(2), random: true, jsLoader: 'import' });
runner.jasmine.DEFAULT_TIMEOUT_INTERVAL = 60_000;
runner.exitOnCompletion = false;
const result = await runner.execute();
process.exit(result.overallStatus === 'passed' ? 0 : 1);
