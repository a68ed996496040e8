// npm start: everything from a fresh checkout to a served application. Plain Node, no packages needed to begin.
import { checkNode, ensurePackages, ensurePostgres } from './ensure.mjs';
import { run } from './run.mjs';

checkNode();
ensurePackages();
ensurePostgres();
const { buildAll } = await import('./build.mjs');
await buildAll();
run('server.mjs');
