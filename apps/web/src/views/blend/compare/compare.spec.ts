import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Account, BlendDocument, Places } from '@pebble/core';
import { makeBlend, makeLayer, makeSpecimen } from '@pebble/core';
import { ApiService } from '../../../services/api.service';
import { NoticesService } from '../../../services/notices.service';
import { Accounts } from '../../../stage/accounts';
import { StageSource } from '../../../stage/stage-source';
import { BlendModel } from '../blend-model';
import { Compare } from './compare';
import { Pointing } from '../../../stage/pointing';
import { AssetModel } from '../../../stage/asset-model';
import { StageSpecimen } from '../../../stage/stage-specimen';

const blend = makeBlend('Step', { extentM: 2, layers: { a: makeLayer('s', 'Stone', 1), b: makeLayer('m', 'Moss', 2) } });

describe('comparing two states', () => {
  const viewed = signal<BlendDocument | null>(null);
  const asked: string[] = [];
  const said: unknown[] = [];
  const remembered: string[] = [];
  const make = (get: (path: string) => Promise<unknown>) => {
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        Compare,
        { provide: BlendModel, useValue: { id: signal('b'), blend: signal(blend), viewed } },
        { provide: ApiService, useValue: { get: (path: string) => (asked.push(path), get(path)) } },
        { provide: NoticesService, useValue: { error: (e: unknown) => said.push(e) } },
        { provide: Accounts, useValue: { remember: async () => void remembered.push(viewed()?.name ?? 'now') } },
      ],
    });
    const compare = TestBed.inject(Compare);
    const canvas = Object.assign(document.createElement('canvas'), { width: 8, height: 4 });
    canvas.style.cssText = 'width: 8px; height: 4px';
    document.body.append(canvas);
    // The stage draws green while another state is viewed, and red otherwise.
    const settled = async () => {
      const context = canvas.getContext('2d')!;
      context.fillStyle = viewed() ? '#00ff00' : '#ff0000';
      context.fillRect(0, 0, 8, 4);
    };
    compare.use({ settled }, canvas, () => 0.3);
    return compare;
  };
  afterEach(() => document.querySelectorAll('canvas').forEach((c) => c.remove()));

  it('shows the same without a layer for a moment, then the present one again, and measures', async () => {
    const compare = make(async () => null);
    await compare.begin({ label: 'without Moss', without: 'b' });
    expect(viewed()).toBeNull();
    // The wipe begins where the object is seen.
    expect(compare.wipe()).toBe(0.3);
    const taken = compare.taken()!;
    expect(taken.most).toBe(255);
    expect(taken.mean).toBeCloseTo((255 * 2) / 3, 6);
    expect([...taken.picture.data.subarray(0, 3)]).toEqual([0, 255, 0]);
    compare.stale();
    expect(compare.taken()).toBeNull();
    compare.end();
    expect(compare.active()).toBeFalse();
  });
  it('compares any two earlier states: pinned places are told at the left, and the present one is seen again', async () => {
    const compare = make(async (path) => ({ body: { ...blend, name: path } }));
    const shown: (string | null)[] = [];
    const { settled } = compare['stage']!.remote;
    compare['stage']!.remote.settled = async () => (shown.push(viewed()?.name ?? null), settled());
    remembered.length = 0;
    await compare.begin({ label: 'before', version: 3 });
    await compare.against({ label: 'after', version: 5 });
    expect(shown).toEqual(['/documents/b/at/3', null, '/documents/b/at/3', '/documents/b/at/5']);
    expect(remembered).toEqual(['/documents/b/at/3', '/documents/b/at/3']);
    // The stage draws both alike.
    expect(compare.taken()?.most).toBe(0);
    expect(viewed()).toBeNull();
    await compare.against(null);
    expect(compare.taken()?.most).toBe(255);
    compare.end();
    expect(compare.right()).toBeNull();
  });
  it('asks for the blend as it was, and says what went wrong without staying half way', async () => {
    const compare = make(async () => ({ body: blend }));
    await compare.begin({ label: 'before', version: 3 });
    expect(asked.at(-1)).toBe('/documents/b/at/3');
    expect(compare.taken()).not.toBeNull();
    compare.end();
    TestBed.resetTestingModule();
    const failing = make(async () => Promise.reject(new Error('gone')));
    await failing.begin({ label: 'before', version: 3 });
    expect(String(said.at(-1))).toContain('gone');
    expect(failing.active()).toBeFalse();
    expect(viewed()).toBeNull();
  });
});

describe('accounts of places', () => {
  it('are asked of the stage, pinned to be compared, and handed to whoever waits for a place', async () => {
    const account = (share: number) => ({ layers: [{ id: 'a', share }], result: {} }) as unknown as Account;
    let share = 0.4;
    const asked: Places[] = [];
    const stack = signal<object>({});
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        Accounts,
        Pointing,
        { provide: StageSource, useValue: { id: signal('b'), material: stack, slots: signal({}), body: signal(blend) } },
        { provide: AssetModel, useValue: { slotsWith: () => [] } },
        {
          provide: StageSpecimen,
          useValue: {
            mesh: signal(makeSpecimen('patch', 2)),
            standing: signal({ groundM: 0, parts: [] }),
            ground: signal({ along: () => ({ normal: new Float32Array(3) }) }),
            slotAt: () => null,
            placeText: () => 'stone',
            pointedAt: () => undefined,
          },
        },
      ],
    });
    const accounts = TestBed.inject(Accounts);
    accounts.stage.set({ account: async ({ places }) => (asked.push(places), account(share)) });
    const rest = () => new Promise((r) => setTimeout(r, 30));
    accounts.onFlat(0.5, 0.25, 0.001);
    await rest();
    expect(accounts.shown().map((s) => s.name)).toEqual(['flat, stone, 1.00 · 0.50 m']);
    expect([...asked[0].texcoord]).toEqual([0.5, 0.25]);
    accounts.pin(0);
    share = 0.9;
    stack.set({});
    await rest();
    const [pinned] = accounts.shown();
    expect([pinned.before?.layers[0].share, pinned.account.layers[0].share]).toEqual([0.4, 0.9]);
    // Somebody waits for a place: no account is opened for it.
    let taken: Account | null = null;
    TestBed.inject(Pointing).begin('Click', (a) => (taken = a));
    accounts.onFlat(0.1, 0.1, 0.001);
    await rest();
    expect(taken).not.toBeNull();
    expect(accounts.shown().length).toBe(1);
    accounts.clear();
    await rest();
    expect(accounts.shown()).toEqual([]);
  });
});
