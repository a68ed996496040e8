import type { Problem, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeBlend, makeLayer } from '@pebble/core';
import { cp, mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { makePool } from '../src/db/pool';
import { migrate } from '../src/db/migrate';
import { PgDocumentStore } from '../src/store/documents';
import { upgradeDocuments } from '../src/db/upgrade';
import type { TestApp } from './harness';
import { ROOT, opId, testApp, testDatabase } from './harness';

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
    await app.pool.query('delete from document where id = $1', [id]);
  });
  it('of a newer one are neither served nor started on', async () => {
    const { id } = await app.documents.create(makeBlend('From tomorrow', { extentM: 2, layers: {} }), 'New');
    for (const change of ["body = jsonb_set(body, '{version}', '99')", "kind = 'hologram'"]) {
      await app.pool.query(`update document set ${change} where id = $1`, [id]);
      const served = await call<Problem>('GET', `/documents/${id}`);
      expect([served.code, served.place]).withContext(change).toEqual(['newer-format', id]);
      expect(served.detail).toContain('From tomorrow was written by a newer version');
      await expectAsync(upgradeDocuments(app.pool)).toBeRejectedWithError(/From tomorrow \(format 99\)\. Update the program/);
    }
    await app.pool.query('delete from document where id = $1', [id]);
    expect(await upgradeDocuments(app.pool)).toBe(0);
  });
});

describe('steps of an older database', () => {
  it('are stacked as they were made: what was undone can be done again, what was done anew cannot', async () => {
    const database = await testDatabase();
    const folder = await mkdtemp(path.join(os.tmpdir(), 'pebble-migrations-'));
    const pool = makePool(database.url, 2);
    try {
      await cp(path.join(ROOT, 'db/migrations/001-first.sql'), path.join(folder, '001-first.sql'));
      await migrate(pool, folder);
      const body = (name: string) => JSON.stringify(makeBlend(name, { extentM: 2, layers: {} }));
      // e2 e3 undo(3) e5 e6 undo(6) undo(5) redo(5): in effect 2 and 5, undone 6.
      const steps: [string, number | null, string, string][] = [
        ['create', null, '', ''],
        ['edit', null, 'n1', 'n2'],
        ['edit', null, 'n2', 'n3'],
        ['undo', 3, 'n3', 'n2'],
        ['edit', null, 'n2', 'n5'],
        ['edit', null, 'n5', 'n6'],
        ['undo', 6, 'n6', 'n5'],
        ['undo', 5, 'n5', 'n2'],
        ['redo', 5, 'n2', 'n5'],
      ];
      await pool.query("insert into document (id, project_id, kind, version, body, deleted) values ('d', 'main', 'blend', 9, $1, true)", [
        body('n5'),
      ]);
      for (const [i, [kind, target, from, to]] of steps.entries())
        await pool.query(
          "insert into revision (document_id, version, op_id, kind, target, label, patch, inverse) values ('d', $1, gen_random_uuid(), $2, $3, $4, $5, $6)",
          [
            i + 1,
            kind,
            target,
            `step ${target ?? i + 1}`,
            JSON.stringify([{ op: 'replace', path: '/name', value: to }]),
            JSON.stringify([{ op: 'replace', path: '/name', value: from }]),
          ],
        );
      await migrate(pool, path.join(ROOT, 'db/migrations'));
      const store = new PgDocumentStore(pool, 'main');
      await store.setDeleted('d', false);
      const { steps: listed, undo, redo } = await store.history('d');
      expect(listed.map((s) => [s.label, s.done])).toEqual([
        ['step 2', true],
        ['step 5', true],
        ['step 6', false],
      ]);
      expect([undo, redo]).toEqual(['step 5', 'step 6']);
      const names: string[] = [];
      for (const turn of ['redo', 'undo', 'undo', 'undo'] as const) names.push((await store.turn('d', turn, opId())).body.name);
      expect(names).toEqual(['n6', 'n5', 'n2', 'n1']);
      await expectAsync(store.turn('d', 'undo', opId())).toBeRejected();
    } finally {
      await pool.end();
      await database.drop();
      await rm(folder, { recursive: true });
    }
  });
});
