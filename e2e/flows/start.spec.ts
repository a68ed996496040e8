import type { JobView, StoredDocument, UploadedFile } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { ProjectDocument } from '@pebble/core';
import { generateSurface } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import pg from 'pg';
import { opId, until } from '../../apps/server/spec/harness';
import { serverPids } from '../../apps/server/src/db/cluster';
import type { Served } from '../harness';
import { allDocuments, api, scratch, serve, somePort } from '../harness';

describe('starting and stopping', () => {
  const { dir, remove } = scratch();
  const data = path.join(dir, 'data');
  let served: Served | null = null;
  const start = async (...args: string[]) => (served = await serve(['--data', data, '--no-demo', ...args], {}, undefined, true));
  const postmaster = () => Number(readFileSync(path.join(data, 'pg/data/postmaster.pid'), 'utf8').split('\n')[0]);
  /** The database is there again, and is not what an orphan of the killed one still answers. */
  const backFrom = (killed: number) =>
    until(
      async () => existsSync(path.join(data, 'pg/data/postmaster.pid')) && postmaster() !== killed && (await fetch(`${served!.url}/api/health`)).ok,
    );
  const clusterPids = () => serverPids(path.join(data, 'pg/data'));
  const project = async () => (await allDocuments<ProjectDocument>(served!.url)).find((d) => d.kind === 'project')!;
  const rename = async (name: string) => {
    const now = await project();
    return api(served!.url, `/documents/${now.id}/edits`, {
      opId: opId(),
      baseVersion: now.version,
      label: 'Rename',
      patch: [{ op: 'replace', path: '/name', value: name }],
      inverse: [{ op: 'replace', path: '/name', value: now.body.name }],
    });
  };
  /** Nothing while the server or its database does not answer. */
  const jobs = async (): Promise<JobView[]> => {
    const answer = await fetch(`${served!.url}/api/jobs`).catch(() => null);
    return answer?.ok ? ((await answer.json()) as JobView[]) : [];
  };
  /** A job once it is as it is waited for; what is known instead, where it never is. */
  const jobWhen = (id: string, is: (status: JobView['status']) => boolean): Promise<JobView> =>
    until(async () => (await jobs()).find((j) => j.id === id && is(j.status))).catch(async (error: Error) => {
      throw new Error(`${error.message}: ${JSON.stringify(await jobs())}\n${served!.output()}`);
    });
  afterEach(() => {
    // A server that died of its own accord tells why.
    if (served && served.process.exitCode) console.error(served.output());
  });
  afterAll(async () => {
    await served?.stop();
    remove();
  });

  it('makes a cluster, serves, and stops everything cleanly on Ctrl+C', async () => {
    await start();
    expect((await project()).body.name).toBe('New project');
    await rename('Kept through all of this');
    expect(clusterPids().length).toBeGreaterThan(0);
    // All of it stays behind the interface: every thread, what they started, and the session where the kernel weighs those.
    if (process.platform === 'linux') {
      const pid = served!.process.pid!;
      for (const each of [pid, ...clusterPids()])
        for (const thread of readdirSync(`/proc/${each}/task`)) expect(os.getPriority(Number(thread))).toBeGreaterThanOrEqual(5);
      const group = `/proc/${pid}/autogroup`;
      if (existsSync(group)) expect(readFileSync(group, 'utf8')).toMatch(/nice 10$/m);
    }
    expect(await served!.stop()).toBe(0);
    expect(clusterPids()).toEqual([]);
  });
  it('says in one sentence that a port is taken or makes no sense', async () => {
    const port = await somePort();
    const holder = net.createServer().listen(port, '127.0.0.1');
    await expectAsync(serve(['--data', data], {}, port)).toBeRejectedWithError(new RegExp(`Port ${port} is taken by another program`));
    holder.close();
    await expectAsync(serve(['--data', data, '--port', 'abc'])).toBeRejectedWithError(/--port takes a number/);
  });
  it('comes back after server and database were killed, with every acknowledged edit', async () => {
    await start();
    const killed = postmaster();
    await rename('Written just before the power went');
    await served!.kill();
    process.kill(killed, 'SIGKILL');
    await start();
    expect((await project()).body.name).toBe('Written just before the power went');
  });
  it('starts the database again when only that was killed, and goes on', async () => {
    const killed = postmaster();
    process.kill(killed, 'SIGKILL');
    const away = await fetch(`${served!.url}/api/documents`);
    if (!away.ok) expect(((await away.json()) as { detail: string }).detail).toMatch(/database|went wrong/);
    await backFrom(killed);
    await rename('After the database came back');
    expect((await project()).body.name).toBe('After the database came back');
  });
  it('finishes an import whose server was killed, once', async () => {
    const made = generateSurface('river-gravel', { seed: 5, size: 512 });
    const form = new FormData();
    for (const [role, image] of Object.entries(made.maps))
      form.append('files', new Blob([Buffer.from(await nodeCodec.encode(image))]), `bed_${role}.png`);
    const files = (await (await fetch(`${served!.url}/api/uploads`, { method: 'POST', body: form })).json()) as UploadedFile[];
    const maps = files.map((f) => ({ blob: f.blob, fileName: f.fileName, role: f.fileName.replace(/^bed_|\.png$/g, ''), normalDirection: 'y+' }));
    const job = await api<JobView>(served!.url, '/imports', {
      surfaces: [1, 2, 3].map((n) => ({ name: `Bed ${n}`, sizeM: 1, reliefM: 0.04, maps })),
    });
    // On a busy machine it may begin late, or be over between two looks: then there is less to finish.
    await jobWhen(job.id, (status) => status !== 'waiting');
    await served!.kill();
    await start();
    const ended = await jobWhen(job.id, (status) => ['done', 'failed'].includes(status));
    expect(ended.status)
      .withContext(ended.error ?? '')
      .toBe('done');
    const names = (await allDocuments(served!.url)).flatMap((d) => (d.kind === 'surface' ? [d.body.name] : []));
    expect(names.sort()).toEqual(['Bed 1', 'Bed 2', 'Bed 3']);
  });
  it('ships the notices of what it is made of', async () => {
    const text = await (await fetch(`${served!.url}/notices.txt`)).text();
    for (const part of ['Jaunty Pebble', 'MIT License', 'fastify', '@angular/core', 'Figtree', 'SIL OPEN FONT LICENSE']) expect(text).toContain(part);
  });
  it('keeps nothing of an upload that is cut off midway, and goes on', async () => {
    const { hostname, port } = new URL(served!.url);
    const socket = net.connect(Number(port), hostname);
    const head = '--m\r\ncontent-disposition: form-data; name="files"; filename="cut.png"\r\ncontent-type: image/png\r\n\r\n';
    socket.write(
      `POST /api/uploads HTTP/1.1\r\nhost: ${hostname}:${port}\r\ncontent-type: multipart/form-data; boundary=m\r\ncontent-length: 9000000\r\n\r\n${head}`,
    );
    socket.write(Buffer.alloc(3 * 2 ** 20, 1));
    // What is half there is seen by nobody else, so there is nothing to wait for but a moment.
    await new Promise((resolve) => setTimeout(resolve, 700));
    socket.destroy();
    const secret = readFileSync(path.join(data, 'pg.secret'), 'utf8').trim();
    const client = new pg.Client({
      host: '127.0.0.1',
      port: Number(readFileSync(path.join(data, 'pg.port'), 'utf8')),
      user: 'pebble',
      password: secret,
      database: 'pebble',
    });
    await client.connect();
    await until(async () => (await client.query('select 1 from upload_chunk')).rowCount === 0);
    await client.end();
    expect((await fetch(`${served!.url}/api/health`)).ok).toBeTrue();
  });
  it('ends an export whose database was killed with a result or a sentence, and nothing half-written', async () => {
    const documents = await allDocuments(served!.url);
    const bed = documents.find((d) => d.kind === 'surface')!;
    const channel = (role: string) => ({ from: 'map', role, channel: 0, invert: false });
    const body = {
      kind: 'recipe',
      version: 1,
      name: 'Bed',
      template: '{set}_{file}',
      size: 2048,
      sources: { [bed.id]: { order: 1 } },
      files: {
        a: { order: 1, label: 'a', depth: 8, channels: { r: channel('occlusion'), g: channel('roughness') } },
        b: { order: 2, label: 'b', depth: 16, channels: { r: channel('height') } },
      },
    };
    const recipe = await api<StoredDocument>(served!.url, '/documents', { body, label: 'New', opId: opId() });
    const job = await api<JobView>(served!.url, '/pack', { recipe: recipe.id, skip: [] });
    await jobWhen(job.id, (status) => status !== 'waiting');
    const killed = postmaster();
    process.kill(killed, 'SIGKILL');
    await backFrom(killed);
    const ended = await jobWhen(job.id, (status) => ['done', 'failed', 'cancelled'].includes(status));
    if (ended.status === 'done') {
      const zip = Buffer.from(await (await fetch(`${served!.url}/api/blobs/${String(jobResult('pack', ended)!.blob)}`)).arrayBuffer());
      expect(zip.length).toBe(jobResult('pack', ended)!.bytes);
    } else expect(ended.error!.length).toBeGreaterThan(10);
  });
  it('refuses a data folder that a newer version has used', async () => {
    await served!.stop();
    const { startPg } = await import('../../apps/server/src/db/cluster');
    const cluster = await startPg({ root: data, database: 'pebble' });
    const client = new pg.Client({ connectionString: cluster.url });
    await client.connect();
    await client.query("insert into migration (name, checksum) values ('999-later.sql', 'x')");
    await client.end();
    await cluster.stop();
    await expectAsync(start()).toBeRejectedWithError(/newer version of Jaunty Pebble.*--data/);
    served = null;
  });
  it('says which command installs a missing PostgreSQL server', async () => {
    await expectAsync(serve(['--data', path.join(dir, 'other')], { PG_BIN: '', PATH: dir, PEBBLE_PG_LIB: dir })).toBeRejectedWithError(
      /PostgreSQL server .*apt-get install/,
    );
  });
});
