import { UsageError, run } from './commands';

// Exit code 0, 2 for bad use, 1 for failure; errors on stderr in one sentence.
try {
  await run(process.argv.slice(2), process.env['INIT_CWD'] ?? process.cwd(), (text) => process.stdout.write(`${text}\n`));
} catch (error) {
  process.stderr.write(`${(error as Error).message.replace(/\s*\n\s*/g, ' ')}\n`);
  process.exitCode = error instanceof UsageError ? 2 : 1;
}
