import type { JobView, StoredDocument } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { BlendDocument, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { SPECIMEN_MODELS, extractChannel, generateSurface, makeAsset, makeBlend, makeCue, makeLayer, seamRatio, stackingKey } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { partsOf } from '@pebble/usecases/specimens';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { allDocuments, opId, testApp, until } from './harness';

describe('surfaces made of blends', () => {
  let app: TestApp;
  const ids: Record<string, string> = {};
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T };
  };
  const done = async (path: string, payload: object) => {
    const { body, status } = await call<JobView>('POST', path, payload);
    expect(status).withContext(JSON.stringify(body)).toBeLessThan(300);
    return until(async () => {
      const job = (await call<JobView>('GET', `/jobs/${body.id}`)).body;
      return ['done', 'failed', 'cancelled'].includes(job.status) && job;
    });
  };
  const documents = () => allDocuments(app);
  const create = async (body: BlendDocument) => (await call<StoredDocument>('POST', '/documents', { body, label: 'New', opId: opId() })).body.id;

  beforeAll(async () => {
    app = await testApp();
    for (const name of ['terrace-stone', 'cushion-moss'] as const) {
      await done('/generate', { name, seed: 4, size: 64 });
      ids[name] = (await documents()).find((d) => d.kind === 'surface' && !Object.values(ids).includes(d.id))!.id;
    }
  });
  afterAll(() => app.stop());

  const step = (over: Partial<BlendDocument> = {}) =>
    makeBlend('Step', {
      layers: {
        a: makeLayer(ids['terrace-stone'], 'Stone', 1),
        b: makeLayer(ids['cushion-moss'], 'Moss', 2, { coverage: { n: makeCue('noise', { sizeM: 0.5, seed: 3 }) } }),
      },
      ...over,
    });

  it('are evaluated, kept map by map where something varies, and tested for their seam', async () => {
    const id = await create(step());
    const job = await done(`/blends/${id}/surface`, { size: 96 });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const made = (await documents()).find((d) => d.id === jobResult('bake', job)?.surface)!.body as SurfaceDocument;
    expect(made.name).toBe('Step, baked');
    expect(made.sizeM).toBe(2.4);
    // Nothing is metal here.
    expect(Object.keys(made.maps).sort()).toEqual(['baseColor', 'height', 'normal', 'occlusion', 'roughness']);
    expect(made.notes.join(' ')).toContain('Left out, since they are the same everywhere: metallic.');
    expect(made.notes.join(' ')).toContain('It tiles');
    const response = await app.server.inject({ method: 'GET', url: `/api/blobs/${made.maps.height!.blob}`, headers: { host: '127.0.0.1' } });
    const height = await nodeCodec.decode(response.rawPayload, 'data');
    expect([height.width, height.depth]).toEqual([96, 16]);
    expect(Math.max(...Object.values(seamRatio(height)))).toBeLessThan(3);
  });
  it('lie on one slot of an asset, by its own set and size, and leave the rest of the texture', async () => {
    const model = SPECIMEN_MODELS['copper-still'](1);
    const parts = model.lods[0].map((part, i) => ({
      ...part,
      // Each part has a quarter of the texture to itself.
      sets: [part.mesh.texcoord.map((v, k) => ((v - Math.floor(v)) * 0.9 + (k % 2 ? i >> 1 : i & 1)) / 2)],
    }));
    const whole = { ...model, lods: [parts] };
    const blob = await new PgBlobStore(app.pool).put(await writeGlb('still', whole), 'model/gltf-binary');
    const body: SpecimenDocument = {
      kind: 'specimen',
      version: 1,
      name: 'Still',
      model: blob,
      file: { blob, fileName: 'still.glb', bytes: 1 },
      unitM: 1,
      up: 'y',
      uvSet: 0,
      parts: partsOf(whole),
      stacking: {},
      thumbnail: null,
      notes: [],
    };
    const id = await create(step());
    const assetOn = async (stacking: SpecimenDocument['stacking']) => {
      const onto = { ...body, stacking };
      const specimen = (await call<StoredDocument>('POST', '/documents', { body: onto, label: 'New', opId: opId() })).body.id;
      const asset = makeAsset('Still, whole', specimen, ['copper', 'pipe', 'iron'], id);
      asset.slots['s3'].size = 2;
      return (await call<StoredDocument>('POST', '/documents', { body: asset, label: 'New', opId: opId() })).body;
    };
    // The legs of the stand lie on each other: no texture can hold them, unless they may.
    const refused = await done(`/blends/${id}/surface`, { size: 64, asset: (await assetOn({})).id, slot: 's3' });
    expect(refused.status).toBe('failed');
    expect(refused.error).toContain('lie on each other over');
    const stands = Object.entries(body.parts).filter(([, { slot }]) => slot === 'iron');
    const stored = await assetOn(Object.fromEntries(stands.flatMap(([a], i) => stands.slice(i).map(([b]) => [stackingKey(a, b), true as const]))));
    const job = await done(`/blends/${id}/surface`, { size: 64, asset: stored.id, slot: 's3' });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const made = (await documents()).find((d) => d.id === jobResult('bake', job)?.surface)!.body as SurfaceDocument;
    expect(made.name).toBe('Step on Still, iron');
    const response = await app.server.inject({ method: 'GET', url: `/api/blobs/${made.maps.baseColor!.blob}`, headers: { host: '127.0.0.1' } });
    const { data } = await nodeCodec.decode(response.rawPayload, 'srgb');
    // The stand has the last quarter; the first is another slot's.
    const varies = (x0: number, y0: number) =>
      new Set(Array.from({ length: 24 * 24 }, (_, i) => data[((y0 + 2 + Math.floor(i / 24)) * 64 + x0 + 2 + (i % 24)) * 3])).size;
    expect(varies(32, 32)).toBeGreaterThan(8);
    expect(varies(0, 0)).toBeLessThan(4);
    expect((await call<{ code: string }>('POST', `/blends/${id}/surface`, { size: 64, asset: stored.id, slot: 's9' })).body.code).toBe('no-slot');
  });
  it('are refused before anything starts when a surface is gone, or what they go onto has no texture', async () => {
    const gone = await create(step({ layers: { a: makeLayer('nowhere', 'Ghost', 1) } }));
    const refused = await call<{ detail: string }>('POST', `/blends/${gone}/surface`, { size: 64 });
    expect(refused.status).toBe(404);
    expect(refused.body.detail).toContain('Ghost: its surface no longer exists');
    const id = await create(step());
    expect((await call('POST', `/blends/${id}/surface`, { size: 64, specimen: ids['cushion-moss'] })).status).toBe(422);
    expect((await call('POST', `/blends/${ids['cushion-moss']}/surface`, { size: 64 })).status).toBe(404);
    expect((await call('POST', `/blends/${id}/surface`, { size: 10000 })).status).toBe(400);
  });
});

describe('the seam of a picture', () => {
  it('is near 1 where it tiles and many times that where it does not', () => {
    const { maps } = generateSurface('river-gravel', { seed: 2, size: 64 });
    const whole = extractChannel(maps.height, 0);
    const tiled = seamRatio(whole);
    expect(tiled.u).toBeLessThan(2);
    expect(tiled.v).toBeLessThan(2);
    // A ramp from left to right meets itself with all of its range.
    const ramp = { ...whole, data: Uint16Array.from({ length: 64 * 64 }, (_, i) => (i % 64) * 1000) };
    expect(seamRatio(ramp).u).toBeGreaterThan(40);
    expect(seamRatio({ ...whole, data: new Uint16Array(64 * 64).fill(9) })).toEqual({ u: 1, v: 1 });
  });
});
