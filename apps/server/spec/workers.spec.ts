import type { JobView } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import path from 'node:path';
import type { TestApp } from './harness';
import { ROOT, allDocuments, testApp, testDatabase, until } from './harness';

describe('workers on other machines', () => {
  const children: ChildProcess[] = [];
  const worker = (databaseUrl: string | undefined, env: NodeJS.ProcessEnv = {}) => {
    const child = spawn(process.execPath, [path.join(ROOT, 'dist/node/work.mjs')], {
      cwd: ROOT,
      env: { ...process.env, PEBBLE_ROOT: ROOT, PEBBLE_QUARRY: undefined, DATABASE_URL: databaseUrl, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    children.push(child);
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (d) => (output += String(d)));
    return { child, output: () => output, gone: new Promise<number | null>((resolve) => child.once('exit', resolve)) };
  };
  afterAll(() => children.forEach((c) => c.kill('SIGKILL')));

  describe('of a server that does none of the work itself', () => {
    let app: TestApp;
    beforeAll(async () => {
      app = await testApp({ work: false });
    });
    afterAll(() => app.stop());
    it('take jobs from the same database; what one was at when it was killed is done by the other, and nothing twice', async () => {
      const jobs: JobView[] = [];
      for (let seed = 0; seed < 8; seed++) jobs.push(await app.jobs.add('generate', 'Draw', { name: 'terrace-stone', seed, size: 400 }));
      const [a, b] = [worker(app.url), worker(app.url)];
      const at = async (pid: number) =>
        (await app.pool.query("select 1 from job where status = 'running' and worker like $1", [`%/${pid}/%`])).rowCount ?? 0;
      await until(async () => (await at(a.child.pid!)) > 0 && (await at(b.child.pid!)) > 0);
      a.child.kill('SIGKILL');
      const ended = await until(async () => {
        const all = await Promise.all(jobs.map(({ id }) => app.jobs.get(id)));
        return all.every((j) => !['waiting', 'running'].includes(j.status)) && all;
      });
      expect(ended.map((j) => j.status)).toEqual(jobs.map(() => 'done'));
      expect((await allDocuments<SurfaceDocument>(app)).filter((d) => d.body.generator?.name === 'terrace-stone').length).toBe(jobs.length);
      // Asked to end, it gives back what it is at, and leaves at once.
      const { id } = await app.jobs.add('generate', 'Draw', { name: 'river-gravel', seed: 1, size: 4096 });
      await until(async () => (await at(b.child.pid!)) > 0);
      b.child.kill('SIGTERM');
      expect(await b.gone).toBe(0);
      expect((await app.jobs.get(id)).status).toBe('waiting');
      await app.jobs.cancel(id);
    });
    it('leave what has to be fetched from the quarry to whoever has one beside it', async () => {
      const fetch = await app.jobs.add('fetch', 'Fetch', { id: 'no-such-stone', size: 256, author: 'x', licence: 'x' });
      const far = worker(app.url);
      const draw = await app.jobs.add('generate', 'Draw', { name: 'river-gravel', seed: 1, size: 32 });
      await until(async () => (await app.jobs.get(draw.id)).status === 'done');
      expect((await app.jobs.get(fetch.id)).status).toBe('waiting');
      far.child.kill('SIGTERM');
      await far.gone;
      const near = worker(app.url, { PEBBLE_QUARRY: 'http://127.0.0.1:1' });
      await until(async () => (await app.jobs.get(fetch.id)).status === 'failed');
      near.child.kill('SIGTERM');
      await near.gone;
    });
  });
  it('say plainly why they do not start', async () => {
    const refused = async (databaseUrl: string | undefined, message: RegExp) => {
      const { gone, output } = worker(databaseUrl);
      expect(await gone).toBe(1);
      expect(output()).toMatch(message);
    };
    await refused(undefined, /^A worker needs to know where the database is: set DATABASE_URL/);
    await refused('postgres://nobody@127.0.0.1:1/none', /^No database answers at 127\.0\.0\.1:1/);
    const empty = await testDatabase();
    await refused(empty.url, /no Jaunty Pebble has used yet\. Start the server on it first/);
    await empty.drop();
    const app = await testApp({ work: false });
    const change = (sql: string) => app.pool.query(sql);
    await change("update migration set name = '003-from-tomorrow.sql' where name like '002%'");
    await refused(app.url, /newer version of Jaunty Pebble \(it has 003-from-tomorrow\.sql\)/);
    await change("delete from migration where name like '003%'");
    await refused(app.url, /older version \(it lacks 002-kept\.sql, 003-made\.sql\)/);
    await app.stop();
  });
});
