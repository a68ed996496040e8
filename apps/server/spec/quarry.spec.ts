import type { JobView, Problem, QuarryPage, StoredDocument } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { sha256 } from '@pebble/formats';
import { nodeCodec } from '@pebble/formats/node';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { Quarry, TRIES } from '../src/quarry/client';
import { startQuarry } from '../src/quarry/process';
import { makeApp } from '../src/app';
import type { TestApp } from './harness';
import { ROOT, testApp, until, testDatabase } from './harness';

type Answer = (request: IncomingMessage, response: ServerResponse) => void;

/** A quarry that answers as a test wants it to. */
async function badQuarry(answer: Answer): Promise<{ url: string; asked: string[]; close: () => void }> {
  const asked: string[] = [];
  const server = createServer((request, response) => {
    asked.push(request.url ?? '');
    answer(request, response);
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, asked, close: () => server.close() };
}
const says =
  (body: string | Buffer, status = 200): Answer =>
  (_, response) =>
    void response.writeHead(status).end(body);

describe('a quarry that is not to be trusted', () => {
  const refuses = async (answer: Answer, text: RegExp, run: (q: Quarry) => Promise<unknown>): Promise<string[]> => {
    const bad = await badQuarry(answer);
    await expectAsync(run(new Quarry(bad.url, 1))).toBeRejectedWithError(text);
    bad.close();
    return bad.asked;
  };
  const search = (q: Quarry) => q.search('', '', 0);
  it('is refused when its answers are no JSON, of another shape, or endless', async () => {
    await refuses(says('<html>'), /no JSON/, search);
    await refuses(says('{"total":1,"tags":[],"items":[{"id":"../../etc"}]}'), /another shape \(\/items\/0/, search);
    await refuses(says(Buffer.alloc(2 ** 20 + 1, 32)), /more than the 1048576 bytes/, search);
    const path = '{"title":"x","sizeM":1,"reliefM":0,"files":[{"name":"../x.png","bytes":1,"sha256":"' + 'a'.repeat(64) + '"}]}';
    await refuses(says(path), /another shape \(\/files\/0\/name/, (q) => q.files('x', 256));
  });
  it('leads nowhere else', async () => {
    const elsewhere = await badQuarry(says('{}'));
    await refuses((_, r) => void r.writeHead(302, { location: elsewhere.url }).end(), /line to the quarry broke/, search);
    expect(elsewhere.asked).toEqual([]);
    elsewhere.close();
  });
  it('sends no preview that is not a small PNG', async () => {
    await refuses(says('<svg onload="x">'), /no small PNG/, (q) => q.preview('x'));
  });
  it('is asked anew for a file that breaks off, is busy or is wrong, and given up after some tries', async () => {
    const bytes = Buffer.from('the right bytes');
    const file = { name: 'x.png', bytes: bytes.length, sha256: await sha256(bytes) };
    let n = 0;
    const answers: Answer[] = [
      says('busy', 503),
      (_, r) => {
        r.writeHead(200, { 'content-length': bytes.length });
        r.write(bytes.subarray(0, 4));
        setTimeout(() => r.destroy(), 20);
      },
      says(Buffer.from('the wrong bytes')),
      says(bytes),
    ];
    const bad = await badQuarry((request, response) => answers[n++](request, response));
    const tries: number[] = [];
    const got = await new Quarry(bad.url, 1).download('x', 256, file, (_, attempt) => tries.push(attempt));
    expect(Buffer.from(got).toString()).toBe('the right bytes');
    expect([bad.asked.length, Math.max(...tries)]).toEqual([4, 4]);
    bad.close();
    const asked = await refuses(says('busy', 503), /x\.png could not be fetched in 5 tries: the quarry answered 503/, (q) =>
      q.download('x', 256, file, () => undefined),
    );
    expect(asked.length).toBe(TRIES);
  });
  it('cannot send more than it announced', async () => {
    const file = { name: 'x.png', bytes: 4, sha256: '0'.repeat(64) };
    const asked = await refuses(says(Buffer.alloc(4000)), /more than the 4 bytes agreed on/, (q) => q.download('x', 256, file, () => undefined));
    expect(asked.length).toBe(1);
  });
});

describe('fetching from the quarry', () => {
  let app: TestApp;
  let quarry: Awaited<ReturnType<typeof startQuarry>>;
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return {
      status: response.statusCode,
      body: (response.headers['content-type']?.toString().includes('json') ? response.json() : response.rawPayload) as T,
    };
  };
  const finished = (id: string) =>
    until(async () => {
      const { body } = await call<JobView>('GET', `/jobs/${id}`);
      return ['done', 'failed', 'cancelled'].includes(body.status) && body;
    });
  beforeAll(async () => {
    quarry = await startQuarry(path.join(ROOT, 'dist/node/quarry.mjs'), ['--faults', '0.5', '--seed', '3', '--rate', '20000000']);
    app = await testApp({ quarry: quarry.url });
  });
  afterAll(async () => {
    quarry.process.kill();
    await app.stop();
  });

  it('finds by words and tags, and shows pictures', async () => {
    const { body } = await call<QuarryPage>('GET', '/quarry?text=copper&tag=gateway');
    expect([body.total, body.items.map((i) => i.title)]).toEqual([1, ['Weathered copper, gateway']]);
    const { body: picture } = await call<Buffer>('GET', `/quarry/${body.items[0].id}/preview`);
    expect((await nodeCodec.decode(picture, 'srgb')).width).toBe(160);
    expect((await call<QuarryPage>('GET', '/quarry?page=2')).body.items.length).toBe(12);
    expect((await call<QuarryPage>('GET', '/quarry?text=nothing+of+this')).body.total).toBe(0);
  });
  it('brings a surface over a line that fails half the time, with its origin', async () => {
    const { body } = await call<JobView>('POST', '/quarry', {
      id: 'river-gravel-gateway',
      size: 256,
      author: 'Orrin Ridge survey',
      licence: 'CC0 1.0',
    });
    const job = await finished(body.id);
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const { body: document } = await call<StoredDocument<SurfaceDocument>>('GET', `/documents/${(job.result?.['documents'] as string[])[0]}`);
    const { name, maps, origin } = document.body;
    expect([name, Object.keys(maps).length, maps.height?.depth, maps.normal?.width]).toEqual(['River gravel, gateway', 6, 16, 256]);
    expect(origin).toEqual({ author: 'Orrin Ridge survey', source: 'The quarry, river-gravel-gateway at 256²', licence: 'CC0 1.0' });
  });
  it('goes on after server and quarry were started again, wherever the quarry is then', async () => {
    const database = await testDatabase();
    const first = await makeApp({ databaseUrl: database.url, root: ROOT, work: false, quarry: 'http://127.0.0.1:1' });
    const { id } = await first.jobs.add('fetch', 'Fetch', {
      id: 'river-gravel-gateway',
      size: 256,
      author: 'Orrin Ridge survey',
      licence: 'CC0 1.0',
    });
    await first.close();
    const again = await makeApp({ databaseUrl: database.url, root: ROOT, quarry: quarry.url });
    const job = await until(async () => {
      const now = await again.jobs.get(id);
      return ['done', 'failed', 'cancelled'].includes(now.status) && now;
    });
    expect([job.status, job.error]).toEqual(['done', null]);
    await again.close();
    await database.drop();
  });
  it('says what is not there, and imports nothing', async () => {
    const { body } = await call<JobView>('POST', '/quarry', { id: 'no-such-stone', size: 256, author: 'x', licence: 'x' });
    const job = await finished(body.id);
    expect([job.status, job.error]).toEqual(['failed', 'The quarry does not have this any longer']);
    expect((await call<Problem>('POST', '/quarry', { id: '../x', size: 256, author: 'x', licence: 'x' })).status).toBe(400);
  });
  it('says so when there is no quarry', async () => {
    const alone = await testApp({ work: false });
    const answer = await alone.server.inject({ method: 'GET', url: '/api/quarry', headers: { host: '127.0.0.1' } });
    expect([answer.statusCode, (answer.json() as Problem).code]).toEqual([503, 'no-quarry']);
    await alone.stop();
  });
});
