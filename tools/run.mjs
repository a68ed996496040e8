// Runs a built program as the README's commands do: in a session of its own, ended with whoever asked for it.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { root } from './ensure.mjs';

/** Who began a process; nothing where only the system knows. */
function parentOf(pid) {
  try {
    return fs.readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ')[1];
  } catch {
    return '';
  }
}

export function run(program) {
  const child = spawn(process.execPath, ['--enable-source-maps', path.join(root, 'dist/node', program), ...process.argv.slice(2)], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, PEBBLE_ROOT: root, PEBBLE_STARTER: String(process.pid) },
    // A session of its own, which gives way to that of the browser; so signals are passed on.
    detached: true,
  });
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
  // Signals to npm may end it alone, or leave the shell that it runs scripts in.
  const above = () => `${process.ppid} ${parentOf(process.ppid)}`;
  const before = above();
  if (process.env.npm_lifecycle_event) setInterval(() => above() !== before && child.kill('SIGTERM'), 1000).unref();
  child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
}
