import type { History, Problem, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { applyPatch, makeBlend, makeEdit, makeLayer } from '@pebble/core';
import { transaction } from '../src/db/pool';
import type { TestApp } from './harness';
import { opId, testApp, until } from './harness';

const blend = makeBlend('Step', { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1) } });

describe('documents over the API', () => {
  let app: TestApp;
  beforeAll(async () => {
    app = await testApp({ work: false });
  });
  afterAll(() => app.stop());
  const call = async <T>(method: 'GET' | 'POST' | 'DELETE', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: (response.body ? response.json() : null) as T, type: String(response.headers['content-type']) };
  };
  const create = async () => (await call<StoredDocument<BlendDocument>>('POST', '/documents', { body: blend, label: 'New', opId: opId() })).body;
  const lift = (doc: StoredDocument<BlendDocument>, mm: number, over: object = {}) => {
    const { label, patch, inverse } = makeEdit(doc.body, `Lift ${mm}`, (d) => {
      d.layers['a'].seam.liftM = mm / 1000;
    });
    return { opId: opId(), baseVersion: doc.version, label, patch, inverse, ...over };
  };
  const read = async (id: string) => (await call<StoredDocument<BlendDocument>>('GET', `/documents/${id}`)).body;

  it('are created, read and listed; a retry creates nothing', async () => {
    const payload = { body: blend, label: 'New', opId: opId() };
    const first = await call<StoredDocument>('POST', '/documents', payload);
    const again = await call<StoredDocument>('POST', '/documents', payload);
    expect(again.body.id).toBe(first.body.id);
    expect((await read(first.body.id)).body).toEqual(blend);
    expect((await call<StoredDocument[]>('GET', '/documents')).body.filter((d) => d.id === first.body.id).length).toBe(1);
  });
  it('answer a repeated edit with the version that it made, however much came after it', async () => {
    const doc = await create();
    const first = lift(doc, 3);
    const answer = async () => (await call<{ version: number }>('POST', `/documents/${doc.id}/edits`, first)).body;
    expect(await answer()).toEqual({ version: 2 });
    await call('POST', `/documents/${doc.id}/edits`, lift({ ...(await read(doc.id)), version: 2 }, 4));
    expect(await answer()).toEqual({ version: 2 });
    expect((await read(doc.id)).version).toBe(3);
    // The same id for another document is a mistake that is said, not one that is done or lost.
    const other = await create();
    const taken = await call<Problem>('POST', `/documents/${other.id}/edits`, first);
    expect([taken.status, taken.body.code, (await read(other.id)).version]).toEqual([409, 'op-taken', 1]);
  });
  it('are made once though their creation is sent several times at the same moment; an id that is taken is said', async () => {
    const payload = { body: blend, label: 'New', opId: opId() };
    const made = await Promise.all(Array.from({ length: 8 }, () => call<StoredDocument>('POST', '/documents', payload)));
    expect(new Set(made.map((m) => `${m.status} ${m.body.id}`)).size).toBe(1);
    const again = await call<Problem>('POST', '/documents', { ...payload, opId: opId(), id: made[0].body.id });
    expect([again.status, again.body.code]).toEqual([409, 'id-taken']);
  });
  it('are changed together by many at once, and cancelled jobs among them, without any two waiting for each other', async () => {
    const docs = await Promise.all(Array.from({ length: 5 }, () => create()));
    const deadlocks = async () =>
      Number((await app.pool.query<{ n: string }>('select deadlocks as n from pg_stat_database where datname = current_database()')).rows[0].n);
    const before = await deadlocks();
    const together = (round: number) =>
      transaction(app.pool, async (client) => {
        // Each names them in another order.
        const ids = docs.map((d) => d.id).sort(() => ((round * 7919) % 5) - 2);
        const job = jobs[round % jobs.length];
        await app.jobs.hold(client, job.id);
        await app.documents.hold(client, ids);
        for (const id of ids) await app.documents.changeIn(client, id, 'Together', (body) => ({ ...body, name: `Round ${round}` }));
        await app.jobs.end(client, job.id, 1, 'done');
      });
    const jobs = await Promise.all(Array.from({ length: 6 }, () => app.jobs.add('generate', 'Draw', { name: 'river-gravel', seed: 1, size: 16 })));
    await app.pool.query("update job set status = 'running', attempt = 1");
    const edit = async (i: number) => call('POST', `/documents/${docs[i % 5].id}/edits`, lift(await read(docs[i % 5].id), i + 1));
    await Promise.all(Array.from({ length: 30 }, (_, i) => [together(i), edit(i), app.jobs.cancel(jobs[i % 6].id).catch(() => undefined)]).flat());
    // What a session counted is told when it has been idle for a moment.
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(await deadlocks()).toBe(before);
    expect(new Set((await Promise.all(docs.map((d) => read(d.id)))).map((d) => d.body.name)).size).toBe(1);
  });
  it('that are made together are listed in the order in which they were made', async () => {
    const names = ['m', 'z', 'a', 'k'];
    await transaction(app.pool, async (client) => {
      for (const name of names) await app.documents.createIn(client, { ...blend, name: `Together ${name}` }, 'New', undefined, `together-${name}`);
    });
    const listed = (await call<StoredDocument[]>('GET', '/documents')).body.map((d) => d.id).filter((id) => id.startsWith('together'));
    expect(listed).toEqual(names.map((name) => `together-${name}`));
  });
  it('are found by what names them, however far away, and by kind', async () => {
    const keep = (id: string, surface: string) =>
      app.documents.create(makeBlend(id, { extentM: 2, layers: { a: makeLayer(surface, 'Stone', 1) } }), 'New', opId(), id);
    // A ring, one aside, and one that was deleted.
    for (const [id, names] of [
      ['far', 'near'],
      ['near', 'middle'],
      ['middle', 'far'],
      ['aside', 'far'],
      ['lost', 'aside'],
    ])
      await keep(id, names);
    await app.documents.setDeleted('middle', true);
    expect(Object.keys(await app.documents.reach(['far', 'nobody'])).sort()).toEqual(['far', 'near']);
    await app.documents.setDeleted('middle', false);
    expect(Object.keys(await app.documents.reach(['near'])).sort()).toEqual(['far', 'middle', 'near']);
    expect(Object.keys(await app.documents.reach(['lost'])).sort()).toEqual(['aside', 'far', 'lost', 'middle', 'near']);
    expect((await app.documents.find('blend', 'aside'))?.name).toBe('aside');
    expect([await app.documents.find('surface', 'aside'), await app.documents.find('blend', 'nobody')]).toEqual([null, null]);
    expect((await app.documents.all('blend')).map((d) => d.id)).toContain('aside');
    expect(await app.documents.all('surface')).toEqual([]);
  });
  it('are told as they were at any of their versions', async () => {
    const doc = await create();
    for (const [i, mm] of [4, 9, 2].entries())
      await call('POST', `/documents/${doc.id}/edits`, lift({ ...(await read(doc.id)), version: i + 1 }, mm));
    await call('POST', `/documents/${doc.id}/undo`, { opId: opId() });
    const at = async (version: number) => (await call<StoredDocument<BlendDocument>>('GET', `/documents/${doc.id}/at/${version}`)).body;
    expect((await at(1)).body).toEqual(blend);
    const lifts: number[] = [];
    for (const v of [1, 2, 3, 4, 5]) lifts.push((await at(v)).body.layers['a'].seam.liftM);
    // The last step took the third back.
    expect(lifts).toEqual([0, 0.004, 0.009, 0.002, 0.009]);
    expect((await call('GET', `/documents/${doc.id}/at/9`)).status).toBe(404);
    expect((await call('GET', `/documents/${doc.id}/at/0`)).status).toBe(400);
  });
  it('advance one version a gesture, and a retried gesture applies once', async () => {
    const doc = await create();
    const edit = lift(doc, 4);
    expect((await call('POST', `/documents/${doc.id}/edits`, edit)).body).toEqual({ version: 2 });
    expect((await call('POST', `/documents/${doc.id}/edits`, edit)).body).toEqual({ version: 2 });
    expect((await read(doc.id)).body.layers['a'].seam.liftM).toBe(0.004);
  });
  it('refuse an edit made on an old version, with the new state to try again on', async () => {
    const doc = await create();
    await call('POST', `/documents/${doc.id}/edits`, lift(doc, 4));
    const late = await call<Problem & { version: number; body: BlendDocument }>('POST', `/documents/${doc.id}/edits`, lift(doc, 9));
    expect(late.status).toBe(409);
    expect(late.type).toContain('application/problem+json');
    expect(late.body).toEqual(jasmine.objectContaining({ code: 'version-conflict', version: 2 }));
    expect(late.body.body.layers['a'].seam.liftM).toBe(0.004);
  });
  it('never keep an edit that would break them', async () => {
    const doc = await create();
    const soft = await call<Problem>('POST', `/documents/${doc.id}/edits`, {
      ...lift(doc, 1),
      patch: [{ op: 'replace', path: '/layers/a/seam/soft', value: 7 }],
    });
    expect([soft.status, soft.body.code]).toEqual([422, 'invalid-edit']);
    expect(soft.body.detail).toContain('/layers/a/seam/soft');
    const nowhere = await call<Problem>('POST', `/documents/${doc.id}/edits`, {
      ...lift(doc, 1),
      patch: [{ op: 'replace', path: '/layers/zzz/name', value: 'x' }],
    });
    expect([nowhere.status, nowhere.body.code]).toEqual([409, 'edit-conflict']);
    const kind = await call<Problem>('POST', `/documents/${doc.id}/edits`, {
      ...lift(doc, 1),
      patch: [{ op: 'replace', path: '', value: { kind: 'project', version: 1, name: 'x', exportNormal: 'y+', exportSize: 1, target: 'desktop' } }],
    });
    expect(kind.status).toBe(422);
    expect((await read(doc.id)).version).toBe(1);
  });
  it('undo and redo by name; a new edit ends the redo', async () => {
    let doc = await create();
    for (const mm of [1, 2, 3]) {
      await call('POST', `/documents/${doc.id}/edits`, lift(doc, mm));
      doc = await read(doc.id);
    }
    const turn = (t: 'undo' | 'redo') => call<StoredDocument<BlendDocument>>('POST', `/documents/${doc.id}/${t}`, { opId: opId() });
    const history = async () => (await call<History>('GET', `/documents/${doc.id}/history`)).body;
    expect((await history()).steps.map((s) => s.label)).toEqual(['Lift 1', 'Lift 2', 'Lift 3']);
    expect((await turn('undo')).body.body.layers['a'].seam.liftM).toBe(0.002);
    expect((await turn('undo')).body.body.layers['a'].seam.liftM).toBe(0.001);
    expect(await history()).toEqual(jasmine.objectContaining({ undo: 'Lift 1', redo: 'Lift 2' }));
    expect((await turn('redo')).body.body.layers['a'].seam.liftM).toBe(0.002);
    await call('POST', `/documents/${doc.id}/edits`, lift(await read(doc.id), 8));
    expect((await history()).redo).toBeNull();
    expect((await history()).steps.map((s) => s.label)).toEqual(['Lift 1', 'Lift 2', 'Lift 8']);
    for (let i = 0; i < 3; i++) await turn('undo');
    expect((await read(doc.id)).body).toEqual(blend);
    expect([(await turn('undo')).status]).toEqual([409]);
  });
  it('are hidden and brought back with their history', async () => {
    const doc = await create();
    await call('POST', `/documents/${doc.id}/edits`, lift(doc, 4));
    expect((await call('DELETE', `/documents/${doc.id}`)).status).toBe(204);
    expect((await call<Problem>('GET', `/documents/${doc.id}`)).body.code).toBe('not-found');
    expect((await call<StoredDocument<BlendDocument>>('POST', `/documents/${doc.id}/restore`)).body.body.layers['a'].seam.liftM).toBe(0.004);
  });
  it('refuse bodies and ids that are not as the schema says', async () => {
    expect((await call<Problem>('POST', '/documents', { body: { kind: 'blend' }, label: 'x', opId: opId() })).status).toBe(422);
    const bad = await call<Problem>('POST', '/documents', { body: blend, label: 'x', opId: 'nope' });
    expect([bad.status, bad.body.code, bad.body.place]).toEqual([400, 'invalid-request', '/opId']);
    expect((await call<Problem>('GET', '/documents/..%2Fetc')).status).toBe(400);
  });
  it('lose no edit of many that arrive at once from two windows', async () => {
    const doc = await create();
    const write = async (mm: number) => {
      for (;;) {
        const now = await read(doc.id);
        const edit = makeEdit(now.body, `Layer ${mm}`, (d) => {
          d.layers[`l${mm}`] = makeLayer('s', `Layer ${mm}`, mm + 2);
        });
        const { status } = await call('POST', `/documents/${doc.id}/edits`, {
          opId: opId(),
          baseVersion: now.version,
          label: edit.label,
          patch: edit.patch,
          inverse: edit.inverse,
        });
        if (status === 200) return;
      }
    };
    await Promise.all(
      [0, 1].map(async (w) => {
        for (let i = 0; i < 6; i++) await write(w * 6 + i);
      }),
    );
    expect(Object.keys((await read(doc.id)).body.layers).length).toBe(13);
  });
  const listening = async (): Promise<number> => {
    if (!app.server.server.listening) await app.server.listen({ port: 0, host: '127.0.0.1' });
    return (app.server.server.address() as { port: number }).port;
  };
  /** Changes that a window hears, the first so many. */
  const listen = async (lastId: string | null, wanted: number) => {
    const port = await listening();
    const stop = new AbortController();
    const response = await fetch(`http://127.0.0.1:${port}/api/events`, {
      headers: { accept: 'text/event-stream', ...(lastId ? { 'last-event-id': lastId } : {}) },
      signal: stop.signal,
    });
    const events: { id: string; data: { type: string; version?: number; patch?: never } }[] = [];
    let text = '';
    try {
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
        text += Buffer.from(chunk).toString();
        for (let at = text.indexOf('\n\n'); at >= 0; at = text.indexOf('\n\n')) {
          const block = text.slice(0, at);
          text = text.slice(at + 2);
          const data = /^data: (.*)$/m.exec(block)?.[1];
          if (data && /^event: change/m.test(block)) events.push({ id: /^id: (.*)$/m.exec(block)?.[1] ?? '', data: JSON.parse(data) });
        }
        if (events.length >= wanted) break;
      }
    } finally {
      stop.abort();
    }
    return events;
  };
  it('tell every listener about each change, in order, and again after a pause', async () => {
    const doc = await create();
    const hearing = listen(null, 3);
    await new Promise((r) => setTimeout(r, 300));
    let now = doc;
    for (const mm of [1, 2, 3]) {
      await call('POST', `/documents/${doc.id}/edits`, lift(now, mm));
      now = await read(doc.id);
    }
    const heard = await hearing;
    expect(heard.map((e) => e.data.version)).toEqual([2, 3, 4]);
    expect(heard.reduce((body, e) => applyPatch(body, e.data.patch as never), doc.body)).toEqual(now.body);
    expect((await listen(heard[0].id, 2)).map((e) => e.data.version)).toEqual([3, 4]);
    // Numbers of other data, of what never was, and nonsense begin anew instead of never hearing anything again.
    const [data] = heard[0].id.split('-');
    for (const [i, id] of ['0-1', `${data}-999999`, '7', 'no number', `${data}--1`, `${data}-1e9`].entries()) {
      const again = listen(id, 1);
      await new Promise((r) => setTimeout(r, 200));
      await call('POST', `/documents/${doc.id}/edits`, lift(now, 5 + i));
      now = await read(doc.id);
      expect((await again).map((e) => e.data.version))
        .withContext(id)
        .toEqual([now.version]);
    }
  });
  it('tell whoever missed more than is told at once to read instead, and hub and listener leave no gap', async () => {
    const doc = await create();
    const hearing = listen(null, 12_001);
    await new Promise((r) => setTimeout(r, 300));
    await app.pool.query(
      `insert into event (project_id, seq, data)
       select 'main', event_seq + i, '{"type":"deleted","id":"x","kind":"blend"}' from project, generate_series(1, 12000) i where id = 'main'`,
    );
    await app.pool.query("update project set event_seq = event_seq + 12000 where id = 'main'");
    const port = await listening();
    const hello = async (id: string) => {
      const stop = new AbortController();
      const response = await fetch(`http://127.0.0.1:${port}/api/events`, {
        headers: { accept: 'text/event-stream', 'last-event-id': id },
        signal: stop.signal,
      });
      const reader = response.body!.getReader();
      const text = Buffer.from((await reader.read()).value!).toString();
      stop.abort();
      return JSON.parse(/^data: (.*)$/m.exec(text)![1]) as { seq: number; data: string };
    };
    await call('POST', `/documents/${doc.id}/edits`, lift(doc, 1));
    const { seq, data } = await hello('');
    expect((await hello(`${data}-${seq - 12000}`)).seq).toBe(seq);
    expect((await hello(`${data}-${seq - 3}`)).seq).toBe(seq - 3);
    // A window that listens meanwhile hears all of them, though they are more than are told at once.
    const heard = await hearing;
    expect([heard.length, heard.at(-1)!.data.type, heard.at(-1)!.data.version]).toEqual([12_001, 'document', 2]);
  });
});

describe('the server', () => {
  let app: TestApp;
  beforeAll(async () => {
    app = await testApp({ work: false });
  });
  afterAll(() => app.stop());
  it('answers only this machine and this site, with strict headers', async () => {
    const get = (headers: Record<string, string>) => app.server.inject({ method: 'GET', url: '/api/health', headers });
    expect((await get({ host: 'evil.example' })).statusCode).toBe(403);
    for (const origin of ['http://evil.example', 'null', 'no address', '://'])
      expect((await get({ host: '127.0.0.1:80', origin })).statusCode)
        .withContext(origin)
        .toBe(403);
    // Forms and pictures of other sites bear no Origin; a link that leads here is followed.
    const marked = async (site: string, more: Record<string, string> = {}, url = '/api/health', method: 'GET' | 'POST' = 'GET') =>
      (await app.server.inject({ method, url, headers: { host: '127.0.0.1:80', 'sec-fetch-site': site, ...more } })).statusCode;
    expect(await marked('cross-site')).toBe(403);
    expect(await marked('same-site', { 'sec-fetch-mode': 'navigate' })).toBe(403);
    expect(await marked('cross-site', { 'sec-fetch-mode': 'navigate' }, '/api/documents', 'POST')).toBe(403);
    expect(await marked('same-origin')).toBe(200);
    expect(await marked('none')).toBe(200);
    expect(await marked('cross-site', { 'sec-fetch-mode': 'navigate' }, '/blend')).not.toBe(403);
    const ok = await get({ host: 'localhost:4780', origin: 'http://localhost:4780' });
    expect(ok.json()).toEqual({ ok: true });
    expect(ok.headers['content-security-policy']).toContain("script-src 'self'");
    expect(ok.headers['cross-origin-opener-policy']).toBe('same-origin');
    expect(ok.headers['cross-origin-embedder-policy']).toBe('require-corp');
  });
  it('describes its API, every route with a summary', async () => {
    const page = await app.server.inject({ method: 'GET', url: '/api/docs', headers: { host: 'localhost' } });
    expect(page.body).toContain('/api/documents/{id}/edits');
    const { paths } = (await app.server.inject({ method: 'GET', url: '/api/docs/openapi.json', headers: { host: 'localhost' } })).json() as {
      paths: Record<string, Record<string, { summary?: string }>>;
    };
    expect(Object.keys(paths).length).toBeGreaterThan(12);
    for (const [path, methods] of Object.entries(paths)) for (const m of Object.values(methods)) expect(m.summary).withContext(path).toBeTruthy();
  });
  it('refuses a database that a newer version has used, and migrations that were changed', async () => {
    const { migrate } = await import('../src/db/migrate');
    const { ROOT } = await import('./harness');
    await app.pool.query("insert into migration (name, checksum) values ('999-later.sql', 'x')");
    await expectAsync(migrate(app.pool, `${ROOT}/db/migrations`)).toBeRejectedWithError(/newer version/);
    await app.pool.query("delete from migration where name = '999-later.sql'");
    await app.pool.query("update migration set checksum = 'other'");
    await expectAsync(migrate(app.pool, `${ROOT}/db/migrations`)).toBeRejectedWithError(/changed after/);
  });
  it('goes on after its database connections were cut', async () => {
    await app.pool
      .query('select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()')
      .catch(() => undefined);
    const ok = await until(
      async () => (await app.server.inject({ method: 'GET', url: '/api/health', headers: { host: 'localhost' } })).statusCode === 200,
    );
    expect(ok).toBeTrue();
  });
});
