import type { JobView, Problem } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { BundleManifest, RecipeDocument } from '@pebble/core';
import { parseChannelLayout } from '@pebble/core';
import { openBundle, zippedBundle } from '@pebble/formats/bundle';
import { memoryPorts } from '../../../packages/usecases/src/testing/memory';
import { smallProject } from '../../../packages/usecases/src/testing/project';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { opId, testApp, until } from './harness';

describe('deliveries', () => {
  let app: TestApp;
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T, raw: response.rawPayload };
  };
  const finished = (id: string) =>
    until(async () => {
      const { body } = await call<JobView>('GET', `/jobs/${id}`);
      return ['done', 'failed', 'cancelled'].includes(body.status) && body;
    });
  const run = async (path: string, payload: object): Promise<JobView> => {
    const { status, body } = await call<{ id: string; detail?: string }>('POST', path, payload);
    if (status >= 400) throw new Error(body.detail);
    return finished(body.id);
  };
  const BOTH = { targets: ['desktop', 'handheld'], skip: [] };

  beforeAll(async () => {
    app = await testApp({ deadAfterSeconds: 5 });
    const ports = memoryPorts();
    const all = await smallProject(ports);
    const blobs = new PgBlobStore(app.pool);
    for (const bytes of ports.kept.values()) await blobs.put(bytes, 'application/octet-stream');
    for (const [id, body] of Object.entries(all)) {
      const made = await call<Problem>('POST', '/documents', { id, body, label: 'Make it', opId: opId() });
      expect(made.status).withContext(`${id}: ${made.body.detail}`).toBeLessThan(300);
    }
  });
  afterAll(() => app.stop());

  it('become a bundle that is sent as a ZIP, is proved, and is not made twice', async () => {
    const job = await run('/deliveries', BOTH);
    const first = jobResult('deliver', job);
    expect(job.error).toBeNull();
    expect(first?.files).toBeGreaterThan(20);
    const zip = await app.server.inject({
      method: 'GET',
      url: `/api/deliveries/${first?.manifest ?? ''}/bundle.zip?name=gate.zip`,
      headers: { host: '127.0.0.1' },
    });
    expect(zip.headers['content-disposition']).toContain('gate.zip');
    const bundle = await openBundle(zippedBundle(new Uint8Array(zip.rawPayload)));
    expect(await bundle.check()).toEqual([]);
    expect(bundle.manifest.files.length).toBe(first?.files ?? 0);
    const again = jobResult('deliver', await run('/deliveries', BOTH));
    expect([again?.made, again?.manifest]).toEqual([0, first?.manifest]);
    const proof = jobResult('proof', await run('/proofs', { manifest: first?.manifest }));
    expect(proof?.problems).toBe(0);
    const figures = await call<{ rows: { lossless: boolean }[] }>('GET', `/blobs/${proof?.proof ?? ''}`);
    expect(figures.body.rows.some((r) => r.lossless)).toBeTrue();
    expect(figures.body.rows.some((r) => !r.lossless)).toBeTrue();
  });

  it('that are interrupted go on from what was made', async () => {
    await run('/deliveries', BOTH);
    await app.pool.query('delete from made where key in (select key from made order by key limit 5)');
    const result = jobResult('deliver', await run('/deliveries', BOTH));
    expect(result?.made).toBeGreaterThan(0);
    expect(result?.made).toBeLessThanOrEqual(6);
  });

  it('know nothing of files whose bytes were collected, and make them again', async () => {
    const before = jobResult('deliver', await run('/deliveries', BOTH));
    const manifest = (await call<BundleManifest>('GET', `/blobs/${before?.manifest ?? ''}`)).body;
    const model = manifest.files.find((f) => f.path === 'desktop/gate.glb');
    await app.pool.query('delete from blob where hash = $1', [model?.sha256]);
    const gone = await call<Problem>('GET', `/deliveries/${before?.manifest ?? ''}/bundle.zip`);
    expect([gone.status, gone.body.detail]).toEqual([404, jasmine.stringMatching('desktop/gate.glb')]);
    const after = jobResult('deliver', await run('/deliveries', BOTH));
    expect(after?.manifest).toBe(before?.manifest ?? '');
    expect(after?.made).toBeGreaterThan(0);
  });

  it('are refused at once for targets that are not there and findings that block, with what they are', async () => {
    const nobody = await call<Problem>('POST', '/deliveries', { targets: ['toaster'], skip: [] });
    expect([nobody.status, nobody.body.detail]).toEqual([422, jasmine.stringMatching('no target toaster')]);
    expect((await call<Problem>('POST', '/deliveries', { targets: [], skip: [] })).status).toBe(400);
    const recipe: RecipeDocument = {
      kind: 'recipe',
      version: 1,
      name: 'Lossy',
      template: '{set}_{file}',
      size: 64,
      sources: { plaster: { order: 1 } },
      files: { n: { order: 1, label: 'nrm', depth: 8, as: 'jpg', channels: parseChannelLayout('r=normal.r,g=normal.g,b=normal.b') } },
    };
    await call('POST', '/documents', { id: 'lossy', body: recipe, label: 'Make it', opId: opId() });
    const blocked = await call<Problem>('POST', '/deliveries', BOTH);
    expect(blocked.status).toBe(422);
    expect(blocked.body.detail).toMatch(/preflight blocks.*lime_plaster_nrm\.jpg/);
    await app.server.inject({ method: 'DELETE', url: '/api/documents/lossy', payload: { opId: opId() }, headers: { host: '127.0.0.1' } });
  });

  it('look at meshes before, and tell what lies on what', async () => {
    const seen = async () => jobResult('preflight', await run('/preflight', { targets: ['desktop'] }))?.seen;
    expect(await seen()).toEqual([]);
    await call('POST', '/documents', {
      id: 'lost',
      body: {
        kind: 'asset',
        version: 1,
        name: 'Lost',
        specimen: 'gone',
        slots: { s: { order: 1, slot: 'post', blend: 'grown', uvSet: 0, size: 1 } },
      },
      label: 'Make it',
      opId: opId(),
    });
    expect(await seen()).toEqual([jasmine.objectContaining({ assetId: 'lost', message: jasmine.stringMatching('specimen that was deleted') })]);
    const failed = await run('/deliveries', BOTH);
    expect([failed.status, failed.error]).toEqual(['failed', jasmine.stringMatching('specimen that was deleted')]);
    await app.server.inject({ method: 'DELETE', url: '/api/documents/lost', payload: { opId: opId() }, headers: { host: '127.0.0.1' } });
  });

  it('answer for hashes that are no bundle as for what is not there', async () => {
    const any = await call<Problem>('GET', `/deliveries/${'0'.repeat(64)}/bundle.zip`);
    expect(any.status).toBe(404);
    const blob = await new PgBlobStore(app.pool).put(Buffer.from('{}'), 'application/json');
    expect((await call<Problem>('GET', `/deliveries/${blob}/bundle.zip`)).status).toBe(404);
  });
});
