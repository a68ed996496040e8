import type { History, ListedDocument, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { makeBlend, makeEdit, makeLayer } from '@pebble/core';
import { createHash } from 'node:crypto';
import type { Collected } from '../src/store/collect';
import { AGES, EVENTS_KEPT, collect } from '../src/store/collect';
import { PgBlobStore } from '../src/store/blobs';
import pg from 'pg';
import type { TestApp } from './harness';
import { opId, testApp } from './harness';

const blend = makeBlend('Step', { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1) } });

describe('what grows', () => {
  let app: TestApp;
  let blobs: PgBlobStore;
  beforeAll(async () => {
    app = await testApp({ work: false });
    blobs = new PgBlobStore(app.pool);
  });
  afterAll(() => app.stop());
  const get = async <T>(url: string) => {
    const response = await app.server.inject({ method: 'GET', url: `/api${url}`, headers: { host: '127.0.0.1' } });
    return { body: response.json<T>(), bytes: response.rawPayload.length, status: response.statusCode };
  };
  const lift = (doc: StoredDocument, mm: number) => {
    const { label, patch, inverse } = makeEdit(doc.body as BlendDocument, `Lift ${mm}`, (d) => {
      d.layers['a'].seam.liftM = mm / 1000;
    });
    return { opId: opId(), baseVersion: doc.version, label, patch, inverse };
  };
  const liftOf = async (id: string) => ((await app.documents.get(id)).body as BlendDocument).layers['a'].seam.liftM;

  /** Edits, undos and redos by the rule of two stacks, written here once more. */
  const model = () => {
    const [done, undone]: [string[], string[]] = [[], []];
    return {
      done,
      undone,
      edit: (label: string) => void (done.push(label), undone.splice(0)),
      undo: () => void undone.push(done.pop()!),
      redo: () => void done.push(undone.pop()!),
    };
  };
  it('keeps steps as two stacks do, whatever is done, undone and done again, a page at a time', async () => {
    let doc = await app.documents.create(blend, 'New');
    const { id } = doc;
    const stacks = model();
    let seed = 7;
    const random = (n: number) => (seed = (seed * 1103515245 + 12345) % 2 ** 31) % n;
    for (let i = 0; i < 300; i++) {
      const what = random(10);
      if (what < 3 && stacks.done.length) {
        doc = await app.documents.turn(id, 'undo', opId());
        stacks.undo();
      } else if (what < 5 && stacks.undone.length) {
        doc = await app.documents.turn(id, 'redo', opId());
        stacks.redo();
      } else {
        const edit = lift(doc, i + 1);
        doc = await app.documents.edit(id, edit);
        stacks.edit(edit.label);
      }
    }
    expect(await liftOf(id)).toBeCloseTo(Number(/\d+/.exec(stacks.done.at(-1)!)![0]) / 1000, 9);
    const pages: History['steps'] = [];
    let more: number | null = null;
    const first = (await get<History>(`/documents/${id}/history?limit=7`)).body;
    let asked = 0;
    do {
      const { body }: { body: History } = await get<History>(`/documents/${id}/history?limit=7${more === null ? '' : `&before=${more}`}`);
      pages.unshift(...body.steps.filter((s) => s.done));
      more = body.more;
      asked++;
    } while (more !== null);
    expect(pages.map((s) => s.label)).toEqual(stacks.done);
    expect(asked).toBe(Math.ceil(stacks.done.length / 7));
    expect(first.steps.filter((s) => !s.done).map((s) => s.label)).toEqual([...stacks.undone].reverse().slice(0, 7));
    expect([first.undo, first.redo]).toEqual([stacks.done.at(-1) ?? null, stacks.undone.at(-1) ?? null]);
  });
  it('reads one step to undo, and a page to list, of as many as there are', async () => {
    const doc = await app.documents.create(blend, 'New');
    // As 20,000 edits leave them; a step stands for "lift is what it was".
    await app.pool.query(
      `insert into revision (document_id, version, op_id, kind, below, label, patch, inverse)
       select $1, v, gen_random_uuid(), 'edit', nullif(v - 1, 1), 'Step ' || v,
              '[{"op":"replace","path":"/name","value":"later"}]', '[{"op":"replace","path":"/name","value":"earlier"}]'
       from generate_series(2, 20001) v`,
      [doc.id],
    );
    await app.pool.query('update document set version = 20001, top = 20001 where id = $1', [doc.id]);
    await app.pool.query('analyze revision');
    const page = await get<History>(`/documents/${doc.id}/history`);
    expect(page.body.steps.length).toBe(100);
    expect(page.bytes).toBeLessThan(20_000);
    // Not how long it takes, which a busy machine would upset, but how many rows are brought over.
    let rows = 0;
    const query = pg.Client.prototype.query as (...args: unknown[]) => Promise<pg.QueryResult> | undefined;
    spyOn(pg.Client.prototype, 'query').and.callFake(function (this: pg.Client, ...args: unknown[]) {
      const asked = query.apply(this, args);
      void asked?.then?.((r) => (rows += Array.isArray(r) ? 0 : r.rows.length)).catch(() => undefined);
      return asked as never;
    });
    await app.documents.turn(doc.id, 'undo', opId());
    expect(rows).toBeGreaterThan(1);
    expect(rows).toBeLessThan(10);
    expect((await app.documents.get(doc.id)).body.name).toBe('earlier');
    expect((await get<History>(`/documents/${doc.id}/history`)).body.undo).toBe('Step 20000');
  });
  it('lists documents by what lists show, whatever they hold', async () => {
    const layers = Object.fromEntries(Array.from({ length: 16 }, (_, i) => [`l${i}`, makeLayer('s', `Layer ${i}`, i + 1)]));
    const { id } = await app.documents.create(makeBlend('Heavy', { extentM: 2, layers }), 'New');
    const { body, bytes } = await get<ListedDocument[]>('/documents');
    expect(body.find((d) => d.id === id)).toEqual({ id, kind: 'blend', version: 1, name: 'Heavy' });
    expect(bytes / body.length).toBeLessThan(160);
  });

  describe('is collected', () => {
    const put = async (text: string) => blobs.put(Buffer.from(text), 'image/png');
    const there = async (hash: string) => (await blobs.facts(hash)) !== null;
    const older = (seconds: number) => app.pool.query('update blob set used_at = now() - make_interval(secs => $1)', [seconds]);
    const now = () => collect(app.pool, { ...AGES, blob: 3600 }) as Promise<Collected>;
    // What others left is gone before anything is counted, whichever came first.
    beforeEach(async () => {
      await older(7200);
      await now();
    });
    it('where nothing ever named it, and it is old: refused uploads, never what documents, old steps, removed ones, jobs or names hold', async () => {
      const hashes = { stray: await put('stray'), young: await put('young'), job: await put('job'), file: await put('download') };
      await app.pool.query(
        `insert into job (id, project_id, kind, label, payload, status, result, ended_at) values
           (gen_random_uuid(), 'main', 'import', 'Import', $1, 'running', null, null),
           (gen_random_uuid(), 'main', 'pack', 'Pack', '{}', 'done', $2, now())`,
        [JSON.stringify({ surfaces: [{ maps: [{ blob: hashes.job }] }] }), JSON.stringify({ blob: hashes.file })],
      );
      // Named once by a step that was changed since; named by a document that was removed.
      const named = { first: await put('first'), second: await put('second'), removed: await put('removed') };
      const text = (hash: string) => makeBlend(`holds ${hash}`, { extentM: 2, layers: {} });
      const doc = await app.documents.create(text(named.first), 'New');
      const after = await app.documents.edit(doc.id, {
        opId: opId(),
        baseVersion: 1,
        label: 'Other pixels',
        patch: [{ op: 'replace', path: '/name', value: `holds ${named.second}` }],
        inverse: [{ op: 'replace', path: '/name', value: `holds ${named.first}` }],
      });
      expect(after.version).toBe(2);
      const gone = await app.documents.create(text(named.removed), 'New');
      await app.documents.setDeleted(gone.id, true);
      await older(7200);
      await app.pool.query('update blob set used_at = now() where hash = $1', [hashes.young]);
      expect((await now()).blobs).toBe(1);
      expect([await there(hashes.stray), await there(hashes.young)]).toEqual([false, true]);
      for (const hash of [hashes.job, hashes.file, ...Object.values(named)]) expect(await there(hash)).toBeTrue();
      expect((await app.pool.query('select 1 from blob_chunk where hash = $1', [hashes.stray])).rowCount).toBe(0);

      // A month later what was removed goes, unless a name holds it.
      await app.pool.query("update document set deleted_at = now() - interval '31 days' where id = $1", [gone.id]);
      await app.pool.query("insert into kept_state (id, project_id, name) values ('00000000-0000-4000-8000-000000000001', 'main', 'Tuesday')");
      await app.pool.query(
        "insert into kept_document (state_id, document_id, version, body) values ('00000000-0000-4000-8000-000000000001', $1, 1, '{}')",
        [gone.id],
      );
      expect([(await now()).documents, await there(named.removed)]).toEqual([0, true]);
      await app.pool.query('delete from kept_state');
      const last = await now();
      expect([last.documents, last.blobs, await there(named.removed)]).toEqual([1, 1, false]);
      expect((await app.documents.at(doc.id, 1)).body.name).toBe(`holds ${named.first}`);
    });
    it('not while it is put or named again at the same moment', async () => {
      const hashes = await Promise.all(Array.from({ length: 60 }, (_, i) => put(`again ${i}`)));
      for (let round = 0; round < 4; round++) {
        await older(7200);
        const [, ...again] = await Promise.all([now(), ...hashes.map((_, i) => put(`again ${i}`))]);
        for (const hash of again)
          expect(await there(hash))
            .withContext(`round ${round}`)
            .toBeTrue();
        const bytes = await blobs.get(again[7]);
        expect(createHash('sha256').update(bytes).digest('hex')).toBe(again[7]);
      }
    });
    it('of events all but the newest, which a window that was away may still be told', async () => {
      await app.pool.query(
        `insert into event (project_id, seq, data) select 'main', p.event_seq + n, '{"type":"states"}' from project p, generate_series(1, 12000) n`,
      );
      await app.pool.query('update project set event_seq = event_seq + 12000');
      await now();
      const { rows } = await app.pool.query<{ n: string; least: string; most: string }>(
        'select count(*) n, min(seq) least, max(seq) most from event',
      );
      expect(Number(rows[0].n)).toBe(EVENTS_KEPT);
      expect(Number(rows[0].most) - Number(rows[0].least)).toBe(EVENTS_KEPT - 1);
    });
    it('of jobs those that ended long ago', async () => {
      const { rows } = await app.pool.query<{ id: string }>(
        `insert into job (id, project_id, kind, label, payload, status, ended_at) values
           (gen_random_uuid(), 'main', 'look', 'Old', '{}', 'failed', now() - interval '8 days'),
           (gen_random_uuid(), 'main', 'look', 'Waits', '{}', 'waiting', null) returning id`,
      );
      expect((await now()).jobs).toBe(1);
      expect((await app.pool.query('select 1 from job where id = $1', [rows[1].id])).rowCount).toBe(1);
    });
  });
});
