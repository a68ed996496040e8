import type { Type } from '@angular/core';
import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { BlendDocument, MaterialProblem, SurfaceDocument } from '@pebble/core';
import { DEFAULT_CONSTANT, MaterialPrograms, makeBlend, makeCue, makeLayer, waterOf } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { AssetModel } from '../../../stage/asset-model';
import { BlendModel } from '../blend-model';
import { CoverageTarget } from '../coverage-target';
import { CueLooks } from '../sentence/cue-look';
import { changeText } from '../../../ui/field';
import { WORDS } from '../../../ui/words';
import type { LayerField } from './layer-fields';
import { SEAM_FIELDS } from './layer-fields';
import { Pointing } from '../../../stage/pointing';
import { Prices } from '../prices';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { Sentence } from '../sentence/sentence';
import { Strata } from './strata';

const surface = (name: string): SurfaceDocument => ({
  kind: 'surface',
  version: 1,
  name,
  sizeM: 1,
  reliefM: 0.04,
  mid: 0.5,
  maps: { baseColor: {} as never, height: {} as never },
  thumbnail: null,
  tone: '#556633',
  generator: null,
  notes: [],
});

/** The model's face, on a document in memory. */
class FakeModel {
  doc = signal<BlendDocument>(
    makeBlend('Step', {
      extentM: 2,
      layers: {
        a: makeLayer('s', 'Stone', 1),
        b: makeLayer('m', 'Moss', 2, { coverage: { c: makeCue('vertexColour', { channel: 'g' }) } }),
        d: makeLayer('m', 'Leaves', 3),
      },
    }),
  );
  steps: string[] = [];
  selectedId = signal<string | null>('b');
  blend = this.doc.asReadonly();
  surfaces = signal({ s: surface('Stone'), m: surface('Moss') });
  layers = () =>
    Object.entries(this.doc().layers)
      .map(([id, l]) => ({ ...l, id }))
      .sort((x, y) => y.order - x.order);
  selected = () => this.doc().layers[this.selectedId() ?? ''] ?? null;
  groundId = () => 'a';
  id = signal('blend');
  blends = signal<Record<string, BlendDocument>>({});
  problems = signal<readonly MaterialProblem[]>([]);
  known = () => ({});
  shape = () => '';
  material = signal(null);
  programs = new MaterialPrograms();
  stack = signal(null);
  sources = signal(null);
  nameOf = (id: string) => id;
  prices = signal({ b: { samples: 2, operations: 90 } });
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

/** What a token of the sentence does when it is dragged. */
class FieldHand {
  constructor(
    private readonly model: FakeModel,
    private readonly field: LayerField,
  ) {}
  draft = (value: number) => this.model.draft((d) => this.field.set(d.layers[this.model.selectedId() as string], value));
  done = (value: number) => this.draft(value);
}

describe('layers of a blend', () => {
  let model: FakeModel;
  const make = async <T>(component: Type<T>) => {
    model = new FakeModel();
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        { provide: BlendModel, useValue: model },
        { provide: AssetModel, useValue: { slotsWith: () => [], body: () => null, slots: () => [], id: () => null } },
        {
          provide: StageSpecimen,
          useValue: {
            parts: signal(['body', 'lid']),
            mesh: signal({ position: new Float32Array(0), normal: new Float32Array(0) }),
            refusal: signal(null),
          },
        },
        CoverageTarget,
        CueLooks,
        Prices,
        Pointing,
        { provide: DocumentsService, useValue: { list: (kind: string) => signal(kind === 'surface' ? [{ id: 's', body: surface('Stone') }] : []) } },
      ],
    });
    const fixture = TestBed.createComponent(component);
    await fixture.whenStable();
    return { fixture, root: fixture.nativeElement as HTMLElement, view: fixture.componentInstance };
  };

  it('stand from the top, chosen by a click, switched by their swatch', async () => {
    const { root, fixture } = await make(Strata);
    expect([...root.querySelectorAll('.name')].map((n) => n.textContent)).toEqual(['Leaves', 'Moss', 'Stone']);
    root.querySelector<HTMLElement>('[aria-label="Switch off Leaves"]')!.click();
    await fixture.whenStable();
    expect(model.doc().layers['d'].on).toBeFalse();
    expect(root.querySelector('[aria-label="Switch on Leaves"]')).not.toBeNull();
    expect(model.steps).toEqual(['Switch off Leaves']);
  });
  it('fold together past eight, all but the chosen one, and stay in reach', async () => {
    const { root, fixture, view } = await make(Strata);
    const heights = () => [...root.querySelectorAll<HTMLElement>('.layer')].map((l) => l.offsetHeight);
    expect(new Set(heights())).toEqual(new Set([30]));
    for (let i = 0; i < 6; i++) view.duplicate('b');
    await fixture.whenStable();
    const [chosen, ...others] = heights().sort((a, b) => b - a);
    expect([chosen, others.length, Math.max(...others)]).toEqual([30, 8, 17]);
    // By keyboard the menu of a folded one is there as well.
    root.querySelector<HTMLElement>('.layer:not(.on) .name')!.focus();
    expect(heights().filter((h) => h === 30).length).toBe(document.hasFocus() ? 2 : 1);
  });
  it('bring the chosen one into sight, such as one that was added at the top of a long list', async () => {
    const { root, fixture, view } = await make(Strata);
    root.style.height = '110px';
    const chosen = async (id?: string) => {
      if (id) model.selectedId.set(id);
      await fixture.whenStable();
      const [list, layer] = [root.querySelector('.list')!, root.querySelector('.layer.on')!].map((of) => of.getBoundingClientRect());
      return layer.top >= list.top && layer.bottom <= list.bottom;
    };
    for (let i = 0; i < 4; i++) view.add('s', 'Stone');
    const scrolls = root.querySelector<HTMLElement>('.list')!;
    expect(scrolls.scrollHeight).toBeGreaterThan(scrolls.clientHeight);
    expect(await chosen(model.layers()[0].id)).toBeTrue();
    await fixture.whenStable();
    // What is below is said, and the button that adds stays in sight.
    expect(root.querySelector('.end')?.textContent).toMatch(/^\d more below$/);
    expect(root.querySelector('.add')!.getBoundingClientRect().bottom).toBeLessThanOrEqual(root.getBoundingClientRect().bottom + 1);
    expect(await chosen('a')).toBeTrue();
    expect(scrolls.scrollTop).toBeGreaterThan(0);
    // Where the button is that adds one.
    scrolls.scrollTop = scrolls.scrollHeight;
    view.add('s', 'Stone');
    expect(await chosen()).toBeTrue();
    expect(model.selectedId()).toBe(model.layers()[0].id);
  });
  it('are moved, copied above themselves, soloed alone and removed, a named step each', async () => {
    const { view } = await make(Strata);
    const order = () => model.layers().map((l) => l.name);
    view.move(0, 1);
    expect(order()).toEqual(['Moss', 'Leaves', 'Stone']);
    view.move(0, 9);
    view.duplicate('b');
    expect(order()).toEqual(['Moss copy', 'Moss', 'Leaves', 'Stone']);
    view.solo('d');
    expect(
      Object.values(model.doc().layers)
        .filter((l) => l.solo)
        .map((l) => l.name),
    ).toEqual(['Leaves']);
    view.solo('d');
    view.remove('d');
    expect(order()).toEqual(['Moss copy', 'Moss', 'Stone']);
    expect(model.steps).toEqual(['Move Leaves down', 'Duplicate Moss', 'Solo Leaves', 'End solo of Leaves', 'Remove Leaves']);
  });
  it('call a step of undo by the value before and after, in the unit that is shown', () => {
    const lift = SEAM_FIELDS.find((f) => f.word === 'lift') as LayerField;
    expect(changeText(lift, 0.003, 0.008)).toBe('lift 3 → 8 mm');
    const follow = SEAM_FIELDS.find((f) => f.word === 'follow') as LayerField;
    expect(changeText(follow, 0.255, 1)).toBe('follow 26 → 100 %');
    expect(SEAM_FIELDS.every((f) => f.means && WORDS[f.means].means.length > 20)).toBeTrue();
  });
  it('read as a sentence whose tokens change what they name', async () => {
    const { root, view, fixture } = await make(Sentence);
    expect(root.querySelector('.line')?.textContent?.replace(/\s+/g, '')).toMatch(/^Mosswherevertexgreenabove0.5±0.25/);
    for (const token of view.tokens()) {
      const { draft, done } = new FieldHand(model, token);
      draft(token.min);
      done(token.min + (token.max - token.min) * 0.25);
    }
    const { seam, strength } = model.doc().layers['b'];
    expect([seam.soft, seam.liftM, seam.follow, seam.broken.byM, seam.contact, strength]).toEqual([0.25, -5, 0.25, 2.5, 0.25, 0.25]);
    view.add('noise');
    view.add('part');
    const cues = view.target.cues();
    expect(cues.map((c) => c.kind)).toEqual(['vertexColour', 'noise', 'part']);
    expect(cues[2]).toEqual({ ...makeCue('part', { order: 3, part: 'body' }), id: cues[2].id });
    await fixture.whenStable();
    expect(root.textContent?.replace(/\s+/g, ' ')).toContain('part "body"');
  });
  it('are left by Escape: what waits for a press first, then what is open', async () => {
    const { view, fixture } = await make(Sentence);
    const pointing = fixture.debugElement.injector.get(Pointing);
    const press = async (handled = false) => {
      const event = new KeyboardEvent('keydown', { key: 'Escape', cancelable: true });
      if (handled) event.preventDefault();
      document.dispatchEvent(event);
      await fixture.whenStable();
      return [pointing.active(), view.naming()];
    };
    view.naming.set(true);
    await fixture.whenStable();
    pointing.begin('Click somewhere', () => undefined);
    await fixture.whenStable();
    expect(await press()).toEqual([false, true]);
    // What was for a field is not for the card.
    expect(await press(true)).toEqual([false, true]);
    expect(await press()).toEqual([false, false]);
  });
  it('are read from text, and a text that cannot be read changes nothing', async () => {
    const { view, fixture, root } = await make(Sentence);
    view.write();
    await fixture.whenStable();
    expect(root.querySelector('textarea')?.value).toBe('where vertex green above 0.5 ±0.25');
    view.read('where slope under 20 m');
    await fixture.whenStable();
    expect(root.querySelector('[role=alert]')?.textContent).toBe('Character 22: expected "°", found "m"');
    expect(model.steps).toEqual([]);
    view.read('where slope under 20° but not low places deeper than 4 mm');
    await fixture.whenStable();
    expect(view.target.cues().map((c) => `${c.join} ${c.kind}`)).toEqual(['and slope', 'butNot low']);
    expect(root.querySelector('textarea')).toBeNull();
    expect(model.steps).toEqual(['Moss: another sentence']);
  });
  it('share a named coverage, edited once for all, until they take one of their own', async () => {
    const { view } = await make(Sentence);
    const { target } = view;
    target.nameIt('Damp');
    const [[key]] = Object.entries(model.doc().coverages);
    model.selectedId.set('d');
    target.share(key);
    target.add('slope');
    expect(view.target.cues().map((c) => c.kind)).toEqual(['vertexColour', 'slope']);
    expect(Object.keys(model.doc().coverages[key].coverage).length).toBe(2);
    expect(model.doc().layers['d'].coverage).toEqual({});
    expect(target.cues().length).toBe(2);
    target.share(null);
    expect(Object.keys(model.doc().layers['d'].coverage).length).toBe(2);
    target.remove(target.cues()[0].id);
    expect(Object.keys(model.doc().coverages[key].coverage).length).toBe(2);
  });
  it('have their cues moved and exchanged for others, keeping how they join', async () => {
    const { target } = (await make(Sentence)).view;
    target.addWeathering('risingDirt', 'rising dirt');
    expect(target.cues().map((c) => c.kind)).toEqual(['vertexColour', 'ground', 'noise']);
    target.move(2, 0);
    expect(target.cues().map((c) => c.kind)).toEqual(['noise', 'vertexColour', 'ground']);
    target.move(0, 7);
    const { id } = target.cues()[2];
    target.setCue(id, 'join', (c) => void (c.join = 'butNot'));
    target.become(id, 'occlusion');
    expect(target.cues()[2]).toEqual(jasmine.objectContaining({ kind: 'occlusion', join: 'butNot' }));
  });
  it('stand in groups, whose coverage is edited as a sentence of its own', async () => {
    const { view } = await make(Strata);
    view.into('b', null);
    const [[group]] = Object.entries(model.doc().groups);
    view.into('d', group);
    view.renameGroup(group, 'Wet');
    view.showGroup(group, 'b');
    const target = TestBed.inject(CoverageTarget);
    expect(target.name()).toBe('Wet');
    target.add('low');
    expect(Object.values(model.doc().groups[group].coverage).map((c) => c.kind)).toEqual(['low']);
    view.toggleGroup(group);
    expect(model.doc().groups[group].on).toBeFalse();
    view.leave('b');
    view.leave('d');
    expect(model.doc().groups).toEqual({});
    expect(model.steps.at(-1)).toBe('Leaves: in no group');
  });
  it('may be water or constant values', async () => {
    const { view } = await make(Strata);
    view.addWater();
    view.addConstant();
    const [constant, water] = model.layers();
    expect(waterOf(water)?.levelM).toBe(0);
    expect(constant.shows).toEqual({ kind: 'constant', ...DEFAULT_CONSTANT });
    expect(model.steps).toEqual(['Add Standing water', 'Add Constant values']);
  });
  it('say of the ground that it is everywhere', async () => {
    const { root, fixture } = await make(Sentence);
    model.selectedId.set('a');
    await fixture.whenStable();
    expect(root.textContent).toContain('lies below everything');
    expect(root.textContent).not.toContain('seam');
  });
});
