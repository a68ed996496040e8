import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { MaskPoint } from '@pebble/core';
import { DEFAULT_BRUSH, NO_CORRECTION, makeBlend, makeCue, makeLayer, makePatch } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { WorkerClient } from '../../../services/worker-client';
import { Accounts } from '../../../stage/accounts';
import { StageScene } from '../../../stage/stage-scene';
import { BlendModel } from '../blend-model';
import { StagePixels } from '../../../stage/stage-pixels';
import { SpecimenMarks } from '../stage/specimen-marks';
import { FlatPane } from '../stage/flat-pane';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { MaskMaking } from './mask-making';
import { MaskPainting } from './mask-painting';
import { PaintRules } from './paint-rules';
import { Painting } from './painting';
import { StageCut } from '../stage/stage-cut';
import { EditedBlend } from '../testing/edited-blend';

const CLAY = { of: 'layers', id: 'clay', cue: 'm' } as const;

/** A blend with one painted mask, and what is pointed at. */
class Model extends EditedBlend {
  readonly pointer = signal<{ u: number; v: number } | null>(null);
  readonly along = signal<number | null>(null);
  readonly cut = signal(null);
  constructor() {
    super(
      makeBlend('Step', {
        extentM: 2,
        layers: { ground: makeLayer('s', 'Stone', 1), clay: makeLayer('c', 'Clay', 2, { coverage: { m: makeCue('painted', {}) } }) },
      }),
    );
  }
  picture = () => (this.blend().layers['clay'].coverage['m'] as { picture: string | null }).picture;
}

describe('a mask under the brush of the flat', () => {
  const settle = async (times = 6) => {
    for (let i = 0; i < times; i++) {
      TestBed.tick();
      await new Promise((resolve) => setTimeout(resolve));
    }
  };
  const make = async () => {
    const model = new Model();
    const calls: [string, unknown][] = [];
    const said: unknown[] = [];
    const shown: string[] = [];
    let made = 0;
    const answers: Record<string, (args: never) => unknown> = {
      open: ({ picture }: { picture: string | null }) => ({ width: 64, height: 64, depth: 8, packed: 'opened', hash: picture ?? 'empty' }),
      stroke: () => ({ shown: { packed: 'under way' }, reached: 9 }),
      keep: () => ({ 3: 'piece' }),
      picture: () => ({ hash: 'even' }),
      restore: () => ({ packed: 'restored', hash: 'restored' }),
      end: () => ({ packed: 'done', hash: `stroke ${++made}` }),
      whole: () => ({ packed: 'whole', hash: `whole ${++made}` }),
    };
    spyOn(WorkerClient.prototype, 'run').and.callFake(((kind: string, args: never) => {
      calls.push([kind, args]);
      return new Promise((resolve, reject) => {
        try {
          const answer = answers[kind]?.(args) ?? null;
          setTimeout(() => resolve(answer as never));
        } catch (error) {
          reject(error as Error);
        }
      });
    }) as never);
    const erasing = signal(false);
    const painting = {
      on: signal(false),
      onMask: signal(false),
      brush: signal({ ...DEFAULT_BRUSH, radiusM: 0.2 }),
      erasing,
      aimed: () => (erasing() ? 'erase' : 'add'),
    };
    const mesh = signal(makePatch(2, 2));
    const itself = signal(true);
    const asked: unknown[] = [];
    // The flat as it is moved, without a stage.
    const scene = Object.assign(Object.create(StageScene.prototype) as StageScene, {
      seen: signal(true),
      flat: signal({ u: 0.5, v: 0.5, span: 1.06 }),
      look: () => undefined as void,
    });
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        MaskPainting,
        MaskMaking,
        FlatPane,
        { provide: StageScene, useValue: scene },
        { provide: BlendModel, useValue: model },
        { provide: Painting, useValue: painting },
        { provide: StageSpecimen, useValue: { ownMesh: mesh, itself, terrain: () => null } },
        {
          provide: PaintRules,
          useValue: {
            limits: async () => null,
            shares: async (...of: unknown[]) => {
              asked.push(of);
              return new Float32Array(64 * 64).fill(0.25);
            },
          },
        },
        { provide: SpecimenMarks, useValue: { pointing: signal(false) } },
        { provide: Accounts, useValue: { onFlat: (u: number) => shown.push(`asked at ${u.toFixed(2)}`) } },
        { provide: StageCut, useValue: { line: () => null } },
        { provide: NoticesService, useValue: { error: (e: unknown) => said.push(e) } },
        {
          provide: StagePixels,
          useValue: {
            maskSide: 32,
            maskSideWith: (side: number) => Math.max(32, side),
            mean: () => 0.25,
            take: (hash: string, packed: unknown) => shown.push(`${hash}: ${String(packed)}`),
            patchFor: (hash: string, regions: unknown, side: number) => shown.push(`${hash} patched at ${side}: ${String(regions)}`),
            showFor: (hash: string, packed: unknown) => shown.push(`${hash} for now: ${String(packed)}`),
          },
        },
      ],
    });
    const masks = TestBed.inject(MaskPainting);
    await settle();
    const down = (type: string, x: number, over: PointerEventInit = {}) => new PointerEvent(type, { pointerId: 3, clientX: x, clientY: 0, ...over });
    const press = (x: number, over: PointerEventInit = {}) => masks.press(down('pointerdown', x, over), (e) => ({ u: e.clientX / 100, v: 0.5 }));
    const points = () => calls.filter(([k]) => k === 'stroke').flatMap(([, a]) => (a as { points: MaskPoint[] }).points);
    return { model, masks, painting, mesh, itself, asked, calls, said, shown, answers, press, down, points, scene, flat: TestBed.inject(FlatPane) };
  };

  it('begins an empty one where there is none, and says what a dab reaches', async () => {
    const { model, masks, painting } = await make();
    expect(masks.wells()).toEqual([jasmine.objectContaining({ key: 'layers/clay/m', feeds: ['Clay'], share: 0 })]);
    expect(masks.active()).toBeFalse();
    masks.take(CLAY);
    expect([painting.on(), masks.active(), masks.waiting()]).toEqual([true, true, true]);
    await settle();
    expect([model.picture(), masks.waiting()]).toEqual(['empty', false]);
    expect(model.steps).toEqual(['Clay: an empty mask']);
    expect(masks.density()).toEqual({ enough: true, say: '64 × 64 pixels of 8 bits over 2.00 m, about 129 in a dab' });
    painting.brush.set({ ...DEFAULT_BRUSH, radiusM: 0.01 });
    expect(masks.density()).toEqual({
      enough: false,
      say: '64 × 64 pixels of 8 bits over 2.00 m, less than one in a dab: too few, use a wider brush or more pixels',
    });
  });
  it('shows a stroke while it is made, and makes one step of it', async () => {
    const { model, masks, shown, press, down, points, calls } = await make();
    masks.take(CLAY);
    await settle();
    press(10);
    dispatchEvent(down('pointermove', 20));
    await settle();
    expect(shown).toContain('empty for now: under way');
    dispatchEvent(down('pointermove', 30));
    dispatchEvent(down('pointerup', 30));
    await settle();
    expect(points().map((p) => p.u)).toEqual([0.1, 0.2, 0.3]);
    expect(calls.find(([k]) => k === 'begin')?.[1]).toEqual(jasmine.objectContaining({ aim: 'add', limit: null }));
    expect([model.picture(), model.steps.at(-1)]).toEqual(['stroke 1', 'Clay: paint its mask']);
    expect(shown.slice(-2)).toEqual(['stroke 1: done', 'empty for now: null']);
    expect(masks.waiting()).toBeFalse();
  });
  it('makes a step of each of two strokes, though the first one is still kept', async () => {
    const { model, masks, painting, press, down } = await make();
    masks.take(CLAY);
    await settle();
    press(10, { pointerType: 'pen', pressure: 0.5 });
    dispatchEvent(down('pointerup', 10));
    painting.erasing.set(true);
    press(50);
    dispatchEvent(down('pointerup', 50));
    await settle(12);
    expect(model.steps.slice(1)).toEqual(['Clay: paint its mask', 'Clay: erase from its mask']);
    expect(model.picture()).toBe('stroke 2');
    expect(masks.keeping()).toBeFalse();
  });
  it('leaves everything as it was when a gesture of the system cuts a stroke off; what a pen painted before it was lost stays', async () => {
    const { model, masks, shown, press, down, calls } = await make();
    masks.take(CLAY);
    await settle();
    press(10, { pointerType: 'touch' });
    dispatchEvent(down('pointercancel', 10));
    await settle();
    expect(calls.at(-1)?.[0]).toBe('lost');
    expect(shown.at(-1)).toBe('empty for now: null');
    expect([model.picture(), model.steps.length]).toEqual(['empty', 1]);
    press(10, { pointerType: 'pen', pressure: 0.5 });
    dispatchEvent(down('pointercancel', 10));
    await settle();
    expect([model.picture(), model.steps.at(-1)]).toEqual(['stroke 1', 'Clay: paint its mask']);
  });
  it('begins again from what there is when a stroke could not be kept, and hears one hand at a time', async () => {
    const { model, masks, said, answers, press, down, calls } = await make();
    masks.take(CLAY);
    await settle();
    press(10);
    press(60, { pointerId: 4 });
    await settle(1);
    expect(calls.filter(([k]) => k === 'begin').length).toBe(1);
    answers['end'] = () => {
      throw new Error('The server does not take what was painted (413). Reload the page');
    };
    dispatchEvent(down('pointerup', 10));
    await settle(10);
    expect(String(said)).toContain('(413)');
    expect([model.picture(), model.steps.length]).toEqual(['empty', 1]);
    expect(calls.filter(([k]) => k === 'open').map(([, a]) => (a as { picture: string | null }).picture)).toEqual([null, 'empty']);
    expect(masks.waiting()).toBeFalse();
  });
  it('ends a stroke that the worker fails at, shows what there was, and paints the next one', async () => {
    const { model, masks, said, shown, answers, press, down, calls } = await make();
    masks.take(CLAY);
    await settle();
    const works = answers['stroke'];
    answers['stroke'] = () => {
      throw new Error('The worker stopped');
    };
    press(10);
    await settle();
    dispatchEvent(down('pointermove', 20));
    dispatchEvent(down('pointerup', 20));
    await settle(10);
    expect(said.map(String)).toEqual(['Error: The worker stopped']);
    expect(shown.at(-1)).toBe('empty for now: null');
    expect(calls.filter(([k]) => k === 'stroke').length).toBe(1);
    answers['stroke'] = works;
    press(30);
    dispatchEvent(down('pointerup', 30));
    await settle(10);
    expect([model.picture(), model.steps.at(-1)]).toEqual(['stroke 1', 'Clay: paint its mask']);
  });
  it('paints with a press right after an undo, once it has the mask again, on what was made ready before', async () => {
    const { model, masks, press, down, calls, points } = await make();
    masks.take(CLAY);
    await settle();
    press(10);
    dispatchEvent(down('pointerup', 10));
    await settle();
    expect(model.picture()).toBe('stroke 1');
    // As an undo, or another window, does it.
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { picture: 'empty' }));
    expect([masks.waiting(), masks.takes()]).toEqual([true, true]);
    press(40);
    dispatchEvent(down('pointermove', 50));
    dispatchEvent(down('pointerup', 50));
    for (let i = 0; i < 40 && model.picture() !== 'stroke 2'; i++) await settle();
    expect(model.picture()).toBe('stroke 2');
    expect(points().map((p) => p.u)).toEqual([0.1, 0.4, 0.5]);
    const order = calls.map(([kind]) => kind).filter((kind) => kind !== 'stroke');
    expect(order).toEqual(['open', 'begin', 'end', 'open', 'begin', 'end']);
    const forms = calls.filter(([kind]) => kind === 'open').map(([, args]) => (args as { form: number }).form);
    expect(forms[1]).toBe(forms[0]);
    // A mask that the brush has not had yet turns the picture as before.
    masks.path.set(null);
    expect(masks.takes()).toBeFalse();
  });
  it('takes up another picture when it is undone, and lets go of one that cannot be read', async () => {
    const { model, masks, said, answers, calls } = await make();
    masks.take(CLAY);
    await settle();
    await masks.whole({ what: 'invert' });
    await masks.dab({ u: 0.5, v: 0.5 });
    expect(model.steps.slice(1)).toEqual(['Clay: invert its mask', 'Clay: paint its mask']);
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { picture: 'before' }));
    await settle();
    expect(calls.filter(([k]) => k === 'open').map(([, a]) => (a as { picture: string | null }).picture)).toEqual([null, 'before']);
    expect(masks.waiting()).toBeFalse();
    answers['open'] = () => {
      throw new Error('What is shown here could not be fetched (404). Reload the page');
    };
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { picture: 'gone' }));
    await settle();
    expect(String(said)).toContain('could not be fetched');
    expect([masks.path(), masks.active()]).toEqual([null, false]);
  });
  it('is seen under the brush at its true size, moved by keys and painted with Enter', async () => {
    const { model, masks, flat, points, scene } = await make();
    flat.size.set({ width: 400, height: 200 });
    flat.view.set({ u: 0.5, v: 0.5, span: 1 });
    model.pointer.set({ u: 0.25, v: 0.5 });
    expect(flat.ring()).toBeNull();
    masks.take(CLAY);
    await settle();
    expect(flat.ring()).toEqual({ x: 100, y: 100, r: 40 });
    const moved = jasmine.createSpy('moved');
    scene.look = moved;
    const pane = document.createElement('div');
    pane.addEventListener('keydown', (e) => flat.key(e));
    const key = (name: string) => pane.dispatchEvent(new KeyboardEvent('keydown', { key: name }));
    key('ArrowRight');
    key('ArrowUp');
    expect(moved).toHaveBeenCalledTimes(2);
    expect(flat.view()).toEqual({ u: 0.55, v: 0.45, span: 1 });
    key('Enter');
    await settle();
    expect(points()).toEqual([jasmine.objectContaining({ u: 0.55, v: 0.45, pressure: 1 })]);
    expect(model.steps.at(-1)).toBe('Clay: paint its mask');
  });
  it('moves the flat with Shift or another button, and asks about a place where it is not out', async () => {
    const { masks, flat, shown, points, down } = await make();
    const pane = document.createElement('div');
    Object.assign(pane.style, { position: 'fixed', left: '0', top: '0', width: '400px', height: '200px' });
    document.body.append(pane);
    pane.addEventListener('pointerdown', (e) => flat.press(e));
    flat.size.set({ width: 400, height: 200 });
    const drag = (over: PointerEventInit, by: number) => {
      pane.dispatchEvent(down('pointerdown', 100, over));
      dispatchEvent(down('pointermove', 100 + by));
      dispatchEvent(down('pointerup', 100 + by));
    };
    masks.take(CLAY);
    await settle();
    const { u } = flat.view();
    drag({ shiftKey: true }, 40);
    drag({ button: 1 }, 40);
    await settle();
    expect(flat.view().u).toBeLessThan(u - 0.15);
    expect(points()).toEqual([]);
    drag({}, 40);
    await settle();
    expect(points().length).toBe(2);
    masks.path.set(null);
    drag({}, 0);
    expect(shown.at(-1)).toMatch(/^asked at /);
    pane.remove();
  });
  it('lies on the mesh where its cue says so: a stroke where that is met, a turn of the picture beside it', async () => {
    const { model, masks, mesh, itself, calls, answers, shown, down } = await make();
    const turned: number[] = [];
    const on = {
      place: (e: PointerEvent) => ({ x: e.clientX / 100, y: 0.5 }),
      sight: () => ({ eye: { yaw: 0, pitch: 0, distance: 1, target: [0, 0, 0] as [number, number, number], field: 1 }, aspect: 1 }),
      turn: (dx: number) => turned.push(dx),
    };
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { set: 1 }));
    masks.take(CLAY);
    await settle();
    expect([masks.onMesh(), masks.onFlat(), masks.waiting()]).toEqual([true, false, false]);
    // What stands in for a mesh that is still read is not painted on.
    itself.set(false);
    expect(masks.waiting()).toBeTrue();
    itself.set(true);
    const ground = (calls.find(([k]) => k === 'open')?.[1] as { ground: { mesh: { uv: Float32Array; position: Float32Array } } }).ground;
    expect(ground.mesh.position).toBe(mesh().position);
    expect(ground.mesh.uv).toBe(mesh().texcoord);
    expect(masks.density().say).toContain('by UV set 1');
    answers['stroke'] = () => ({ shown: { regions: 'some', side: 32 }, reached: 4 });
    masks.pressOnMesh(down('pointerdown', 10), on);
    dispatchEvent(down('pointermove', 20));
    await settle();
    dispatchEvent(down('pointerup', 20));
    await settle();
    expect([model.picture(), turned]).toEqual(['stroke 1', []]);
    expect(shown).toContain('empty patched at 32: some');
    answers['stroke'] = () => ({ shown: { regions: [] }, reached: null });
    masks.pressOnMesh(down('pointerdown', 50), on);
    await settle();
    dispatchEvent(down('pointermove', 60));
    dispatchEvent(down('pointerup', 60));
    await settle();
    expect(turned).toEqual([10]);
    expect([model.picture(), calls.at(-1)?.[0]]).toEqual(['stroke 1', 'lost']);
    // Another mesh is another ground.
    mesh.set(makePatch(2, 3));
    await settle();
    expect(calls.filter(([k]) => k === 'open').length).toBe(2);
  });
  it('brings a stroke back that a reload cut off, as far as it was kept', async () => {
    sessionStorage.setItem(
      'pebble-open-mask',
      JSON.stringify({ blend: 'other', path: CLAY, picture: 'there', what: 'paint its mask', pieces: { 3: 'piece' } }),
    );
    const { model, calls, shown, painting } = await make();
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { picture: 'there' }));
    await settle();
    // It belongs to another blend, and waits for that.
    expect(calls).toEqual([]);
    sessionStorage.setItem(
      'pebble-open-mask',
      JSON.stringify({ blend: model.id(), path: CLAY, picture: 'there', what: 'paint its mask', pieces: { 3: 'piece' } }),
    );
    model.draft((d) => void (d.name = 'Looked at again'));
    await settle();
    expect(calls.find(([k]) => k === 'restore')?.[1]).toEqual({ pieces: { 3: 'piece' } });
    expect([model.picture(), model.steps.at(-1)]).toEqual(['restored', 'Clay: paint its mask, as far as it was kept']);
    expect(shown).toContain('restored: restored');
    expect([painting.on(), sessionStorage.getItem('pebble-open-mask')]).toEqual([false, null]);
  });
  it('keeps a long stroke on the way, so that it can be brought back', async () => {
    const { model, masks, press, down } = await make();
    masks.take(CLAY);
    await settle();
    press(10);
    await new Promise((resolve) => setTimeout(resolve, 300));
    dispatchEvent(down('pointermove', 20));
    await settle(10);
    expect(JSON.parse(sessionStorage.getItem('pebble-open-mask') ?? 'null')).toEqual({
      blend: model.id(),
      path: CLAY,
      picture: 'empty',
      what: 'paint its mask',
      pieces: { 3: 'piece' },
    });
    dispatchEvent(down('pointerup', 20));
    await settle(10);
    expect([model.picture(), sessionStorage.getItem('pebble-open-mask')]).toEqual(['stroke 1', null]);
  });
  it('ends a stroke upon what another window painted meanwhile, and takes nothing else up before', async () => {
    const { model, masks, press, down, calls } = await make();
    masks.take(CLAY);
    await settle();
    press(10);
    await settle();
    model.draft((d) => Object.assign(d.layers['clay'].coverage['m'], { picture: 'theirs' }));
    await settle();
    expect(calls.filter(([k]) => k === 'open').length).toBe(1);
    dispatchEvent(down('pointerup', 10));
    await settle(10);
    expect(calls.find(([k]) => k === 'end')?.[1]).toEqual({ onto: 'theirs' });
    expect([model.picture(), masks.waiting()]).toEqual(['stroke 1', false]);
    // One that nobody came between ends by itself.
    press(10);
    dispatchEvent(down('pointerup', 10));
    await settle(10);
    expect(calls.filter(([k]) => k === 'end').at(-1)?.[1]).toEqual({ onto: null });
  });
  it('begins a correction where nothing is corrected, and puts a rule into paint in one step', async () => {
    const { model, masks, calls, asked } = await make();
    const making = TestBed.inject(MaskMaking);
    await making.add('clay', 1, 'corrected');
    await settle(10);
    const cues = () => Object.values(model.blend().layers['clay'].coverage);
    expect(cues().at(-1)).toEqual(jasmine.objectContaining({ kind: 'painted', join: 'corrected', set: 1, shape: 'straight', picture: 'even' }));
    expect(calls.find(([k]) => k === 'picture')?.[1]).toEqual(jasmine.objectContaining({ values: NO_CORRECTION }));
    expect(model.steps).toEqual(['Clay: paint over its rule']);
    const steps = model.steps.length;
    await making.copyRule();
    await settle(10);
    expect(asked).toEqual([[jasmine.any(Object), 'clay', null]]);
    expect(cues()).toEqual([jasmine.objectContaining({ kind: 'painted', join: 'and', picture: 'whole 1' })]);
    expect(model.steps.length).toBe(steps + 1);
    // At another size what was painted goes along.
    await masks.resize({ side: 2048, depth: 16 });
    expect(calls.filter(([k]) => k === 'open').at(-1)?.[1]).toEqual(jasmine.objectContaining({ picture: 'whole 1', side: 2048, depth: 16 }));
  });
});
