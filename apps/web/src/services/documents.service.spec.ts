import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Hello, History, ListedDocument, LiveEvent, StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import { applyPatch, makeBlend, makeEdit, makeLayer } from '@pebble/core';
import { Subject } from 'rxjs';
import { ApiError, ApiService } from './api.service';
import { DocumentsService } from './documents.service';
import { KeptEdits } from './kept-edits';
import { LiveService } from './live.service';
import { NoticesService } from './notices.service';

const start = makeBlend('Step', { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1) } });

const HERE: Hello = { seq: 1, data: 'here' };

/** A server in memory with the rules of the real one: versions, conflicts, and being away. */
class FakeApi {
  version = 1;
  body: BlendDocument = structuredClone(start);
  away = false;
  /** Answers that say something is wrong inside the server, before it works. */
  broken = 0;
  edits: string[] = [];
  get = async (path: string): Promise<unknown> => {
    if (this.away) throw this.problem(0, 'offline');
    if (path === '/documents') return [{ id: 'b', kind: 'blend', version: this.version, name: this.body.name } satisfies ListedDocument];
    return path.includes('/history') ? this.history(path) : { id: 'b', kind: 'blend', version: this.version, body: this.body };
  };
  history = (_path: string): History => ({ steps: [], undo: null, redo: null, more: null });
  /** How often documents were read whole, and how. */
  wholes = 0;
  whole = async (): Promise<StoredDocument[]> => {
    this.wholes++;
    return Promise.resolve([{ id: 'b', kind: 'blend', version: this.version, body: this.body }]);
  };
  post = async (path: string, edit: { baseVersion: number; label: string; patch: never }): Promise<unknown> => {
    await Promise.resolve();
    if (this.away) throw this.problem(0, 'offline');
    if (path === '/documents/whole') return this.whole();
    if (this.broken-- > 0) throw this.problem(500, 'unexpected');
    if (edit.baseVersion !== this.version) throw this.problem(409, 'version-conflict', { version: this.version, body: this.body });
    this.body = applyPatch(this.body, edit.patch);
    this.edits.push(edit.label);
    return { version: ++this.version };
  };
  private problem = (status: number, code: string, extra = {}) => new ApiError({ type: '', title: '', status, code, detail: code, ...extra }, status);
}

describe('documents in a window', () => {
  let api: FakeApi;
  let events: Subject<LiveEvent>;
  let opened: Subject<Hello>;
  let said: string[];
  let edits: KeptEdits | undefined;
  const records = () => Object.keys(localStorage).filter((k) => k.startsWith('pebble-edit'));
  const clear = () => records().forEach((k) => localStorage.removeItem(k));
  const sleep = async (ms: number) => new Promise((r) => setTimeout(r, ms));
  /** Until what was begun is done. What is kept is read under locks, which a busy browser gives late: after one of ours, theirs was given. */
  const settle = async (ms = 30) => {
    for (const wait of [ms, 5, 5]) {
      await sleep(wait);
      await navigator.locks.request('pebble-take-over', () => undefined);
    }
    await sleep(5);
  };
  const make = async () => {
    // As a tab that is closed lets go of its lock.
    edits?.end();
    TestBed.resetTestingModule();
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        { provide: ApiService, useValue: api },
        { provide: LiveService, useValue: { events, opened, connected: signal(true) } },
        { provide: NoticesService, useValue: { error: (e: unknown) => said.push(String(e)), say: () => undefined } },
      ],
    });
    edits = TestBed.inject(KeptEdits);
    const service = TestBed.inject(DocumentsService);
    opened.next(HERE);
    await settle();
    return service;
  };
  const lift = (d: BlendDocument) => d.layers['a'].seam.liftM;
  const setLift = (mm: number) => (d: BlendDocument) => {
    d.layers['a'].seam.liftM = mm / 1000;
  };
  beforeEach(() => {
    api = new FakeApi();
    events = new Subject();
    opened = new Subject();
    said = [];
    clear();
  });
  afterEach(() => {
    edits?.end();
    edits = undefined;
    clear();
  });

  it('are the same objects until they change, and what comes back as it was sent is no change', async () => {
    const service = await make();
    const [blends, surfaces] = [service.list('blend'), service.list('surface')];
    const [before, none, entry] = [blends(), surfaces(), blends()[0]];
    expect(service.list('blend')).toBe(blends);
    service.draft('b', 'blend', setLift(4));
    expect(surfaces()).toBe(none);
    expect(blends()).not.toBe(before);
    const drawn = service.body('b', 'blend');
    service.commit('b', 'Lift');
    await settle();
    expect(api.edits).toEqual(['Lift']);
    expect(service.body('b', 'blend')).toBe(drawn);
    service.draft('b', 'blend', setLift(9));
    service.dropDraft('b');
    expect(service.body('b', 'blend')).toEqual(drawn);
    opened.next(HERE);
    await settle();
    const now = blends();
    opened.next(HERE);
    await settle();
    expect(blends()).toBe(now);
    expect(entry.body).toEqual(start);
  });
  it('show a drag at once and send one edit when it ends', async () => {
    const service = await make();
    for (const mm of [1, 2, 3]) service.draft('b', 'blend', setLift(mm));
    expect(lift(service.body('b', 'blend')!)).toBe(0.003);
    await settle();
    expect(api.edits).toEqual([]);
    service.commit('b', 'Lift');
    expect(service.saveState()).toBe('Saving…');
    await settle();
    expect([api.edits, lift(api.body), service.saveState()]).toEqual([['Lift'], 0.003, 'Saved']);
  });
  it('keep edits while the server is away, over a reload too, and send them when it is back', async () => {
    const service = await make();
    api.away = true;
    service.edit('b', 'blend', 'Lift 5', setLift(5));
    service.edit('b', 'blend', 'Name', (d) => {
      d.name = 'Kept';
    });
    await settle();
    expect(service.saveState()).toBe('Offline, 2 edits kept');
    api.away = false;
    const reloaded = await make();
    await settle();
    expect(reloaded.body('b', 'blend')?.name).toBe('Kept');
    expect([api.edits, lift(api.body)]).toEqual([['Lift 5', 'Name'], 0.005]);
    expect(records()).toEqual([]);
  });
  it('keep an edit at which the server fails, try it again, and say so when it goes on failing', async () => {
    const service = await make();
    api.broken = 1;
    service.edit('b', 'blend', 'Lift', setLift(6));
    await settle();
    expect([lift(service.body('b', 'blend')!), service.saveState()]).toEqual([0.006, 'Offline, 1 edit kept']);
    await settle(1700);
    expect([api.edits, lift(api.body), service.saveState(), said]).toEqual([['Lift'], 0.006, 'Saved', []]);
    // Only a refusal with a reason lets go of one.
    api.post = async () => {
      throw new ApiError({ type: '', title: '', status: 422, code: 'no', detail: 'This cannot be' }, 422);
    };
    service.edit('b', 'blend', 'Lift', setLift(9));
    await settle();
    expect([lift(service.body('b', 'blend')!), service.saveState()]).toEqual([0.006, 'Saved']);
    expect(said.join()).toContain('This cannot be');
  });
  it('send an edit that the browser has no room to keep, and say while it waits that it is in this window alone', async () => {
    const service = await make();
    const room = spyOn(Storage.prototype, 'setItem').and.throwError(new DOMException('full', 'QuotaExceededError'));
    service.edit('b', 'blend', 'Lift', setLift(3));
    await settle();
    expect([api.edits, service.saveState()]).toEqual([['Lift'], 'Saved']);
    api.away = true;
    service.edit('b', 'blend', 'Lift', setLift(4));
    await settle();
    expect(service.saveState()).toContain('1 edit in this window only');
    room.and.callThrough();
    api.away = false;
    await settle(1700);
    expect([api.edits.length, service.saveState()]).toEqual([2, 'Saved']);
  });
  it('are read anew where the server was started on other data, whose versions are others', async () => {
    const service = await make();
    opened.next(HERE);
    await settle();
    for (const mm of [1, 2, 3]) {
      service.edit('b', 'blend', 'Lift', setLift(mm));
      await settle();
    }
    Object.assign(api, { version: 1, body: { ...structuredClone(start), name: 'Other data' } });
    opened.next(HERE);
    await settle();
    expect(service.body('b', 'blend')?.name).toBe('Step');
    opened.next({ seq: 0, data: 'there' });
    await settle();
    expect([service.body('b', 'blend')?.name, lift(service.body('b', 'blend')!)]).toEqual(['Other data', 0]);
  });
  it('are tried again on top of what another window did first', async () => {
    const service = await make();
    api.body = { ...api.body, name: 'Theirs' };
    api.version = 2;
    service.edit('b', 'blend', 'Lift', setLift(7));
    await settle();
    expect([api.body.name, lift(api.body), service.body('b', 'blend')?.name]).toEqual(['Theirs', 0.007, 'Theirs']);
    expect(said).toEqual([]);
  });
  it('say so when an edit no longer fits', async () => {
    const service = await make();
    api.body = { ...api.body, layers: {} };
    api.version = 2;
    service.edit('b', 'blend', 'Lift', setLift(7));
    await settle();
    expect(said.join()).toContain('"Lift" could not be kept');
    expect(service.saveState()).toBe('Saved');
  });
  it('refuse a strict edit whose new place another window has filled by then, and keep what that did', async () => {
    const service = await make();
    const first = (tile: string) => (d: { paint?: object }) => void (d.paint = { patch: { vertices: 9, finer: 0, tiles: { 0: tile } } });
    api.body = { ...api.body, paint: { patch: { vertices: 9, finer: 0, tiles: { 0: 'theirs' } } } } as never;
    api.version = 2;
    service.draft('b', 'blend', first('ours') as never);
    service.commit('b', 'Paint red', true);
    await settle();
    expect(said.join()).toContain('"Paint red" could not be kept: another window changed the same place (/paint)');
    expect((api.body as { paint?: { patch: { tiles: object } } }).paint?.patch.tiles).toEqual({ 0: 'theirs' });
    expect((service.body('b', 'blend') as { paint?: { patch: { tiles: object } } }).paint?.patch.tiles).toEqual({ 0: 'theirs' });
    // A place that is still free takes it, whatever else has changed.
    said.length = 0;
    api.body = { ...api.body, name: 'Renamed there' };
    api.version++;
    service.draft('b', 'blend', ((d: { paint: Record<string, object> }) => void (d.paint['cube'] = { vertices: 4, finer: 0, tiles: {} })) as never);
    service.commit('b', 'Paint red', true);
    await settle();
    expect(said).toEqual([]);
    expect(Object.keys((api.body as { paint?: object }).paint as object)).toEqual(['patch', 'cube']);
  });
  it('read again what happened before listening began, without losing what is newer here', async () => {
    const service = await make();
    api.body = { ...api.body, name: 'Missed' };
    api.version = 2;
    opened.next(HERE);
    await settle();
    expect(service.body('b', 'blend')?.name).toBe('Missed');
    // The answer to this reading is on its way while an edit is acknowledged.
    const old = structuredClone(api.body);
    api.body = { ...api.body, name: 'Newer' };
    api.version = 3;
    api.whole = async () => {
      await settle(60);
      return [{ id: 'b', kind: 'blend', version: 2, body: old }];
    };
    opened.next(HERE);
    events.next({ type: 'document', id: 'b', kind: 'blend', version: 3, opId: null, patch: [{ op: 'replace', path: '/name', value: 'Newer' }] });
    service.edit('b', 'blend', 'Lift', setLift(8));
    await settle(120);
    expect([lift(service.body('b', 'blend')!), service.saveState()]).toEqual([0.008, 'Saved']);
  });
  it('are not read again when the stream begins again and nothing has changed; as many at a time as may be asked for', async () => {
    const service = await make();
    const read = api.wholes;
    opened.next(HERE);
    await settle();
    expect([api.wholes, service.body('b', 'blend')?.name]).toEqual([read, 'Step']);
    // A large project comes in lots.
    const many = Array.from({ length: 1201 }, (_, i) => `m${i}`);
    const lots: number[] = [];
    const get = api.get;
    api.get = async (path) => (path === '/documents' ? many.map((id) => ({ id, kind: 'blend', version: 1, name: id })) : get(path));
    const post = api.post;
    api.post = async (path, edit) => {
      if (path !== '/documents/whole') return post(path, edit);
      const { ids } = edit as never as { ids: string[] };
      lots.push(ids.length);
      return ids.map((id) => ({ id, kind: 'blend', version: 1, body: { ...start, name: id } }));
    };
    opened.next(HERE);
    await settle(60);
    expect(lots).toEqual([500, 500, 201]);
    expect(
      service
        .list('blend')()
        .map((d) => d.id),
    ).toEqual(many);
  });
  it('lie under what followed them, though the answer to them was lost', async () => {
    const service = await make();
    const post = api.post;
    let lost = 0;
    const edits: { opId: string }[] = [];
    // However late this is told, the retry comes after what it is told.
    let retry: () => void = () => undefined;
    const mayRetry = new Promise<void>((resolve) => (retry = resolve));
    api.post = async (path, edit) => {
      if (path === '/documents/whole') return post(path, edit);
      edits.push(edit as never);
      // A retry is answered with its own version.
      if (edits.length > 1) return mayRetry.then(() => ({ version: 2 }));
      await post(path, edit);
      lost++;
      throw new ApiError({ type: '', title: '', status: 0, code: 'offline', detail: 'offline' }, 0);
    };
    service.edit('b', 'blend', 'Lift', setLift(8));
    await settle();
    expect([lost, service.saveState()]).toEqual([1, 'Offline, 1 edit kept']);
    // Another window lifts it further; both are told here.
    const { patch } = makeEdit(api.body, 'Further', setLift(12));
    events.next({ type: 'document', id: 'b', kind: 'blend', version: 2, opId: edits[0].opId, patch: [] });
    api.body = applyPatch(api.body, patch);
    api.version = 3;
    events.next({ type: 'document', id: 'b', kind: 'blend', version: 3, opId: null, patch });
    await settle();
    expect([lift(service.body('b', 'blend')!), said]).toEqual([0.012, []]);
    retry();
    await settle(1700);
    expect([lift(service.body('b', 'blend')!), said]).toEqual([0.012, []]);
  });
  it('are not put on twice where their answer comes after what followed', async () => {
    const service = await make();
    const post = api.post;
    api.post = async (path, edit) => {
      const answer = await post(path, edit);
      if (path === '/documents/whole') return answer;
      // Meanwhile another window was first to be heard: the document is read anew, with both edits in it.
      api.body = applyPatch(api.body, makeEdit(api.body, 'Further', setLift(12)).patch);
      api.version = 3;
      events.next({ type: 'document', id: 'b', kind: 'blend', version: 3, opId: null, patch: [] });
      await settle();
      return answer;
    };
    service.edit('b', 'blend', 'Lift', setLift(8));
    await settle(80);
    expect([lift(service.body('b', 'blend')!), service.saveState(), said]).toEqual([0.012, 'Saved', []]);
  });
  it('have their steps a page at a time, and read them once for edits that follow one another', async () => {
    const service = await make();
    const asked: string[] = [];
    const step = (version: number) => ({ version, label: `s${version}`, at: '', done: true });
    api.history = (path) => {
      asked.push(path);
      return path.includes('before=7')
        ? { steps: [step(5), step(6)], undo: null, redo: null, more: null }
        : { steps: [step(7), step(8)], undo: 's8', redo: null, more: 7 };
    };
    service.readHistory('b');
    await settle();
    await service.readOlder('b');
    expect(service.history('b').steps.map((s) => s.version)).toEqual([5, 6, 7, 8]);
    expect([service.history('b').undo, service.history('b').more]).toEqual(['s8', null]);
    await service.readOlder('b');
    expect(asked.filter((path) => path.includes('before'))).toEqual(['/documents/b/history?before=7']);
    await settle();
    const before = asked.length;
    for (let i = 0; i < 20; i++) service.readHistory('b');
    await settle();
    expect(asked.length - before).toBe(2);
  });
  it('do not lose one that comes while the list is on its way', async () => {
    const service = await make();
    const get = api.get;
    let first = true;
    api.get = async (path) => {
      const there = path === '/documents' && first ? [] : await get(path);
      if (path === '/documents') first = false;
      await settle(40);
      return there;
    };
    opened.next(HERE);
    events.next({ type: 'created', id: 'b', kind: 'blend' });
    await settle(200);
    expect(service.body('b', 'blend')?.name).toBe('Step');
  });
  it('follow what other windows do, and ignore the echo of their own', async () => {
    const service = await make();
    const edit = makeEdit(start, 'x', (d) => {
      d.name = 'From elsewhere';
    });
    events.next({ type: 'document', id: 'b', kind: 'blend', version: 2, opId: null, patch: edit.patch });
    expect(service.body('b', 'blend')?.name).toBe('From elsewhere');
    events.next({ type: 'deleted', id: 'b', kind: 'blend' });
    expect(service.body('b', 'blend')).toBeUndefined();
  });
});
