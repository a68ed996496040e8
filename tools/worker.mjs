// npm run worker: takes jobs of a server elsewhere, from the database that DATABASE_URL names. Needs no database and no browser here.
import { checkNode, ensurePackages } from './ensure.mjs';
import { run } from './run.mjs';

checkNode();
ensurePackages();
const { buildAll } = await import('./build.mjs');
await buildAll({ only: 'node' });
run('work.mjs');
