import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeBlend, makeLayer } from '@pebble/core';
import { upgradeDocuments } from '../src/db/upgrade';
import type { TestApp } from './harness';
import { opId, testApp } from './harness';

describe('documents of an older version', () => {
  let app: TestApp;
  beforeAll(async () => {
    app = await testApp({ work: false });
  });
  afterAll(() => app.stop());
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) =>
    (await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } })).json() as T;

  it('are brought up to date once, all or none, and open as before', async () => {
    const body = makeBlend('Old step', { layers: { a: makeLayer('s', 'Stone', 1) } });
    const { id } = await call<StoredDocument>('POST', '/documents', { body, label: 'New', opId: opId() });
    const old: Record<string, unknown> = { ...body, version: 1 };
    for (const key of ['standsAtM', 'groups', 'coverages']) delete old[key];
    const { order, name, on, solo, strength } = body.layers['a'];
    const seam: Record<string, unknown> = { ...body.layers['a'].seam };
    for (const key of ['detailM', 'normal']) delete seam[key];
    old['layers'] = { a: { order, name, surface: 's', on, solo, strength, coverage: {}, seam } };
    const write = (value: object) => app.pool.query('update document set body = $2 where id = $1', [id, JSON.stringify(value)]);
    await write(old);
    expect(await upgradeDocuments(app.pool)).toBe(1);
    expect((await call<StoredDocument<BlendDocument>>('GET', `/documents/${id}`)).body).toEqual(body);
    expect(await upgradeDocuments(app.pool)).toBe(0);
    // One that cannot be read stops it, and is left as it was.
    await write({ ...old, extentM: -1 });
    await expectAsync(upgradeDocuments(app.pool)).toBeRejectedWithError(/\/extentM.*Nothing was changed/);
    expect(
      (await app.pool.query<{ body: { extentM: number; version: number } }>('select body from document where id = $1', [id])).rows[0].body.version,
    ).toBe(1);
  });
});
