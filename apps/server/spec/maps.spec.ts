import type { History, JobView, Problem, StoredDocument } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { TARGETS, generateSurface } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { flipGreen } from '@pebble/usecases';
import { seed } from '../src/seed';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { opId, testApp, until } from './harness';

describe('maps of surfaces', () => {
  let app: TestApp;
  let store: PgBlobStore;
  let hashes: Record<string, string>;
  const source = generateSurface('river-gravel', { seed: 2, size: 128 });
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T };
  };
  const run = async (url: string, payload: object) => {
    const { body } = await call<JobView>('POST', url, payload);
    return until(async () => {
      const { body: job } = await call<JobView>('GET', `/jobs/${body.id}`);
      return ['done', 'failed', 'cancelled'].includes(job.status) && job;
    });
  };
  const read = async (id: string) => (await call<StoredDocument<SurfaceDocument>>('GET', `/documents/${id}`)).body;
  const imported = async () => {
    const maps = (['baseColor', 'normal', 'height'] as const).map((role) => ({
      role,
      blob: hashes[role],
      fileName: `gravel_${role}.png`,
      normalDirection: 'y+',
    }));
    const origin = { author: 'A. Perera', source: 'Orrin Ridge survey', licence: 'CC BY 4.0' };
    const job = await run('/imports', { surfaces: [{ name: 'Gravel', sizeM: 1.2, reliefM: 0.03, maps, origin }] });
    return job.result!.documents[0];
  };

  beforeAll(async () => {
    app = await testApp({ deadAfterSeconds: 5 });
    store = new PgBlobStore(app.pool);
    hashes = {};
    for (const role of ['baseColor', 'normal', 'height'] as const)
      hashes[role] = await store.put(await nodeCodec.encode(source.maps[role]), 'image/png');
    hashes['turned'] = await store.put(await nodeCodec.encode(flipGreen(source.maps.normal)), 'image/png');
    hashes['text'] = await store.put(Buffer.from('no picture'), 'text/plain');
  });
  afterAll(() => app.stop());

  it('are recognised before they are imported', async () => {
    const job = await run('/looks', {
      files: [
        { blob: hashes['turned'], fileName: 'gravel_n.png' },
        { blob: hashes['height'], fileName: 'gravel_one.png' },
        { blob: hashes['text'], fileName: 'gravel_readme.png' },
        { blob: '0'.repeat(64), fileName: 'gravel_gone.png' },
      ],
    });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const files = jobResult('look', job)!.files;
    expect([files[0].role, files[0].normalDirection, files[1].role]).toEqual(['normal', 'y-', 'height']);
    expect(files[2].problem).toMatch(/^gravel_readme\.png: this is no image of a kind that is read/);
    expect(files[3].problem).toMatch(/^gravel_gone\.png: /);
  });
  it('are made anew as one step that undo takes back, on top of what happened meanwhile', async () => {
    const id = await imported();
    const before = await read(id);
    expect(before.body.origin?.author).toBe('A. Perera');
    const job = run(`/surfaces/${id}/maps`, {
      label: 'Roughness of the photograph',
      changes: [{ role: 'roughness', source: { role: 'baseColor' }, steps: { a: { order: 1, kind: 'desaturate', on: true, values: {} } } }],
    });
    await call('POST', `/documents/${id}/edits`, {
      opId: opId(),
      baseVersion: before.version,
      label: 'Rename',
      patch: [{ op: 'replace', path: '/name', value: 'River gravel' }],
      inverse: [{ op: 'replace', path: '/name', value: 'Gravel' }],
    });
    expect((await job).status)
      .withContext((await job).error ?? '')
      .toBe('done');
    const { body } = await read(id);
    expect([body.name, body.maps.roughness?.made?.source]).toEqual(['River gravel', { role: 'baseColor' }]);
    expect((await call<History>('GET', `/documents/${id}/history`)).body.undo).toBe('Roughness of the photograph');
    await call('POST', `/documents/${id}/undo`, { opId: opId() });
    expect((await read(id)).body.maps.roughness).toBeUndefined();
  });
  it('stay as they were when one of them cannot be made', async () => {
    const id = await imported();
    const before = await read(id);
    const job = await run(`/surfaces/${id}/maps`, {
      label: 'Two at once',
      changes: [
        { role: 'cavity', source: { role: 'height' }, steps: { a: { order: 1, kind: 'cavity', on: true, values: {} } } },
        { role: 'normal', source: { blob: hashes['text'], fileName: 'readme.png', normalDirection: 'y+', colourSpace: 'data' } },
      ],
    });
    expect([job.status, job.error?.startsWith('readme.png: ')]).toEqual(['failed', true]);
    expect(await read(id)).toEqual(before);
  });
  it('cannot be asked for with unknown steps, roles or documents', async () => {
    const id = await imported();
    const ask = (changes: object[], of = id) => call<Problem>('POST', `/surfaces/${of}/maps`, { label: 'x', changes });
    expect((await ask([{ role: 'normal', steps: { a: { order: 1, kind: 'melt', on: true, values: {} } } }])).status).toBe(400);
    expect((await ask([{ role: 'beauty' }])).status).toBe(400);
    expect((await ask([{ role: 'normal' }], 'nobody')).status).toBe(404);
  });
});

describe('a project', () => {
  it('starts with four targets, once, and a deleted one stays away', async () => {
    const app = await testApp({ work: false });
    const names = async () => (await app.documents.list()).filter((d) => d.kind === 'target').map((d) => d.name);
    await seed(app, false);
    expect(await names()).toEqual(Object.values(TARGETS).map((t) => t.name));
    await app.documents.setDeleted('phone', true);
    await seed(app, true);
    expect(await names()).toEqual(['Desktop', 'Handheld', 'Headset']);
    expect(await app.jobs.list()).toEqual([]);
    expect((await app.documents.list()).filter((d) => d.kind === 'project').length).toBe(1);
    await app.stop();
  });
});
