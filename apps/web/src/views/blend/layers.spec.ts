import type { Type } from '@angular/core';
import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { BlendDocument, SurfaceDocument } from '@pebble/core';
import { makeCue, makeLayer } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { BlendModel } from './blend-model';
import { Sentence } from './sentence';
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
  doc = signal<BlendDocument>({
    kind: 'blend',
    version: 1,
    name: 'Step',
    extentM: 2,
    specimen: 'patch',
    cut: { ax: 0, ay: 0, bx: 1, by: 1 },
    layers: {
      a: makeLayer('s', 'Stone', 1),
      b: makeLayer('m', 'Moss', 2, { coverage: { c: makeCue('vertexColour', { channel: 'g' }) } }),
      d: makeLayer('m', 'Leaves', 3),
    },
  });
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

describe('layers of a blend', () => {
  let model: FakeModel;
  const make = async <T>(component: Type<T>) => {
    model = new FakeModel();
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        { provide: BlendModel, useValue: model },
        { provide: DocumentsService, useValue: { list: () => signal([{ id: 's', body: surface('Stone') }]) } },
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
  it('say of surfaces what a layer of them costs', async () => expect((await make(Strata)).view.samples(surface('x'))).toBe(2));
  it('read as a sentence whose tokens change what they name', async () => {
    const { root, view } = await make(Sentence);
    expect(root.querySelector('.line')?.textContent?.replace(/\s+/g, '')).toMatch(/^Mosswherevertexgreenabove0.5±0.25/);
    for (const token of view.tokens) view.setToken(token, token.min + (token.max - token.min) * 0.25);
    const { seam, strength } = model.doc().layers['b'];
    expect([seam.soft, seam.liftM, seam.follow, seam.broken.byM, seam.contact, strength]).toEqual([0.25, -5, 0.25, 2.5, 0.25, 0.25]);
    expect(model.steps.length).toBe(view.tokens.length);
    view.addCue('noise');
    expect(Object.values(model.doc().layers['b'].coverage).map((c) => c.kind)).toEqual(['vertexColour', 'noise']);
  });
  it('say of the ground that it is everywhere', async () => {
    const { root, fixture } = await make(Sentence);
    model.selectedId.set('a');
    await fixture.whenStable();
    expect(root.textContent).toContain('lies below everything');
    expect(root.textContent).not.toContain('seam');
  });
});
