import type { Type } from '@angular/core';
import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import type { JobView } from '@pebble/contracts';
import type { BlendDocument, SurfaceDocument, LayerLaying } from '@pebble/core';
import {
  DEFAULT_CONSTANT,
  DEFAULT_WATER,
  MaterialPrograms,
  SPECIMEN_MODELS,
  blendMaterial,
  constantOf,
  inOrder,
  makeBlend,
  makeCue,
  makeLayer,
  makeSpecimen,
  makeStack,
  partNames,
} from '@pebble/core';
import { blendSurfaces } from '@pebble/usecases';
import { ApiService } from '../../services/api.service';
import { ComputeService } from '../../services/compute.service';
import { MeshService } from '../../services/mesh.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { BakeCard } from './bake-card';
import { AssetModel } from '../../stage/asset-model';
import { BlendModel } from './blend-model';
import { CoverageTarget } from './coverage-target';
import { CueCard } from './sentence/cue-card';
import { CueLooks } from './sentence/cue-look';
import { IdCard } from './layers/id-card';
import { LayerCard } from './layers/layer-card';
import { MaskPainting } from './brush/mask-painting';
import { Repeats } from './stage/repeats';
import { Pointing } from '../../stage/pointing';
import { Prices } from './prices';
import { StageSpecimen } from '../../stage/stage-specimen';

const surface = (name: string, maps: object = { baseColor: {}, height: {} }): SurfaceDocument =>
  ({
    kind: 'surface',
    version: 1,
    name,
    sizeM: 0.8,
    reliefM: 0.04,
    mid: 0.5,
    maps,
    thumbnail: null,
    tone: '#556633',
    generator: null,
    notes: [],
  }) as SurfaceDocument;
const stage = { blob: 'a'.repeat(64), width: 4, height: 4, channels: 3, depth: 8 } as const;

/** The model's face, on a document in memory. */
class FakeModel {
  doc = signal<BlendDocument>(
    makeBlend('Step', {
      extentM: 2.4,
      layers: {
        a: makeLayer('s', 'Stone', 1),
        b: makeLayer('m', 'Moss', 2, { coverage: { n: makeCue('noise', { order: 1 }), v: makeCue('vertexColour', { order: 2 }) } }),
        w: makeLayer({ kind: 'water', ...DEFAULT_WATER }, 'Puddle', 3),
        c: makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, 'Whitewash', 4),
      },
    }),
  );
  steps: string[] = [];
  id = signal('blend');
  selectedId = signal<string | null>('b');
  blend = this.doc.asReadonly();
  blends = signal<Record<string, BlendDocument>>({});
  surfaces = signal<Record<string, SurfaceDocument>>({
    s: surface('Stone'),
    m: surface('Moss', { height: {}, normal: { channels: 3 }, id: { stage } }),
  });
  layers = () => inOrder(this.doc().layers);
  selected = () => this.doc().layers[this.selectedId() ?? ''] ?? null;
  groundId = () => 'a';
  known = () => blendSurfaces(this.surfaces());
  shape = () => JSON.stringify(this.doc());
  shaped = () => ({ material: blendMaterial(makeStack(this.doc(), this.known())) });
  programs = new MaterialPrograms();
  material = signal(null);
  stack = signal(null);
  sources = signal(null);
  nameOf = (id: string) => this.surfaces()[id]?.name ?? id;
  draft = (change: (d: BlendDocument) => void) => {
    const next = structuredClone(this.doc());
    change(next);
    this.doc.set(next);
  };
  commit = (label: string) => void this.steps.push(label);
  edit = (label: string, change: (d: BlendDocument) => void) => {
    this.draft(change);
    this.commit(label);
  };
}

const USUAL_LAYING: Required<LayerLaying> = {
  turns: { atM: 1.5, seed: 1 },
  cells: { atM: 0.75, turn: 180, seed: 1 },
  macro: { by: 0.2, atM: 5, seed: 1 },
  far: { times: 6, fromM: 20, toM: 60 },
  sides: true,
};

describe('cards of the blend view', () => {
  let model: FakeModel;
  let jobs: { started: [string, unknown, string][]; cancelled: string[]; job: ReturnType<typeof signal<JobView | undefined>> };
  let onto = 'copper-still';
  let overlapping: { message: string; picture: null } | null = null;
  const said: unknown[] = [];
  const taken: unknown[] = [];
  const make = async <T>(component: Type<T>, inputs: Record<string, unknown> = {}) => {
    model = new FakeModel();
    jobs = { started: [], cancelled: [], job: signal<JobView | undefined>(undefined) };
    const parts = partNames(SPECIMEN_MODELS['copper-still'](1));
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        { provide: BlendModel, useValue: model },
        { provide: AssetModel, useValue: { slotsWith: () => [], body: () => null, slots: () => [], id: () => null } },
        {
          provide: StageSpecimen,
          useValue: {
            parts: signal(parts),
            mesh: signal(makeSpecimen('copper-still', 1)),
            terrain: () => null,
            refusal: signal(null),
            name: signal(onto),
            place: signal({ slot: 'surface' }),
          },
        },
        {
          provide: DocumentsService,
          useValue: { list: (kind: string) => signal(kind === 'master' ? [] : [{ id: 'still', body: { name: 'Still' } }]) },
        },
        {
          provide: JobsService,
          useValue: {
            job: (id: string | null) => (id ? jobs.job() : undefined),
            start: async (kind: string, request: unknown, document: string) => (jobs.started.push([kind, request, document]), { id: 'job' }),
            cancel: (id: string) => jobs.cancelled.push(id),
          },
        },
        { provide: MeshService, useValue: { run: async () => overlapping } },
        {
          provide: ComputeService,
          useValue: {
            run: async () => [
              { id: '#ff0000', share: 0.7, merged: 0 },
              { id: '#0000ff', share: 0.2999, merged: 2 },
              { id: '#00ff00', share: 0.0001, merged: 0 },
            ],
          },
        },
        {
          provide: ApiService,
          useValue: {
            upload: async (files: File[]) => [
              {
                blob: files[0].name.endsWith('.png') ? 'f'.repeat(64) : null,
                width: 8,
                problem: files[0].name.endsWith('.png') ? null : `${files[0].name}: no image`,
              },
            ],
            // The mask of an uploaded file is made by the server.
            post: async (path: string) => ({ hash: path === `/blobs/${'f'.repeat(64)}/grey` ? 'b'.repeat(64) : '' }),
          },
        },
        {
          provide: Repeats,
          useValue: {
            usual: () => USUAL_LAYING,
            chosen: () => ({
              distances: [2],
              plain: { 2: 0.6 },
              now: { 2: 0.6 },
              would: { turns: { 2: 0.2 }, macro: { 2: 0.599 }, cells: { 2: null } },
            }),
          },
        },
        { provide: MaskPainting, useValue: { take: (path: unknown) => taken.push(path) } },
        { provide: NoticesService, useValue: { error: (e: unknown) => said.push(e) } },
        { provide: Router, useValue: { navigate: async () => true } },
        CoverageTarget,
        CueLooks,
        Prices,
        Pointing,
      ],
    });
    const fixture = TestBed.createComponent(component);
    for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
    await fixture.whenStable();
    return { fixture, root: fixture.nativeElement as HTMLElement, view: fixture.componentInstance };
  };
  const choose = (root: HTMLElement, label: string, value: string) => {
    const select = root.querySelector<HTMLSelectElement>(`[aria-label="${label}"]`)!;
    select.value = value;
    select.dispatchEvent(new Event('change'));
  };

  it('of a layer: its mode, tint and channels, a named step each; what costs says so before', async () => {
    const { root, view, fixture } = await make(LayerCard);
    // Prices are worked out between other things.
    for (let i = 0; i < 100 && root.textContent?.includes('…'); i++) {
      await new Promise((r) => setTimeout(r, 20));
      await fixture.whenStable();
    }
    expect(root.textContent).toContain('+3 ops');
    expect(root.textContent).toContain('Snapped to 0.80 m a repetition');
    choose(root, 'Colour mode', 'screen');
    view.setTint('#ff8000');
    view.touch('roughness', false);
    expect(model.selected()).toEqual(jasmine.objectContaining({ mode: 'screen', untouched: { roughness: true } }));
    expect(model.selected()!.look.tint).toBe('#ff8000');
    view.touch('roughness', true);
    expect(model.selected()!.untouched).toEqual({});
    expect(model.steps).toEqual(['Moss: colour mode', 'Moss: tint', 'Moss: leave roughness as it is', 'Moss: touch roughness']);
    model.draft((d) => (d.layers['b'].look.turn = 40));
    await fixture.whenStable();
    // Three repetitions at 40° are (2.30, 1.93): the whole numbers (2, 2) are nearest.
    expect(root.textContent).toContain('turned 45.0°');
  });
  it('of a surface: how it hides that it repeats, each with its price and what it makes of that before it is chosen', async () => {
    const { root, fixture } = await make(LayerCard);
    for (let i = 0; i < 100 && root.textContent?.includes('…'); i++) {
      await new Promise((r) => setTimeout(r, 20));
      await fixture.whenStable();
    }
    expect(root.textContent).toContain('Seen from 2 m it repeats 0.60');
    expect(root.textContent).toMatch(/takes turns with itself\s*\+\d+ samples?, \+\d+ ops\s*repeats 0\.60 → 0\.20/);
    // What changes nothing says nothing.
    expect(root.textContent).not.toContain('0.60 → 0.60');
    expect(root.textContent).toMatch(/lighter and darker in patches\s*\+\d+ ops/);
    const steps = model.steps.length;
    const boxes = () => [...root.querySelectorAll<HTMLInputElement>('pb-layer-laying input[type=checkbox]')];
    const press = async (on: boolean) => {
      for (let k = 0; k < Object.keys(USUAL_LAYING).length; k++) {
        expect(boxes()[k].checked).toBe(!on);
        boxes()[k].click();
        await fixture.whenStable();
      }
    };
    await press(true);
    expect(model.selected()!.laying).toEqual(USUAL_LAYING);
    expect(root.textContent).toContain('now 0.60');
    // Each says what it is made of.
    for (const word of ['patches of', 'cells of', 'turned by', 'times', 'from', 'to']) expect(root.textContent).toContain(word);
    await press(false);
    // As it was: what is usual is not said.
    expect('laying' in model.selected()!).toBeFalse();
    expect(model.steps.length - steps).toBe(10);
  });
  it('of water and constant values show what these have, and no more', async () => {
    const { root, view, fixture } = await make(LayerCard);
    model.selectedId.set('w');
    await fixture.whenStable();
    expect(root.textContent).not.toContain('Tint');
    expect(root.textContent).toContain('Touches');
    model.selectedId.set('c');
    await fixture.whenStable();
    expect(root.querySelector('[aria-label="Base colour"]')).not.toBeNull();
    view.setConstant('#123456');
    expect(constantOf(model.selected()!)!.baseColor).toBe('#123456');
    model.selectedId.set('a');
    await fixture.whenStable();
    expect(root.textContent).not.toContain('Touches');
  });

  it('of a cue: what it looks at, its shape and order; another kind keeps how it joins', async () => {
    const { root, view, fixture } = await make(CueCard, { cueId: 'v' });
    const cue = () => model.doc().layers['b'].coverage['v'];
    choose(root, 'Channel', 'g');
    choose(root, 'Shape of the ramp', 'straight');
    view.own('turn a cue round', { inverted: true });
    expect(cue()).toEqual(makeCue('vertexColour', { order: 2, channel: 'g', shape: 'straight', inverted: true }));
    root.querySelectorAll<HTMLButtonElement>('.row .pill')[0].click();
    expect(
      Object.entries(model.doc().layers['b'].coverage)
        .sort((a, b) => a[1].order - b[1].order)
        .map(([id]) => id),
    ).toEqual(['v', 'n']);
    choose(root, 'What the cue looks at', 'mask');
    await fixture.whenStable();
    choose(root, 'Map', 'm/normal');
    await fixture.whenStable();
    expect(cue()).toEqual(jasmine.objectContaining({ kind: 'mask', surface: 'm', role: 'normal', channel: 0 }));
    choose(root, 'Channel of the map', '2');
    expect(cue()).toEqual(jasmine.objectContaining({ channel: 2 }));
    choose(root, 'What the cue looks at', 'part');
    await fixture.whenStable();
    choose(root, 'Part', 'stand');
    expect(cue()).toEqual(jasmine.objectContaining({ kind: 'part', part: 'stand' }));
    view.remove();
    expect(Object.keys(model.doc().layers['b'].coverage)).toEqual(['n']);
  });
  it('of a painted cue take a picture, and say what is none without changing anything', async () => {
    const { view } = await make(CueCard, { cueId: 'v' });
    view.become('painted');
    const files = (name: string) => [new File(['x'], name)] as unknown as FileList;
    await view.bring(files('mask.png'));
    expect(model.doc().layers['b'].coverage['v']).toEqual(jasmine.objectContaining({ kind: 'painted', picture: 'b'.repeat(64) }));
    const steps = model.steps.length;
    await view.bring(files('notes.txt'));
    expect(String(said.at(-1))).toContain('notes.txt: no image');
    expect(model.steps.length).toBe(steps);
    await view.bring(null);
    expect(view.sending()).toBeFalse();
    view.paint();
    expect(taken).toEqual([{ of: 'layers', id: 'b', cue: 'v' }]);
  });

  it('of IDs: parts with their shares become layers in one step', async () => {
    const { root, view } = await make(IdCard);
    expect([...root.querySelectorAll('.ids b')].map((b) => b.textContent)).toEqual(['body', 'lid', 'stand', 'pipe']);
    view.choose('body', 'm');
    view.choose('stand', 's');
    view.make();
    const made = model.layers().slice(-2);
    expect(made.map((l) => l.name)).toEqual(['Moss on body', 'Stone on stand']);
    expect(made.map((l) => Object.values(l.coverage)[0])).toEqual([makeCue('part', { part: 'body' }), makeCue('part', { part: 'stand' })]);
    expect(model.steps).toEqual(['Surfaces by parts']);
  });
  it('of IDs: colours of a map, the rare ones told but not listed', async () => {
    const { root, view, fixture } = await make(IdCard);
    choose(root, 'What tells them apart', 'm');
    await fixture.whenStable();
    await new Promise((r) => setTimeout(r));
    await fixture.whenStable();
    expect([...root.querySelectorAll('.ids b')].map((b) => b.textContent)).toEqual(['#ff0000', '#0000ff']);
    expect(root.textContent).toContain('1 more colours under one in a thousand');
    view.choose('#0000ff', 's');
    view.make();
    expect(Object.values(model.layers().at(-1)!.coverage)[0]).toEqual(makeCue('id', { surface: 'm', colour: '#0000ff', centre: 0.06, width: 0.02 }));
    // On a mesh that was brought in, the map lies as its coordinates say.
    onto = 'brought';
    TestBed.resetTestingModule();
    const { view: again, fixture: other } = await make(IdCard);
    onto = 'copper-still';
    again.source.set('m');
    await other.whenStable();
    await new Promise((r) => setTimeout(r));
    await other.whenStable();
    again.choose('#0000ff', 's');
    again.make();
    expect(model.layers().at(-1)!.coverage['c1']).toEqual(makeCue('id', { surface: 'm', colour: '#0000ff', centre: 0.06, width: 0.02, set: 1 }));
  });
  it('of IDs: no more than there is room for', async () => {
    const { root, view, fixture } = await make(IdCard);
    choose(root, 'What tells them apart', 'm');
    await fixture.whenStable();
    await new Promise((r) => setTimeout(r));
    await fixture.whenStable();
    view.choose('#0000ff', 's');
    view.make();
    // There is room for sixteen.
    model.draft((d) => {
      for (let i = 0; i < 11; i++) d.layers[`x${i}`] = makeLayer('s', 'More', 20 + i);
    });
    await fixture.whenStable();
    view.choose('#ff0000', 's');
    await fixture.whenStable();
    expect(root.querySelector<HTMLButtonElement>('.button.main')!.disabled).toBeTrue();
    expect(root.textContent).toContain('There is room for 0 more layers');
  });

  it('of baking: say what it will be, start it, show how far it is, cancel and begin again', async () => {
    const { root, view, fixture } = await make(BakeCard);
    view.open.set(true);
    view.size.set(2048);
    await fixture.whenStable();
    expect(root.textContent).toContain('853 px/m over 2.40 m');
    // Vertex colours are those of a mesh: which of its slots is said, and can be chosen.
    expect([...root.querySelectorAll('option')].map((o) => o.textContent!.trim())).toContain('its square as surface shows it');
    await view.start();
    view.choose('square:');
    expect(root.textContent).not.toContain('undefined');
    await view.start();
    expect(jobs.started).toEqual([
      ['bake', { size: 2048, place: { slot: 'surface' } }, 'blend'],
      ['bake', { size: 2048, place: null }, 'blend'],
    ]);
    view.jobId.set('job');
    const job = (status: JobView['status'], error: string | null = null): JobView => ({
      id: 'job',
      kind: 'bake',
      label: 'Make a surface of Step',
      status,
      progress: 0.4,
      note: 'evaluating',
      error,
      result: null,
    });
    jobs.job.set(job('running'));
    await fixture.whenStable();
    expect(root.querySelector('progress')!.value).toBe(0.4);
    root.querySelector<HTMLButtonElement>('.button')!.click();
    expect(jobs.cancelled).toEqual(['job']);
    jobs.job.set(job('failed', 'Ghost: its surface no longer exists'));
    await fixture.whenStable();
    expect(root.textContent).toContain('Ghost: its surface no longer exists');
    root.querySelector<HTMLButtonElement>('.button')!.click();
    await fixture.whenStable();
    view.choose('still');
    await view.start();
    expect(jobs.started.at(-1)).toEqual(['bake', { size: 2048, specimen: 'still' }, 'blend']);
    jobs.job.set(job('done'));
    await fixture.whenStable();
    expect(root.textContent).toContain('See it among the surfaces');
    // Another blend has nothing to do with it.
    model.id.set('other');
    await fixture.whenStable();
    expect(view.jobId()).toBeNull();
  });
  it('of baking: show where places of a texture lie on each other before anything is started', async () => {
    overlapping = { message: 'Still: islands of can lie on each other over 12 %', picture: null };
    const { root, view, fixture } = await make(BakeCard);
    view.open.set(true);
    view.choose('square:');
    await fixture.whenStable();
    expect(root.querySelector('[role=alert]')).toBeNull();
    view.choose('still');
    await fixture.whenStable();
    await new Promise((resolve) => setTimeout(resolve));
    await fixture.whenStable();
    expect(root.querySelector('[role=alert]')!.textContent).toContain('islands of can lie on each other');
    expect(root.querySelector('pb-picture')).not.toBeNull();
    expect(root.querySelector<HTMLButtonElement>('.button.main')!.disabled).toBeTrue();
    view.choose('square:');
    await fixture.whenStable();
    expect(root.querySelector<HTMLButtonElement>('.button.main')!.disabled).toBeFalse();
    overlapping = null;
  });
});
