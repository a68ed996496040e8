import type { SpawnSyncOptions } from 'node:child_process';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';

/** Whom the server runs as; null as ourselves. */
export type Who = { uid: number; gid: number } | null;

/** The user of Debian's package. */
const SERVER_USER = process.env['PG_RUN_AS'] ?? 'postgres';
const isRoot = (): boolean => process.getuid?.() === 0;

/** How a program is run as somebody. Node sets real and effective ids in the child, as the server demands. */
export const as = (who: Who): SpawnSyncOptions => ({ cwd: '/', ...(who ?? {}), env: { PATH: process.env['PATH'], LC_ALL: 'C.UTF-8', TZ: 'UTC' } });

function userOf(name: string): Who {
  const line = fs
    .readFileSync('/etc/passwd', 'utf8')
    .split('\n')
    .find((l) => l.startsWith(`${name}:`));
  const [, , uid, gid] = line?.split(':') ?? [];
  return line ? { uid: Number(uid), gid: Number(gid) } : null;
}
function ownerOf(file: string): Who {
  try {
    const { uid, gid } = fs.statSync(file);
    return { uid, gid };
  } catch {
    return null;
  }
}
const canUse = (dir: string, who: Who): boolean =>
  spawnSync('/bin/sh', ['-c', 'cd "$1" && test -w . ', 'sh', dir], { ...as(who), stdio: 'ignore' }).status === 0;

/**
 * Where the cluster lies, in `<base>/pg/data`, and whom it runs as. `<base>/pg` is its user's alone; secret and log beside
 * it are ours. The server refuses to run as root: it runs as the package's user then, in a folder which that user can reach.
 * @throws Error with what to do
 */
export function choosePlace(wanted: string): { who: Who; base: string } {
  fs.mkdirSync(wanted, { recursive: true });
  // Processes tell their folders by real paths.
  const root = fs.realpathSync(wanted);
  const owner = ownerOf(path.join(root, 'pg'));
  if (!isRoot()) {
    if (owner && owner.uid !== process.getuid?.())
      throw new Error(`${root}/pg belongs to user ${owner.uid}, from a run as root perhaps. Run as root again, or remove it`);
    fs.mkdirSync(path.join(root, 'pg'), { recursive: true, mode: 0o700 });
    return { who: null, base: root };
  }
  // What an ordinary user made goes on as that user's.
  const who = owner && owner.uid !== 0 ? owner : userOf(SERVER_USER);
  if (!who) throw new Error(`The database does not run as root, and there is no user ${SERVER_USER}. Install the package, or set PG_RUN_AS`);
  const elsewhere = `/var/lib/${process.env['PG_APP_NAME'] ?? 'app'}-pg/${createHash('sha256').update(root).digest('hex').slice(0, 16)}`;
  for (const base of [root, elsewhere])
    if (makeHome(path.join(base, 'pg'), who)) {
      if (base !== root) fs.writeFileSync(path.join(root, 'pg-location'), `${base}\n`);
      return { who, base };
    }
  throw new Error(`User ${who.uid}, whom the database runs as, can use neither ${root} nor ${elsewhere}. Make one of them reachable`);
}

/** Makes the folder of the server's user; false where that user cannot reach it. */
function makeHome(home: string, who: NonNullable<Who>): boolean {
  const existed = fs.existsSync(home);
  // Folders on the way there stay root's, and can be passed through.
  fs.mkdirSync(home, { recursive: true, mode: 0o755 });
  fs.chmodSync(home, 0o700);
  fs.chownSync(home, who.uid, who.gid);
  if (canUse(home, who)) return true;
  if (!existed) fs.rmdirSync(home);
  return false;
}

/** Gives a file that root made to whom the folder belongs, so that a later run as that user can open it. */
export function likeFolder(file: string, folder: string): void {
  const owner = ownerOf(folder);
  if (isRoot() && owner) fs.chownSync(file, owner.uid, owner.gid);
}
