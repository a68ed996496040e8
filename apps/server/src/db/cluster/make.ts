import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import type { Binaries } from './binaries';
import type { Who } from './place';
import { as } from './place';
import { USER } from './processes';

/** Makes a cluster in a folder beside its own and renames it: one that was interrupted leaves nothing half-made. @throws Error */
export function makeCluster(
  dir: string,
  { secretFile, binaries, who, durable }: { secretFile: string; binaries: Binaries; who: Who; durable: boolean },
): void {
  const draft = `${dir}.init`;
  const secretForInit = `${draft}.pw`;
  fs.rmSync(draft, { recursive: true, force: true });
  // Of a cluster that lost its version file everything else may be there.
  if (fs.existsSync(dir)) {
    if (fs.readdirSync(dir).length)
      throw new Error(
        `${dir} holds files of a database, but no PG_VERSION, which says what made them. Nothing was touched: put the file back, or move the folder away to begin anew`,
      );
    fs.rmdirSync(dir);
  }
  fs.mkdirSync(draft, { mode: 0o700 });
  const secret = `${randomBytes(24).toString('base64url')}\n`;
  fs.writeFileSync(secretFile, secret, { mode: 0o600 });
  fs.writeFileSync(secretForInit, secret, { mode: 0o600 });
  if (who) for (const file of [draft, secretForInit]) fs.chownSync(file, who.uid, who.gid);
  const options = [
    '-A',
    'scram-sha-256',
    '-E',
    'UTF8',
    '--locale=C.UTF-8',
    '--data-checksums',
    '--no-instructions',
    ...(durable ? [] : ['--no-sync']),
  ];
  const made = spawnSync(path.join(binaries.dir, 'initdb'), ['-D', draft, '-U', USER, `--pwfile=${secretForInit}`, ...options], {
    ...as(who),
    encoding: 'utf8',
  });
  fs.rmSync(secretForInit, { force: true });
  if (made.status !== 0) {
    fs.rmSync(draft, { recursive: true, force: true });
    throw new Error(`The database could not be set up in ${dir}: ${String(made.stderr || made.error)}`);
  }
  fs.renameSync(draft, dir);
}
