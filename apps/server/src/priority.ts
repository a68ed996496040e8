// What runs behind the interface, often on the same machine, gives way to it. Linux gives every thread a priority of its
// own, and what a thread starts (threads, the database, the quarry) has that of its starter.
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { getPriority, setPriority } from 'node:os';

/** How far behind, as Linux counts it: 0 not at all, 19 as far as can be. */
export const BEHIND = { server: 5, jobs: 10, session: 10 } as const;

const onLinux = process.platform === 'linux';

/** Sets the thread that asks so far behind; never further forward. */
export function stayBehind(behind: number): void {
  // Elsewhere a thread's priority is the whole server's.
  if (onLinux) giveWay(0, behind);
}

function giveWay(thread: number, behind: number): void {
  if (getPriority(thread) < behind) setPriority(thread, behind);
}

/** Sets every thread that the server has by now behind, and its session where it leads one, as the start command has it. */
export function serverStaysBehind(): void {
  if (!onLinux) return;
  for (const thread of readdirSync('/proc/self/task')) giveWay(Number(thread), BEHIND.server);
  const session = Number(readFileSync('/proc/self/stat', 'utf8').split(') ').at(-1)?.split(' ')[3]);
  if (session !== process.pid) return;
  try {
    // Desktop kernels share time out among sessions first; priorities of threads count only within theirs.
    writeFileSync('/proc/self/autogroup', String(BEHIND.session));
  } catch {
    // This kernel does not group by session.
  }
}
