// Whoever ends a program, however, leaves nothing behind, and is told plainly why one does not start.
import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { until } from '../../apps/server/spec/harness';
import { isRunning, serverPids } from '../../apps/server/src/db/cluster';
import type { ListedDocument } from '@pebble/contracts';
import { launch } from '../browser';
import type { Served } from '../harness';
import { ROOT, api, openPage, saved, scratch, serve, somePort } from '../harness';

const PROJECT = { kind: 'project', version: 1, name: 'Second', exportNormal: 'y+', exportSize: 1024, target: 'desktop' };

describe('whatever ends it', () => {
  const { dir, remove } = scratch();
  let folders = 0;
  const children: ChildProcess[] = [];
  const fresh = () => path.join(dir, `data${folders++}`);
  const cluster = (data: string) => path.join(data, 'pg/data');
  const pids = (data: string) => serverPids(cluster(data));
  const run = async (command: string, before: readonly string[], data: string) => {
    const args = [...before, '--port', String(await somePort()), '--data', data, '--no-demo'];
    const child = spawn(command, args, { cwd: ROOT, env: { ...process.env, PEBBLE_ROOT: ROOT }, stdio: ['ignore', 'pipe', 'pipe'] });
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
      const { child, gone } = await run(process.execPath, [path.join(ROOT, 'dist/node/server.mjs')], data);
      await new Promise((resolve) => setTimeout(resolve, after));
      child.kill('SIGINT');
      await gone;
      // Its last process may still be going.
      await until(async () => pids(data).length === 0);
    }
  });
  const startings: [what: string, program: () => [command: string, args: string[]], signal: NodeJS.Signals][] = [
    ['the start command was killed', () => [process.execPath, [path.join(ROOT, 'tools/start.mjs')]], 'SIGKILL'],
    ['npm was asked to end', () => ['npm', ['start', '--']], 'SIGTERM'],
    ['npm was killed', () => ['npm', ['start', '--']], 'SIGKILL'],
  ];
  for (const [what, program, signal] of startings)
    it(`goes when ${what}`, async () => {
      const data = fresh();
      const [command, args] = program();
      const { child, output, gone } = await run(command, args, data);
      await until(async () => output().includes('is at http'));
      const [, port] = /http:\/\/127\.0\.0\.1:(\d+)/.exec(output())!;
      expect(pids(data).length).toBeGreaterThan(0);
      child.kill(signal);
      await gone;
      await until(async () => pids(data).length === 0);
      await until(async () => (await fetch(`http://127.0.0.1:${port}/api/health`).catch(() => null)) === null);
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
  it('begins once where two are started at the same moment, and both serve the same', async () => {
    const data = fresh();
    const [a, b] = await Promise.all([serve(['--data', data, '--no-demo']), serve(['--data', data, '--no-demo'])]);
    const kinds = async ({ url }: Served) => (await api<ListedDocument[]>(url, '/documents')).map((d) => d.id).sort();
    const there = await kinds(a);
    expect([there.filter((id) => id === 'project').length, await kinds(b)]).toEqual([1, there]);
    // What one is told the other shows; the first to go leaves the database to the second.
    await api(a.url, '/documents', { body: PROJECT, label: 'New', opId: randomUUID(), id: 'second' });
    expect(await kinds(b)).toContain('second');
    expect(await a.stop()).toBe(0);
    expect(await kinds(b)).toContain('second');
    expect(await b.stop()).toBe(0);
    expect(pids(data)).toEqual([]);
    const taken = await serve(['--data', data, '--no-demo']);
    const port = Number(new URL(taken.url).port);
    await expectAsync(serve(['--data', data, '--no-demo'], {}, port)).toBeRejectedWithError(
      /Port \d+ is taken by another program\. Stop it, or start with --port/,
    );
    await taken.stop();
  });
  it('does not start where others can reach it without a token; with one it asks for it once, and works', async () => {
    const data = fresh();
    await expectAsync(serve(['--data', data, '--no-demo', '--host', '127.0.0.2'])).toBeRejectedWithError(
      /At 127\.0\.0\.2 others can reach this server: it does not start there without a token of at least 12 characters/,
    );
    await expectAsync(serve(['--data', data, '--no-demo', '--host', '0.0.0.0'], { PEBBLE_TOKEN: 'short' })).toBeRejectedWithError(/without a token/);
    await expectAsync(serve(['--data', data, '--no-demo', '--host', '192.0.2.7'], { PEBBLE_TOKEN: 'a pebble in the shoe' })).toBeRejectedWithError(
      /This machine does not have the address that --host names/,
    );
    const served = await serve(['--data', data, '--no-demo', '--host', '127.0.0.2'], { PEBBLE_TOKEN: 'a pebble in the shoe' });
    const browser = await launch();
    try {
      const { page, errors } = await openPage(browser, `${served.url}/blend`);
      const token = page.getByLabel('Token');
      await token.fill('a pebble in the boot');
      await token.press('Enter');
      await page.getByText('That is not the token of this server').waitFor();
      await token.fill('a pebble in the shoe');
      await token.press('Enter');
      await saved(page);
      // Live events come through as well, and edits are taken.
      await page.waitForFunction(() => !document.querySelector('.saved')?.textContent?.includes('Offline'));
      await page.getByRole('button', { name: 'New project' }).click();
      const name = page.getByLabel('Name', { exact: true });
      await name.fill('Seen from afar');
      await name.press('Enter');
      await page.getByRole('button', { name: 'Seen from afar' }).waitFor();
      await saved(page);
      await page.reload();
      await page.getByRole('button', { name: 'Seen from afar' }).waitFor();
      expect(errors).toEqual([]);
      // Who it was is nowhere in the log.
      expect(readFileSync(path.join(data, 'log/server.log'), 'utf8')).not.toMatch(/pebble in the|Seen from/);
    } finally {
      await browser.close();
      await served.stop();
    }
  });
});
