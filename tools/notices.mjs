// The notices of everything that ships with the built application, next to it: what the workspaces depend on at run time,
// and what that depends on, each with its licence as it came.
import fs from 'node:fs';
import path from 'node:path';
import { root } from './ensure.mjs';

const read = (file) => JSON.parse(fs.readFileSync(file, 'utf8'));
const workspaces = ['packages', 'apps'].flatMap((dir) => fs.readdirSync(path.join(root, dir)).map((name) => path.join(root, dir, name)));

/** The folder of a package as the folder of another would find it. */
function found(name, from) {
  for (let dir = from; dir.startsWith(root); dir = path.dirname(dir)) {
    const at = path.join(dir, 'node_modules', name);
    if (fs.existsSync(path.join(at, 'package.json'))) return fs.realpathSync(at);
  }
  return null;
}

function collect() {
  const seen = new Map();
  const visit = (folder) => {
    const { dependencies = {}, optionalDependencies = {} } = read(path.join(folder, 'package.json'));
    for (const name of Object.keys({ ...dependencies, ...optionalDependencies })) {
      const at = found(name, folder);
      if (!at || seen.has(at)) continue;
      seen.set(at, read(path.join(at, 'package.json')));
      visit(at);
    }
  };
  for (const folder of workspaces) if (fs.existsSync(path.join(folder, 'package.json'))) visit(folder);
  return [...seen].filter(([, { name }]) => !name.startsWith('@pebble/'));
}

function noticeOf([folder, { name, version, license }]) {
  const texts = fs
    .readdirSync(folder)
    .filter((file) => /^(licen[cs]e|notice|copying)/i.test(file))
    .sort()
    .map((file) => path.join(folder, file))
    .filter((file) => fs.statSync(file).isFile())
    .map((file) => fs.readFileSync(file, 'utf8').trim());
  return [`${name} ${version}`, `Licence: ${typeof license === 'string' ? license : (license?.type ?? 'see below')}`, ...texts].join('\n\n');
}

/** Writes `notices.txt` into a folder: our own licence first. */
export function writeNotices(folder) {
  const line = `\n\n${'-'.repeat(80)}\n\n`;
  const own = `Jaunty Pebble\n\n${fs.readFileSync(path.join(root, 'LICENSE'), 'utf8').trim()}`;
  const others = collect()
    .map(noticeOf)
    .sort((a, b) => a.localeCompare(b, 'en'));
  fs.writeFileSync(path.join(folder, 'notices.txt'), `${[own, ...others].join(line)}\n`);
}
