import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';

/** Where Debian keeps its servers. */
const LIBRARY = process.env['PEBBLE_PG_LIB'] ?? '/usr/lib/postgresql';
const MIN_MAJOR = 15;

export interface Binaries {
  dir: string;
  major: number;
}

const folders = (): string[] => {
  let majors: string[];
  try {
    majors = fs.readdirSync(LIBRARY).filter((v) => /^\d+$/.test(v));
  } catch {
    majors = [];
  }
  const debian = majors.sort((a, b) => Number(b) - Number(a)).map((v) => `${LIBRARY}/${v}/bin`);
  return [process.env['PG_BIN'] ?? '', ...debian, ...(process.env['PATH'] ?? '').split(':')].filter(Boolean);
};
const canRun = (file: string): boolean => {
  try {
    fs.accessSync(file, fs.constants.X_OK);
    return true;
  } catch {
    return false;
  }
};

/** The newest PostgreSQL server of this machine. @throws Error with what to install */
export function findBinaries(): Binaries {
  for (const folder of folders()) {
    if (!['initdb', 'postgres'].every((name) => canRun(path.join(folder, name)))) continue;
    // initdb looks for `postgres` beside itself: links such as /usr/local/bin/initdb are followed.
    const dir = path.dirname(fs.realpathSync(path.join(folder, 'initdb')));
    const said = /(\d+)(?:\.\d+)?/.exec(spawnSync(path.join(dir, 'postgres'), ['--version'], { encoding: 'utf8' }).stdout ?? '');
    if (said && Number(said[1]) >= MIN_MAJOR) return { dir, major: Number(said[1]) };
  }
  throw new Error(`The PostgreSQL server (${MIN_MAJOR} or newer) is not installed. Run: sudo apt-get update && sudo apt-get install -y postgresql`);
}

/** The server that made a data folder: a newer one cannot go on with it. @throws Error with what to do */
export function binariesFor(dataDir: string, found: Binaries): Binaries {
  const major = Number(fs.readFileSync(path.join(dataDir, 'PG_VERSION'), 'utf8'));
  if (major === found.major) return found;
  const dir = `${LIBRARY}/${major}/bin`;
  if (!fs.existsSync(`${dir}/postgres`))
    throw new Error(`${dataDir} was made by PostgreSQL ${major}, and only ${found.major} is here. Install ${major}, or move the folder away`);
  return { dir, major };
}
