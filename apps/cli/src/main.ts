import { BandPool } from '@pebble/usecases/bands';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { UsageError, run } from './commands';

// Beside this file in the built program.
const bands = new BandPool(path.join(import.meta.dirname, 'band-worker.mjs'), Math.min(4, availableParallelism()));

// Exit code 0, 2 for bad use, 1 for failure; errors on stderr in one sentence.
try {
  await run(process.argv.slice(2), process.env['INIT_CWD'] ?? process.cwd(), (text) => process.stdout.write(`${text}\n`), bands);
} catch (error) {
  process.stderr.write(`${(error as Error).message.replace(/\s*\n\s*/g, ' ')}\n`);
  process.exitCode = error instanceof UsageError ? 2 : 1;
}
await bands.close();
