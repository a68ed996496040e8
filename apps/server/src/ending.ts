/** How often it is looked whether whoever started this is still there. */
const LOOK_MS = 1000;

/** Calls `stop` when the program is asked to end, or when the start command that it belongs to was killed without a word. */
export function onEnd(stop: () => void): void {
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, stop);
  // Nobody would end it then.
  const starter = Number(process.env['PEBBLE_STARTER'] ?? 0);
  if (starter) setInterval(() => process.ppid !== starter && stop(), LOOK_MS).unref();
}
