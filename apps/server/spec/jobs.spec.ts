import type { GreyPicture, JobView, Problem, StoredDocument, UploadedFile } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { Image, RecipeDocument, SurfaceDocument } from '@pebble/core';
import { generateSurface, makeImage, statistics } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { unzipSync } from 'fflate';
import { readFileSync, readdirSync } from 'node:fs';
import sharp from 'sharp';
import { makePool } from '../src/db/pool';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { opId, testApp, until } from './harness';

describe('uploads, jobs and exports', () => {
  let app: TestApp;
  const source = generateSurface('terrace-stone', { seed: 9, size: 64 });
  beforeAll(async () => {
    app = await testApp({ deadAfterSeconds: 5 });
  });
  afterAll(() => app.stop());
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T };
  };
  const upload = async (files: Record<string, Uint8Array>) => {
    const mark = 'xxpebblexx';
    const parts = Object.entries(files).flatMap(([name, bytes]) => [
      Buffer.from(`--${mark}\r\ncontent-disposition: form-data; name="files"; filename="${name}"\r\ncontent-type: image/png\r\n\r\n`),
      Buffer.from(bytes),
      Buffer.from('\r\n'),
    ]);
    const response = await app.server.inject({
      method: 'POST',
      url: '/api/uploads',
      payload: Buffer.concat([...parts, Buffer.from(`--${mark}--\r\n`)]),
      headers: { host: '127.0.0.1', 'content-type': `multipart/form-data; boundary=${mark}` },
    });
    return { status: response.statusCode, body: response.json() as UploadedFile[] };
  };
  const png = (image: Image) => nodeCodec.encode(image);
  const finished = (id: string) =>
    until(async () => {
      const { body } = await call<JobView>('GET', `/jobs/${id}`);
      return ['done', 'failed', 'cancelled'].includes(body.status) && body;
    });
  const blob = async (hash: string) =>
    (await app.server.inject({ method: 'GET', url: `/api/blobs/${hash}`, headers: { host: '127.0.0.1' } })).rawPayload;
  const importMaps = async (maps: Record<string, { bytes: Uint8Array; role: string; direction?: 'y+' | 'y-' }>, name = 'Old wall') => {
    const files = (await upload(Object.fromEntries(Object.entries(maps).map(([n, m]) => [n, m.bytes])))).body;
    const { body } = await call<JobView>('POST', '/imports', {
      surfaces: [
        {
          name,
          sizeM: 1.5,
          reliefM: 0.03,
          maps: files.map((f) => ({
            blob: f.blob,
            fileName: f.fileName,
            role: maps[f.fileName].role,
            normalDirection: maps[f.fileName].direction ?? 'y+',
          })),
        },
      ],
    });
    return finished(body.id);
  };
  const surfaceOf = async (job: JobView) => (await call<StoredDocument<SurfaceDocument>>('GET', `/documents/${job.result?.documents[0]}`)).body;

  it('keep large streams exactly, once, and give them back', async () => {
    const store = new PgBlobStore(app.pool);
    const big = Buffer.alloc(5 * 2 ** 20 + 12345, 7);
    big.writeUInt32LE(42, 3 * 2 ** 20);
    const parts = async function* () {
      for (let at = 0; at < big.length; at += 70_001) yield big.subarray(at, at + 70_001);
    };
    const { hash, bytes } = await store.putStream(parts(), 'application/octet-stream');
    expect(bytes).toBe(big.length);
    expect((await store.putStream(parts(), 'application/octet-stream')).hash).toBe(hash);
    expect(await store.put(big, 'x')).toBe(hash);
    expect(Buffer.compare(Buffer.from(await store.get(hash)), big)).toBe(0);
    expect(Buffer.compare(await blob(hash), big)).toBe(0);
    const left = await app.pool.query('select count(*)::int n from upload_chunk');
    expect(left.rows[0].n).toBe(0);
  });
  it('hold no connection while a reader takes its time', async () => {
    const narrow = makePool(app.url, 1);
    const store = new PgBlobStore(narrow);
    const hashes = [];
    for (const fill of [1, 2, 3]) hashes.push(await store.put(Buffer.alloc(3 * 2 ** 20 + fill, fill), 'x'));
    const readers = hashes.map((hash) => store.stream(hash));
    // As packing does it: several maps are read in step while the file made of them is kept, all over one connection.
    const joined = async function* () {
      for (;;) {
        const parts = await Promise.all(readers.map((r) => r.next()));
        if (parts.every((p) => p.done)) return;
        yield* parts.flatMap((p) => (p.done ? [] : [p.value]));
      }
    };
    const { bytes } = await store.putStream(joined(), 'x');
    expect(bytes).toBe(9 * 2 ** 20 + 6);
    await narrow.end();
  });
  it('are cut into pieces that are kept once each', async () => {
    const bytes = Buffer.alloc(4096 * 2 + 100, 7);
    bytes.fill(9, 4096);
    const post = (payload: Buffer | string, piece: string, type = 'application/octet-stream') =>
      app.server.inject({ method: 'POST', url: `/api/blobs?piece=${piece}`, payload, headers: { host: '127.0.0.1', 'content-type': type } });
    const hashes = (await post(bytes, '4096')).json() as string[];
    expect(hashes.length).toBe(3);
    expect(new Set(hashes).size).toBe(3);
    expect(await blob(hashes[2])).toEqual(bytes.subarray(8192));
    expect((await post(bytes, '4096')).json()).toEqual(hashes);
    expect((await post(bytes, '3')).statusCode).toBe(400);
    expect((await post('{}', '4096', 'application/json')).statusCode).toBe(415);
    expect((await post(Buffer.alloc(2 ** 24 + 1), '4096')).statusCode).toBe(413);
  });
  it('become masks: the first channel of any picture as a grey PNG, or a word why not', async () => {
    const { width, height, data } = source.maps.baseColor;
    const jpeg = await sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
      .jpeg()
      .toBuffer();
    const tall = await sharp({ create: { width: 1, height: 9000, channels: 3, background: '#fff' } })
      .png()
      .toBuffer();
    const { body } = await upload({
      'mask.jpg': jpeg,
      'grey.png': await png(source.maps.height),
      'tall.png': tall,
      'crate.obj': Buffer.from('v 0 0 0'),
    });
    const [photo, grey, long, mesh] = body.map((f) => f.blob as string);
    const made = await call<GreyPicture>('POST', `/blobs/${photo}/grey`);
    expect(made.body).toEqual({ hash: jasmine.any(String), width, height });
    const [mask, whole] = [await nodeCodec.decode(await blob(made.body.hash), 'data'), await nodeCodec.decode(jpeg, 'data')];
    expect([mask.channels, mask.depth]).toEqual([1, 8]);
    expect(mask.data).toEqual(whole.data.filter((_, i) => i % 3 === 0));
    expect((await call<GreyPicture>('POST', `/blobs/${grey}/grey`)).body.hash).toBe(grey);
    const wrong = async (hash: string) => {
      const { status, body: said } = await call<{ detail: string }>('POST', `/blobs/${hash}/grey`);
      return [status, said.detail];
    };
    expect(await wrong(long)).toEqual([422, 'A mask has at most 8192 pixels a side, this picture has 1 × 9000. Make it smaller']);
    expect((await wrong(mesh))[0]).toBe(422);
    expect((await wrong(mesh))[1]).toContain('This picture cannot become a mask: ');
    expect((await wrong('0'.repeat(64)))[0]).toBe(404);
  });
  it('leave nothing of a stream that is cut off', async () => {
    const store = new PgBlobStore(app.pool);
    const before = (await app.pool.query('select count(*)::int n from blob')).rows[0].n;
    const cut = async function* () {
      yield Buffer.alloc(2 ** 21, 3);
      throw new Error('cut');
    };
    await expectAsync(store.putStream(cut(), 'image/png')).toBeRejectedWithError('cut');
    expect((await app.pool.query('select (select count(*) from blob)::int n, (select count(*) from upload_chunk)::int c')).rows[0]).toEqual({
      n: before,
      c: 0,
    });
  });
  it('say of each uploaded file what it is, or what is wrong', async () => {
    const good = await png(source.maps.height);
    const { body } = await upload({
      'wall_height.png': good,
      'empty.png': new Uint8Array(),
      'liar.png': Buffer.from('hello there'),
      'sub/dir/wall_cut.png': good.subarray(0, 20),
    });
    expect(body[0]).toEqual(jasmine.objectContaining({ fileName: 'wall_height.png', width: 64, depth: 16, channels: 1, problem: null }));
    expect(body[1].problem).toMatch(/^empty.png: the file is empty/);
    expect(body[2].problem).toMatch(/no image of a kind that is read/);
    expect(body[3].fileName).toBe('wall_cut.png');
    expect(body[3].problem).toMatch(/ends inside its header/);
    expect((await call<Problem>('POST', '/uploads', {})).status).toBe(400);
  });
  it('answer broken uploads and texts that nothing can keep with a problem that says what to do, never as a fault of the server', async () => {
    const form = async (payload: string | Buffer, mark = 'mm') => {
      const headers = { host: '127.0.0.1', 'content-type': `multipart/form-data; boundary=${mark}` };
      const answer = await app.server.inject({ method: 'POST', url: '/api/uploads', payload, headers });
      return { status: answer.statusCode, body: answer.json() as Problem & UploadedFile[] };
    };
    const head = '--mm\r\ncontent-disposition: form-data; name="files"; filename="a.png"\r\n';
    for (const payload of ['', '--mm', `${head}\r\nabc`, `${head}content-type`, '--mm\r\n\0\0: x\r\n\r\n', `${head}\r\n${'x'.repeat(200_000)}`]) {
      const { status, body } = await form(payload);
      expect([status, body.code])
        .withContext(JSON.stringify(payload.slice(0, 60)))
        .not.toEqual([500, 'unexpected']);
      if (status !== 200) expect([status, body.code]).toEqual([400, 'bad-upload']);
    }
    expect((await form(`${head}\r\nabc`)).body.detail).toMatch(/cut off, or not as multipart/);
    const named = await upload({ 'wa\u0000ll\u202egnp.png': await png(source.maps.height) });
    expect(named.body[0].fileName).toBe('wallgnp.png');
    for (const name of ['a\u0000b', 'a\ud800b']) {
      const { status, body } = await call<Problem>('POST', '/imports', { surfaces: [{ name, sizeM: 1, reliefM: 0.05, maps: [] }] });
      expect([status, body.code]).toEqual([400, 'bad-text']);
      expect(body.detail).toMatch(/\/surfaces\/0\/name/);
    }
  });
  it('import files into a surface whose pixels and settings are right', async () => {
    const flipped = makeImage({ ...source.maps.normal, data: source.maps.normal.data.slice() });
    for (let i = 1; i < flipped.data.length; i += 3) flipped.data[i] = 255 - flipped.data[i];
    const job = await importMaps({
      'w_base.png': { bytes: await png(source.maps.baseColor), role: 'baseColor' },
      'w_n.png': { bytes: await png(flipped), role: 'normal', direction: 'y-' },
      'w_h.png': { bytes: await png(source.maps.height), role: 'height' },
      'w_r.png': { bytes: await png(makeImage({ width: 32, height: 32, channels: 1 })), role: 'roughness' },
    });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const { body } = await surfaceOf(job);
    expect(body.maps.height?.depth).toBe(16);
    expect(body.maps.normal?.normalDirection).toBe('y-');
    expect(body.notes.join()).toContain('different sizes');
    expect(body.maps.roughness?.findings?.map((f) => f.message)).toEqual(['Its channel is 0.00 everywhere']);
    // Stage pixels are Y+ whatever the file was, and 16-bit heights stay exact.
    expect(Buffer.compare(await blob(body.maps.normal!.stage.blob), Buffer.from(source.maps.normal.data.buffer))).toBe(0);
    const stage = await blob(body.maps.height!.stage.blob);
    expect([...new Uint16Array(stage.buffer.slice(stage.byteOffset, stage.byteOffset + 128))]).toEqual([...source.maps.height.data.subarray(0, 64)]);
    const pebble = await nodeCodec.decode(await blob(body.thumbnail!), 'srgb');
    expect(statistics(pebble)[3].max).toBe(1);
  });
  it('import nothing when one file of a surface cannot be read', async () => {
    const count = async () => (await app.pool.query("select count(*)::int n from document where kind = 'surface'")).rows[0].n as number;
    const before = await count();
    const whole = await png(source.maps.baseColor);
    const job = await importMaps({
      'x_base.png': { bytes: whole, role: 'baseColor' },
      'x_cut_rough.png': { bytes: whole.subarray(0, 2000), role: 'roughness' },
    });
    expect(job.status).toBe('failed');
    expect(job.error).toMatch(/^x_cut_rough.png: .*(cut off|cannot be read)/);
    const twice = await importMaps({
      'a.png': { bytes: whole, role: 'baseColor' },
      'b.png': { bytes: await png(source.maps.normal), role: 'baseColor' },
    });
    expect(twice.error).toContain('both taken for base colour');
    expect(await count()).toBe(before);
  });
  it('pack exact channels into a zip, and the same zip again', async () => {
    const job = await importMaps(
      {
        'p_ao.png': { bytes: await png(source.maps.occlusion), role: 'occlusion' },
        'p_r.png': { bytes: await png(source.maps.roughness), role: 'roughness' },
        'p_h.png': { bytes: await png(source.maps.height), role: 'height' },
        'p_n.png': { bytes: await png(source.maps.normal), role: 'normal' },
      },
      'Packed wall',
    );
    const surface = await surfaceOf(job);
    const map = (role: 'occlusion' | 'roughness' | 'height' | 'normal', channel: 0 | 1 = 0, invert = false) => ({
      from: 'map' as const,
      role,
      channel,
      invert,
    });
    const recipe: RecipeDocument = {
      kind: 'recipe',
      version: 1,
      name: 'For the road',
      template: '{set}_{file}_{size}',
      size: 64,
      sources: { [surface.id]: { order: 1 } },
      files: {
        orm: { order: 1, label: 'ORM', depth: 8, channels: { r: map('occlusion'), g: map('roughness', 0, true), b: { from: 'constant', value: 0 } } },
        h: { order: 2, label: 'height', depth: 16, channels: { r: map('height') } },
        n: { order: 3, label: 'n', depth: 8, channels: { r: map('normal'), g: map('normal', 1) } },
      },
    };
    const stored = (await call<StoredDocument>('POST', '/documents', { body: recipe, label: 'New', opId: opId() })).body;
    await call('POST', '/documents', {
      body: { kind: 'project', version: 1, name: 'Test', exportNormal: 'y-', exportSize: 64, target: 'handheld' },
      label: 'Set up',
      opId: opId(),
      id: 'project',
    });
    const pack = async (skip: string[] = []) => finished((await call<JobView>('POST', '/pack', { recipe: stored.id, skip })).body.id);
    const done = await pack();
    expect(done.status)
      .withContext(done.error ?? '')
      .toBe('done');
    const zip = unzipSync(await blob(jobResult('pack', done)!.blob));
    expect(Object.keys(zip)).toEqual(['packed_wall_orm_64.png', 'packed_wall_height_64.png', 'packed_wall_n_64.png']);
    const orm = await nodeCodec.decode(zip['packed_wall_orm_64.png'], 'data');
    for (let i = 0; i < 64 * 64; i++)
      if (
        orm.data[i * 3] !== source.maps.occlusion.data[i] ||
        orm.data[i * 3 + 1] !== 255 - source.maps.roughness.data[i] ||
        orm.data[i * 3 + 2] !== 0
      )
        return fail(`pixel ${i}`);
    expect([...(await nodeCodec.decode(zip['packed_wall_height_64.png'], 'data')).data]).toEqual([...source.maps.height.data]);
    const normal = await nodeCodec.decode(zip['packed_wall_n_64.png'], 'data');
    expect([normal.data[0], normal.data[1]]).toEqual([source.maps.normal.data[0], 255 - source.maps.normal.data[1]]);
    expect(jobResult('pack', await pack())!.blob).toBe(jobResult('pack', done)!.blob);
    expect(jobResult('pack', await pack([`${surface.id}/n`]))!.files.length).toBe(2);
    const edit = {
      opId: opId(),
      baseVersion: stored.version,
      label: 'Same name',
      patch: [{ op: 'replace', path: '/template', value: '{set}' }],
      inverse: [{ op: 'replace', path: '/template', value: recipe.template }],
    };
    await call('POST', `/documents/${stored.id}/edits`, edit);
    const clash = await call<Problem>('POST', '/pack', { recipe: stored.id, skip: [] });
    expect([clash.status, clash.body.detail]).toEqual([422, jasmine.stringContaining('two files would be called packed_wall.png')]);
  });
  it('are cancelled while they run, and leave nothing', async () => {
    const { body } = await call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 1, size: 4096 });
    await until(async () => (await call<JobView>('GET', `/jobs/${body.id}`)).body.status === 'running');
    await call('POST', `/jobs/${body.id}/cancel`);
    const ended = await finished(body.id);
    expect(ended.status).toBe('cancelled');
    expect((await call<Problem>('POST', `/jobs/${body.id}/cancel`)).body.code).toBe('job-ended');
  });
  it('stay behind the interface: their threads give way to others, the one that answers does not', async () => {
    if (process.platform !== 'linux') return pending('Elsewhere threads have no priority of their own');
    const nice = (thread: string) => Number(readFileSync(`/proc/self/task/${thread}/stat`, 'utf8').split(') ')[1].split(' ')[16]);
    const { body } = await call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 1, size: 1024 });
    const given = await until(async () =>
      readdirSync('/proc/self/task')
        .map(nice)
        .find((n) => n > 0),
    );
    expect(given).toBe(10);
    await finished(body.id);
    expect(nice(String(process.pid))).toBe(0);
  });
  it('are taken up again when their worker has died, and fenced against the dead', async () => {
    const { body } = await call<JobView>('POST', '/generate', { name: 'cushion-moss', seed: 3, size: 128 });
    await finished(body.id);
    // What a killed process leaves: a running row whose worker is silent.
    const {
      rows: [{ id }],
    } = await app.pool.query(
      "insert into job (id, project_id, kind, label, payload, status, attempt, worker, heartbeat) select gen_random_uuid(), 'main', kind, label, payload, 'running', 1, 'gone/1/x', now() - interval '1 minute' from job where id = $1 returning id",
      [body.id],
    );
    const done = await finished(id);
    expect(done.status).toBe('done');
    const { rows } = await app.pool.query('select attempt from job where id = $1', [id]);
    expect(rows[0].attempt).toBe(2);
    expect(await app.jobs.progress(id, 1, 0.5, 'a dead worker speaks')).toBeFalse();
  });
  it('are done though their place in the queue was lost, or died with who took it', async () => {
    const draw = (seed: number, size: number) => app.jobs.add('generate', 'Draw', { name: 'river-gravel', seed, size });
    // Both threads are busy, so that nobody takes the others before they are lost.
    const busy = [await draw(1, 1500), await draw(2, 1500)];
    const [lost, held] = [await draw(11, 32), await draw(12, 32)];
    const changed = async (sql: string, id: string) => expect((await app.pool.query(sql, [id])).rowCount).toBe(1);
    await changed('delete from graphile_worker._private_jobs where key = $1', lost.id);
    await changed("update graphile_worker._private_jobs set locked_at = now(), locked_by = 'gone', attempts = 1 where key = $1", held.id);
    for (const job of [lost, held, ...busy]) expect((await finished(job.id)).status).toBe('done');
  });
  /** A job that was running on a worker which is silent since. */
  const left = async (attempt: number, payload: object) =>
    (
      await app.pool.query<{ id: string }>(
        "insert into job (id, project_id, kind, label, payload, status, attempt, worker, heartbeat) values (gen_random_uuid(), 'main', 'generate', 'Draw', $2, 'running', $1, 'gone/1/x', now() - interval '1 minute') returning id",
        [attempt, JSON.stringify(payload)],
      )
    ).rows[0].id;
  it('are done however often their server was ended under them, in a process of their own from then on', async () => {
    const id = await left(40, { name: 'cushion-moss', seed: 3, size: 64 });
    expect((await finished(id)).status).toBe('done');
    const { rows } = await app.pool.query('select apart, deaths from job where id = $1', [id]);
    expect(rows[0]).toEqual({ apart: true, deaths: 0 });
  });
  it('are given up when they have ended the process of their own twice, and nothing else ends with them', async () => {
    if (process.platform !== 'linux') return pending('Processes are found by Linux’s own list');
    const id = await left(1, { name: 'river-gravel', seed: 5, size: 4096 });
    const killed = new Set<number>();
    const workers = () =>
      readdirSync('/proc').filter((pid) => {
        try {
          return (
            readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('job-worker.mjs') &&
            readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ')[1] === String(process.pid)
          );
        } catch {
          return false;
        }
      });
    const ended = await until(async () => {
      for (const pid of workers()
        .map(Number)
        .filter((p) => !killed.has(p))) {
        killed.add(pid);
        process.kill(pid, 'SIGKILL');
      }
      const { body } = await call<JobView>('GET', `/jobs/${id}`);
      return ['done', 'failed', 'cancelled'].includes(body.status) && body;
    });
    expect([ended.status, ended.error]).toEqual(['failed', 'Draw: it ended the process it ran in 2 times, so it was given up']);
    expect(killed.size).toBe(2);
    const { body } = await call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 5, size: 64 });
    expect((await finished(body.id)).status).toBe('done');
  });
  it('are taken though the loop of the queue has come to rest without a word', async () => {
    const inside = app.runner as unknown as { runner: { stop(): Promise<void>; promise: Promise<void> } };
    const resting = inside.runner;
    // Whoever ends now is not the one that counts, so nobody begins again.
    inside.runner = { stop: () => Promise.resolve(), promise: new Promise(() => undefined) };
    await resting.stop();
    const { body } = await call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 5, size: 64 });
    expect((await finished(body.id)).status).toBe('done');
  });
  it('are cancelled in a process of their own as in a thread', async () => {
    const id = await left(1, { name: 'river-gravel', seed: 5, size: 4096 });
    await until(async () => (await call<JobView>('GET', `/jobs/${id}`)).body.progress > 0);
    await call('POST', `/jobs/${id}/cancel`);
    expect((await finished(id)).status).toBe('cancelled');
  });
  it('are not ended by word that comes late about another job of the same thread', async () => {
    const told = app.jobs.progress.bind(app.jobs);
    app.jobs.progress = async (...args) => {
      await new Promise((resolve) => setTimeout(resolve, 1500));
      return told(...args);
    };
    try {
      // The first is over long before its word arrives; two longer ones have all threads by then.
      const draw = (size: number) => call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 6, size });
      await finished((await draw(32)).body.id);
      const long = await Promise.all([draw(1200), draw(1200)]);
      for (const { body } of long) expect((await finished(body.id)).status).toBe('done');
    } finally {
      app.jobs.progress = told;
    }
  });
  it('come before those that nobody waits for', async () => {
    const silent = [];
    for (let seed = 0; seed < 5; seed++)
      silent.push(await app.jobs.add('generate', 'Later', { name: 'river-gravel', seed, size: 768, silent: true }));
    const { body } = await call<JobView>('POST', '/generate', { name: 'river-gravel', seed: 9, size: 64 });
    await finished(body.id);
    const after = await Promise.all(silent.map((job) => app.jobs.get(job.id)));
    expect(after.filter((job) => job.status === 'waiting').length).toBeGreaterThan(0);
    for (const job of silent) await finished(job.id);
  });
  it('say in a sentence why they failed', async () => {
    const recipe = await call<Problem>('POST', '/pack', { recipe: 'nothing', skip: [] });
    expect([recipe.status, recipe.body.code]).toEqual([404, 'not-found']);
    expect((await call<Problem>('POST', '/generate', { name: 'lava', seed: 1, size: 64 })).body.detail).toContain('laterite-clay');
    expect((await call<Problem>('POST', '/generate', { name: 'river-gravel', seed: 1, size: 99999 })).status).toBe(400);
  });
});
