// Whoever ends a program, however, leaves nothing behind, and is told plainly why one does not start.
import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import { isRunning, serverPids } from '../../apps/server/src/db/cluster';
import { ROOT, scratch, serve, somePort } from '../harness';

describe('whatever ends it', () => {
  const { dir, remove } = scratch();
  let folders = 0;
  const children: ChildProcess[] = [];
  const fresh = () => path.join(dir, `data${folders++}`);
  const cluster = (data: string) => path.join(data, 'pg/data');
  const pids = (data: string) => serverPids(cluster(data));
  const run = async (script: string, data: string, env: NodeJS.ProcessEnv = {}) => {
    const args = [path.join(ROOT, script), '--port', String(await somePort()), '--data', data, '--no-demo'];
    const child = spawn(process.execPath, args, { cwd: ROOT, env: { ...process.env, PEBBLE_ROOT: ROOT, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (d) => (output += d));
    children.push(child);
    return { child, output: () => output, gone: new Promise<number | null>((resolve) => child.once('exit', resolve)) };
  };
  afterAll(() => {
    children.forEach((c) => c.kill('SIGKILL'));
    remove();
  });

  it('leaves no database behind, though it is ended in its first moments', async () => {
    for (const after of [30, 400, 1000, 1900, 3000]) {
      const data = fresh();
      const { child, gone } = await run('dist/node/server.mjs', data);
      await new Promise((resolve) => setTimeout(resolve, after));
      child.kill('SIGINT');
      await gone;
      expect(pids(data)).withContext(`${after} ms`).toEqual([]);
    }
  });
  it('goes when whoever started it was killed', async () => {
    const data = fresh();
    const { child, output, gone } = await run('tools/start.mjs', data);
    await until(async () => output().includes('is at http'));
    const [, port] = /http:\/\/127\.0\.0\.1:(\d+)/.exec(output())!;
    expect(pids(data).length).toBeGreaterThan(0);
    child.kill('SIGKILL');
    await gone;
    await until(async () => pids(data).length === 0);
    await expectAsync(fetch(`http://127.0.0.1:${port}/api/health`)).toBeRejected();
    expect(isRunning(child.pid!)).toBeFalse();
  });
  it('says plainly why it does not start, and touches nothing', async () => {
    const data = fresh();
    const first = await serve(['--data', data, '--no-demo']);
    await first.stop();
    const version = path.join(cluster(data), 'PG_VERSION');
    const aside = path.join(dir, 'aside');
    const refused = async (message: RegExp, env: NodeJS.ProcessEnv = {}, folder = data) =>
      expectAsync(serve(['--data', folder, '--no-demo'], env)).toBeRejectedWithError(message);
    renameSync(version, aside);
    await refused(/holds files of a database, but no PG_VERSION.*put the file back, or move the folder away/);
    expect(existsSync(path.join(cluster(data), 'base'))).toBeTrue();
    renameSync(aside, version);
    const secret = path.join(data, 'pg.secret');
    renameSync(secret, aside);
    await refused(/pg\.secret, which holds the password.*is gone\. Put it back/);
    renameSync(aside, secret);
    // All is there as it was.
    const again = await serve(['--data', data, '--no-demo']);
    expect(await again.stop()).toBe(0);

    const file = path.join(dir, 'a-file');
    writeFileSync(file, '');
    await refused(/lies below something that is a file.*another --data folder/, {}, path.join(file, 'data'));
    await refused(/No database answers at 127\.0\.0\.1:1, where DATABASE_URL points/, { DATABASE_URL: 'postgres://nobody@127.0.0.1:1/none' });
    // A folder that is there and empty is as good as none.
    const empty = fresh();
    mkdirSync(cluster(empty), { recursive: true });
    const started = await serve(['--data', empty, '--no-demo']);
    expect(await started.stop()).toBe(0);
    rmSync(file);
  });
});
