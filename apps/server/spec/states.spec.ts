import type { KeptState, Problem, StateDifference, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeBlend, makeEdit, makeLayer } from '@pebble/core';
import type { TestApp } from './harness';
import { allDocuments, opId, testApp } from './harness';

const blend = (name: string) => makeBlend(name, { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1) } });

describe('named versions of a project', () => {
  let app: TestApp;
  beforeEach(async () => {
    app = await testApp({ work: false });
  });
  afterEach(() => app.stop());
  const call = async <T>(method: 'GET' | 'POST' | 'DELETE', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: (response.body ? response.json() : null) as T };
  };
  const lift = async (id: string, mm: number) => {
    const doc = (await app.documents.get(id)) as StoredDocument<BlendDocument>;
    const { label, patch, inverse } = makeEdit(doc.body, `Lift ${mm}`, (d) => {
      d.layers['a'].seam.liftM = mm / 1000;
    });
    await app.documents.edit(id, { opId: opId(), baseVersion: doc.version, label, patch, inverse });
  };
  const keep = async (name: string) => {
    const id = opId();
    expect((await call('POST', '/states', { id, name })).status).toBe(204);
    return id;
  };
  const states = async () => (await call<KeptState[]>('GET', '/states')).body;
  const differences = async (id: string) => (await call<StateDifference[]>('GET', `/states/${id}/differences`)).body.map((d) => [d.how, d.name]);
  const bodies = async () => Object.fromEntries((await allDocuments(app)).map((d) => [d.id, d.body]));

  it('are kept, compared and gone back to: changed, added and removed documents, and the way back is kept too', async () => {
    const [a, b, c] = await Promise.all(
      ['Path', 'Wall', 'Ground'].map((name) => app.documents.create(blend(name), 'New', opId(), name.toLowerCase())),
    );
    await lift(a.id, 4);
    const then = await bodies();
    const tuesday = await keep(' Tuesday ');
    expect((await states()).map((s) => [s.name, s.documents])).toEqual([['Tuesday', 3]]);
    expect(await differences(tuesday)).toEqual([]);
    const versions = async (of: string) => (await call<KeptState[]>('GET', `/states?document=${of}`)).body.map((s) => s.version);
    expect([await versions(a.id), await versions('nobody')]).toEqual([[2], [null]]);

    await lift(a.id, 9);
    await lift(c.id, 5);
    // What was changed back is no difference.
    await app.documents.turn(c.id, 'undo', opId());
    await app.documents.setDeleted(b.id, true);
    const d = await app.documents.create(blend('Later'), 'New');
    expect((await differences(tuesday)).sort()).toEqual([
      ['added', 'Later'],
      ['changed', 'Path'],
      ['removed', 'Wall'],
    ]);
    const now = await bodies();

    const keepAs = opId();
    expect((await call('POST', `/states/${tuesday}/back`, { keepAs })).status).toBe(204);
    expect(await bodies()).toEqual(then);
    expect(await differences(tuesday)).toEqual([]);
    expect((await states()).map((s) => s.name)).toEqual(['Before going back to Tuesday', 'Tuesday']);
    // It is a step like any other; a retry goes back no second time.
    expect((await app.documents.history(a.id)).undo).toBe('Back to Tuesday');
    await lift(a.id, 1);
    expect((await call('POST', `/states/${tuesday}/back`, { keepAs })).status).toBe(204);
    expect((await app.documents.history(a.id)).undo).toBe('Lift 1');

    expect((await call('POST', `/states/${keepAs}/back`, { keepAs: opId() })).status).toBe(204);
    expect(await bodies()).toEqual(now);
    expect((await app.documents.get(d.id)).body.name).toBe('Later');
  });
  it('come back whole or not at all: one document that cannot be as it was leaves all as they are', async () => {
    const [a, b] = await Promise.all(['Path', 'Wall'].map((name) => app.documents.create(blend(name), 'New')));
    const state = await keep('Broken');
    await lift(a.id, 4);
    await app.pool.query('update kept_document set body = body || \'{"extentM": -1}\' where document_id = $1', [b.id]);
    const before = await bodies();
    const answer = await call<Problem>('POST', `/states/${state}/back`, { keepAs: opId() });
    expect([answer.status, answer.body.code]).toEqual([422, 'older-format']);
    expect(answer.body.detail).toContain('Wall');
    expect(await bodies()).toEqual(before);
    expect((await states()).length).toBe(1);
  });
  it('are let go without touching a document; one that is not there is said', async () => {
    const { id } = await app.documents.create(blend('Path'), 'New');
    const state = await keep('Once');
    expect((await call('DELETE', `/states/${state}`)).status).toBe(204);
    expect([await states(), (await app.documents.get(id)).version]).toEqual([[], 1]);
    for (const [method, path, body] of [
      ['DELETE', `/states/${state}`, undefined],
      ['GET', `/states/${state}/differences`, undefined],
      ['POST', `/states/${state}/back`, { keepAs: opId() }],
    ] as const)
      expect((await call<Problem>(method, path, body)).body.code)
        .withContext(path)
        .toBe('not-found');
    expect((await call<Problem>('POST', '/states', { id: opId(), name: '   ' })).status).toBe(400);
  });
  it('do not mix moments: what is kept while documents are edited together is before or after, never between', async () => {
    const [a, b] = await Promise.all(['Path', 'Wall'].map((name) => app.documents.create(blend(name), 'New')));
    const { transaction } = await import('../src/db/pool');
    const kept: string[] = [];
    let going = true;
    const keeping = (async () => {
      while (going) kept.push(await keep('During'));
    })();
    for (let i = 1; i <= 25; i++)
      await transaction(app.pool, async (client) => {
        await app.documents.hold(client, [a.id, b.id]);
        for (const { id } of [a, b]) await app.documents.changeIn(client, id, 'Together', (body) => ({ ...body, name: `Both ${i}` }));
      });
    going = false;
    await keeping;
    expect(kept.length).toBeGreaterThan(1);
    for (const id of kept) {
      const { rows } = await app.pool.query<{ name: string }>("select body->>'name' as name from kept_document where state_id = $1", [id]);
      const names = rows.map((r) => r.name);
      expect(names.length).toBe(2);
      if (names.some((n) => n.startsWith('Both'))) expect(names[0]).toBe(names[1]);
    }
  });
});
