import { createHash } from 'node:crypto';
import net from 'node:net';
import { setTimeout as sleep } from 'node:timers/promises';

const PATIENCE_MS = 120_000;
const AGAIN_MS = 50;

/** Runs something that no other process of this machine runs at the same time. The system gives the lock back if we die. */
export async function withLock<T>(key: string, work: () => Promise<T>): Promise<T> {
  // An abstract socket: it has no file that could be left behind.
  const name = `\0pg-local-${createHash('sha256').update(key).digest('hex').slice(0, 32)}`;
  for (const end = Date.now() + PATIENCE_MS; ;) {
    const lock = net.createServer();
    const mine = await new Promise<boolean>((resolve, reject) => {
      lock.once('error', (error: NodeJS.ErrnoException) => (error.code === 'EADDRINUSE' ? resolve(false) : reject(error)));
      lock.listen(name, () => resolve(true));
    });
    if (mine)
      try {
        return await work();
      } finally {
        await new Promise((resolve) => lock.close(resolve));
      }
    if (Date.now() > end) throw new Error('Another process has been starting the database for two minutes. End it, and try again');
    await sleep(AGAIN_MS);
  }
}
