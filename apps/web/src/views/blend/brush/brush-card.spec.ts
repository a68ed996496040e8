import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Mesh } from '@pebble/core';
import { DEFAULT_BRUSH, edgeCount, makeBlend, makeCue, makeLayer, makePatch, vertexSpacing } from '@pebble/core';
import { MeshService } from '../../../services/mesh.service';
import { WorkerClient } from '../../../services/worker-client';
import { NoticesService } from '../../../services/notices.service';
import { BlendModel } from '../blend-model';
import { StagePixels } from '../../../stage/stage-pixels';
import { BrushCard } from './brush-card';
import { CueLooks } from '../sentence/cue-look';
import { MaskPainting } from './mask-painting';
import { PaintRules } from './paint-rules';
import { Neighbours } from '../../../stage/neighbours';
import { PaintedColours } from '../../../stage/painted-colours';
import { Painting } from './painting';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { EditedBlend } from '../testing/edited-blend';

const step = (): EditedBlend => {
  const made = new EditedBlend(
    makeBlend('Step', {
      layers: {
        ground: makeLayer('stone', 'Stone', 1),
        clay: makeLayer('clay', 'Clay', 2, { coverage: { c: makeCue('vertexColour', { channel: 'r' }) } }),
        moss: makeLayer('moss', 'Moss', 3),
      },
    }),
  );
  made.selectedId.set('moss');
  return made;
};

describe('the card of the brush', () => {
  beforeEach(() => localStorage.removeItem('pebble-brush'));
  const make = async (mesh: Mesh = makePatch(2.4, 24)) => {
    const model = step();
    const painted = {
      mesh: signal(mesh),
      colours: signal(mesh.geomcolor),
      tiles: signal({}),
      whole: signal(true),
      adopt: jasmine.createSpy('adopt'),
      onCame: () => undefined,
    };
    const vertices = signal({ count: mesh.position.length / 3, spacingM: vertexSpacing(mesh) });
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        Painting,
        { provide: BlendModel, useValue: model },
        { provide: PaintedColours, useValue: painted },
        MaskPainting,
        PaintRules,
        { provide: CueLooks, useValue: { shares: async () => null } },
        { provide: StagePixels, useValue: { mean: () => 0.4, maskSide: 64, take: () => undefined, showFor: () => undefined } },
        { provide: StageScene, useValue: { seen: () => true } },
        { provide: Neighbours, useValue: { over: (own: Float32Array) => own } },
        {
          provide: StageSpecimen,
          useValue: {
            vertices,
            form: signal(mesh),
            mesh: signal(mesh),
            ownMesh: signal(mesh),
            itself: signal(true),
            terrain: () => null,
            ownSpans: signal(null),
            spans: signal(null),
            name: signal('patch'),
          },
        },
        { provide: MeshService, useValue: { run: () => Promise.reject(new Error('not here')) } },
        { provide: NoticesService, useValue: { error: fail } },
      ],
    });
    const fixture = TestBed.createComponent(BrushCard);
    await fixture.whenStable();
    const root = fixture.nativeElement as HTMLElement;
    const button = (text: string) => [...root.querySelectorAll('button')].find((b) => b.textContent?.trim().startsWith(text))!;
    return { fixture, model, root, button, painting: TestBed.inject(Painting) };
  };

  it('names each well by the layers that it feeds, and how much of the vertices it covers', async () => {
    const { root } = await make();
    const wells = [...root.querySelectorAll<HTMLElement>('.well')].map((w) => [...w.children].map((e) => e.textContent).join(' '));
    expect(wells.length).toBe(4);
    expect(wells[0]).toMatch(/^red \d+ % Clay$/);
    expect(wells[1]).toMatch(/^green \d+ % feeds no layer$/);
    expect(wells[3]).toBe('alpha 100 % feeds no layer');
  });
  it('lets a channel that feeds nothing say where the chosen layer is', async () => {
    const { fixture, model, root, button } = await make();
    expect(button('Let it say')).toBeUndefined();
    root.querySelectorAll<HTMLElement>('.well')[2].click();
    await fixture.whenStable();
    button('Let it say where moss is').click();
    await fixture.whenStable();
    const [cue] = Object.values(model.blend().layers['moss'].coverage);
    expect(cue).toEqual(jasmine.objectContaining({ kind: 'vertexColour', channel: 'b' }));
    expect(model.steps).toEqual(['Moss: where blue is painted']);
    expect(root.querySelectorAll('.well')[2].textContent).toContain('Moss');
  });
  it('has a well for each painted mask, and nothing of vertices while one is open', async () => {
    const { fixture, model, root, button } = await make();
    model.draft((d) => Object.assign(d.layers['moss'].coverage, { p: makeCue('painted', { picture: 'x' }) }));
    await fixture.whenStable();
    const mask = root.querySelectorAll<HTMLElement>('.well')[4];
    expect([...mask.children].map((e) => e.textContent).join(' ')).toBe('mask 40 % Moss');
    expect(button('all channels')).toBeDefined();
    spyOn(WorkerClient.prototype, 'run').and.resolveTo({ width: 512, height: 256, depth: 8, hash: 'x' } as never);
    mask.click();
    await fixture.whenStable();
    await fixture.whenStable();
    expect(mask.getAttribute('aria-checked')).toBe('true');
    expect(root.querySelector('.well')?.getAttribute('aria-checked')).toBe('false');
    expect([button('all channels'), button('save .glb'), root.querySelector('[aria-label^="Swap"]')]).toEqual([undefined, undefined, null] as never);
    expect(root.querySelector<HTMLAnchorElement>('.ends a')?.getAttribute('href')).toBe('/api/blobs/x?name=mask.png');
    expect(root.textContent).toContain('512 × 256 pixels of 8 bits over');
    root.querySelectorAll<HTMLElement>('.well')[1].click();
    await fixture.whenStable();
    expect(mask.getAttribute('aria-checked')).toBe('false');
    expect(button('save .glb')).toBeDefined();
  });
  it('says that vertices are too few for the brush, with the price of more once it is known', async () => {
    const mesh = makePatch(2.4, 24);
    const { fixture, root, painting } = await make(mesh);
    painting.setBrush({ radiusM: 0.5 });
    await fixture.whenStable();
    expect(root.querySelector('.density')?.textContent).toMatch(/about \d+ vertices in a dab/);
    painting.setBrush({ radiusM: 0.02 });
    painting.on.set(true);
    const end = Date.now() + 20_000;
    while (!painting.density().price && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 30));
    await fixture.whenStable();
    expect(root.querySelector('.density')?.classList).toContain('amiss');
    const count = mesh.position.length / 3;
    expect(painting.density().price).toContain(`${count} → ${(count + edgeCount(mesh)).toLocaleString('en')} vertices`);
  });
  it('keeps the brush for the next time, and offers patches only where it is broken up', async () => {
    const { fixture, root, button, painting } = await make();
    expect(painting.brush()).toEqual(DEFAULT_BRUSH);
    expect(root.textContent).not.toContain('by patches of');
    painting.setBrush({ broken: { by: 0.4, atM: 0.05, seed: 1 } });
    await fixture.whenStable();
    button('other patches').click();
    await fixture.whenStable();
    expect(painting.brush().broken.seed).not.toBe(1);
    const kept = JSON.parse(localStorage.getItem('pebble-brush') ?? '{}') as { broken: { by: number } };
    expect(kept.broken.by).toBe(0.4);
  });
});
