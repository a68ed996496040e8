import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

/** Pictures of this many bytes are worth a pause of some hundredths of a second before them. */
const LARGE = 128 * 2 ** 20;

let collect: (() => void) | null = null;

/**
 * Lets go of pictures that nobody holds any more before a large one is read. They lie outside the engine's heap, which
 * therefore sees no hurry: without this two of them are in memory at a time.
 */
export async function letGoBefore(bytes: number): Promise<void> {
  if (bytes < LARGE) return;
  await letGo();
}

/** The same when work has ended that may have held much: what it held is given back to the machine before the next comes, if ever. */
export async function letGoAfter(): Promise<void> {
  const { external, arrayBuffers } = process.memoryUsage();
  if (Math.max(external, arrayBuffers) >= LARGE) await letGo();
}

async function letGo(): Promise<void> {
  // Whoever waited for the last picture is still on the way out with it.
  await new Promise((resolve) => setImmediate(resolve));
  if (!collect) {
    setFlagsFromString('--expose-gc');
    collect = runInNewContext('gc') as () => void;
  }
  collect();
}
