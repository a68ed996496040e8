import type { JobView, Problem, StoredDocument } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { AnyDocument, AssetDocument, Image, Model, PressedStamp, SurfaceDocument } from '@pebble/core';
import { DEFAULT_STAMP, makeAsset, makeImage } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { keepImage } from '@pebble/usecases';
import { panel } from '../../../packages/formats/src/testing/panels';
import { broughtIn } from '../../../packages/usecases/src/testing/specimen';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { allDocuments, opId, testApp, until } from './harness';

const even = (values: number[], srgb = false): Image => {
  const image = makeImage({ width: 64, height: 64, channels: values.length, colourSpace: srgb ? 'srgb' : 'data' });
  for (let i = 0; i < 64 * 64; i++) image.data.set(values, i * values.length);
  return image;
};

describe('what a mesh wears', () => {
  let app: TestApp;
  let blobs: PgBlobStore;
  const model: Model = { title: 'kiosk', lods: [[panel('body', 0)]] };
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T };
  };
  const create = async (body: AnyDocument) => (await call<StoredDocument>('POST', '/documents', { body, label: 'New', opId: opId() })).body.id;
  const ended = (id: string) =>
    until(async () => {
      const job = (await call<JobView>('GET', `/jobs/${id}`)).body;
      return ['done', 'failed', 'cancelled'].includes(job.status) && job;
    });
  const done = async (path: string, payload: object) => {
    const { body, status } = await call<JobView>('POST', path, payload);
    expect(status).withContext(JSON.stringify(body)).toBeLessThan(300);
    const job = await ended(body.id);
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    return job;
  };
  const bodyOf = async <T extends AnyDocument>(id: string) => (await call<StoredDocument<T>>('GET', `/documents/${id}`)).body.body;
  const surface = async (name: string, maps: Record<string, Image>): Promise<SurfaceDocument> => ({
    kind: 'surface',
    version: 1,
    name,
    sizeM: 1,
    reliefM: 0,
    mid: 0.5,
    maps: Object.fromEntries(
      await Promise.all(
        Object.entries(maps).map(
          async ([role, image]) =>
            [role, await keepImage({ blobs, codec: nodeCodec, light: () => undefined as never }, role as 'normal', image, `${role}.png`)] as const,
        ),
      ),
    ),
    thumbnail: null,
    tone: '#888888',
    generator: null,
    notes: [],
  });
  const stamp = (lime: string, x: number, over: Partial<PressedStamp> = {}): PressedStamp => ({
    ...DEFAULT_STAMP,
    at: [x, 0.5, 0],
    radiusM: 0.1,
    falloff: 0,
    byHeight: 0,
    order: 1,
    surface: lime,
    seed: 1,
    ...over,
  });
  const red = async (of: SurfaceDocument, x: number) => {
    const { data } = await nodeCodec.decode(await blobs.get(of.maps.baseColor!.blob), 'srgb');
    return data[(32 * 64 + Math.floor(x * 64)) * 3];
  };
  let ids: { asset: string; skin: string; lime: string };

  beforeAll(async () => {
    app = await testApp();
    blobs = new PgBlobStore(app.pool);
  });
  afterAll(() => app.stop());
  beforeEach(async () => {
    const specimen = await broughtIn({ blobs }, 'Kiosk', model);
    const skin = await create(await surface('Skin', { baseColor: even([40, 40, 40], true), normal: even([128, 128, 255]) }));
    const lime = await create(await surface('Lime', { baseColor: even([220, 210, 190], true) }));
    ids = { skin, lime, asset: await create(makeAsset('Kiosk', await create(specimen), ['body'], skin)) };
  });

  it('is stamped into a surface of its own, which its slots wear in the same step, and into that from then on', async () => {
    const { asset, skin, lime } = ids;
    const first = await done(`/assets/${asset}/stamps`, { surface: skin, add: { a: stamp(lime, 0.3) }, remove: [] });
    const worn = (await bodyOf<AssetDocument>(asset)).slots;
    const [slot] = Object.values(worn);
    expect(slot.blend).toBe(jobResult('stamp', first)!.surface);
    expect(slot.blend).not.toBe(skin);
    const made = await bodyOf<SurfaceDocument>(slot.blend);
    expect([await red(made, 0.3), await red(made, 0.8), await red(await bodyOf<SurfaceDocument>(skin), 0.3)]).toEqual([220, 40, 40]);
    await done(`/assets/${asset}/stamps`, { surface: slot.blend, add: { b: stamp(lime, 0.8, { order: 2 }) }, remove: ['a'] });
    const again = await bodyOf<SurfaceDocument>(slot.blend);
    expect([await red(again, 0.3), await red(again, 0.8)]).toEqual([40, 220]);
    const undone = await call('POST', `/documents/${slot.blend}/undo`, { opId: opId() });
    expect(undone.status).toBeLessThan(300);
    const before = await bodyOf<SurfaceDocument>(slot.blend);
    expect([await red(before, 0.3), await red(before, 0.8), Object.keys(before.stamped!.stamps)]).toEqual([220, 40, ['a']]);
  });
  it('keeps the stamps of two windows at once', async () => {
    const { asset, skin, lime } = ids;
    await done(`/assets/${asset}/stamps`, { surface: skin, add: { a: stamp(lime, 0.2) }, remove: [] });
    const [{ blend }] = Object.values((await bodyOf<AssetDocument>(asset)).slots);
    const both = await Promise.all(
      [0.5, 0.8].map((x, i) =>
        call<JobView>('POST', `/assets/${asset}/stamps`, { surface: blend, add: { [`w${i}`]: stamp(lime, x, { order: 2 + i }) }, remove: [] }),
      ),
    );
    for (const { body } of both) expect((await ended(body.id)).status).toBe('done');
    const made = await bodyOf<SurfaceDocument>(blend);
    expect(Object.keys(made.stamped!.stamps).sort()).toEqual(['a', 'w0', 'w1']);
  });
  it('is not stamped where that cannot be, and says why; maps that are stamped are not made otherwise', async () => {
    const { asset, skin, lime } = ids;
    const ask = (path: string, payload: object) => call<Problem>('POST', path, payload);
    const none = await ask(`/assets/${asset}/stamps`, { surface: lime, add: {}, remove: [] });
    expect([none.status, none.body.detail]).toEqual([404, 'No slot of Kiosk wears Lime any more']);
    expect((await ask(`/assets/${crypto.randomUUID()}/stamps`, { surface: skin, add: {}, remove: [] })).status).toBe(404);
    expect((await ask(`/assets/${asset}/stamps`, { surface: skin, add: { a: { ...stamp(lime, 0), radiusM: -1 } }, remove: [] })).status).toBe(400);
    const before = (await allDocuments(app)).length;
    const gone = await ask(`/assets/${asset}/stamps`, { surface: skin, add: { a: stamp('nowhere', 0) }, remove: [] });
    expect(gone.body.detail).toMatch(/A surface that is stamped was deleted/);
    expect((await allDocuments(app)).length).toBe(before);
    await done(`/assets/${asset}/stamps`, { surface: skin, add: { a: stamp(lime, 0.2) }, remove: [] });
    const [{ blend }] = Object.values((await bodyOf<AssetDocument>(asset)).slots);
    const remapped = await ask(`/surfaces/${blend}/maps`, { label: 'No base colour', changes: [{ role: 'baseColor', remove: true }] });
    expect([remapped.status, remapped.body.detail]).toEqual([422, jasmine.stringMatching(/press its stamps anew in Paint/)]);
  });
  it('has its normals turned by the mesh, one step that says along what they are', async () => {
    const { asset, skin } = ids;
    await done(`/assets/${asset}/normals`, { surface: skin, to: 'object' });
    expect((await bodyOf<SurfaceDocument>(skin)).maps.normal?.space).toBe('object');
    const twice = await call<Problem>('POST', `/assets/${asset}/normals`, { surface: skin, to: 'object' });
    expect([twice.status, twice.body.detail]).toEqual([422, jasmine.stringMatching(/along the axes of the object already/)]);
    await done(`/assets/${asset}/normals`, { surface: skin, to: 'tangent' });
    expect((await bodyOf<SurfaceDocument>(skin)).maps.normal?.space).toBeUndefined();
  });
});
