import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import type { AnyDocument, AssetDocument, BlendDocument, SpecimenDocument } from '@pebble/core';
import { makeAsset, makeBlend, makeMaster } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { NoticesService } from '../services/notices.service';
import { AssetCard } from './asset-card';
import { AssetModel } from './asset-model';
import { StageSource } from './stage-source';

describe('the card of an asset', () => {
  const make = async (specimen = 'copper-still', over: Record<string, AnyDocument> = {}) => {
    const all = signal<Record<string, AnyDocument>>({
      still: makeBlend('Copper still', { extentM: 0.9 }),
      iron: makeBlend('Black iron', { extentM: 0.5 }),
      whole: { ...makeAsset('Still, whole', specimen, ['copper', 'pipe'], 'still') },
      ...over,
    });
    const steps: string[] = [];
    const documents = {
      list: (kind: string) => () => Object.entries(all()).flatMap(([id, body]) => (body.kind === kind ? [{ id, body }] : [])),
      body: (id: string | null, kind: string) => (id && all()[id]?.kind === kind ? all()[id] : undefined),
      edit: (id: string, _: string, label: string, change: (d: AnyDocument) => void) => {
        steps.push(label);
        all.update((m) => {
          const next = structuredClone(m);
          change(next[id]);
          return next;
        });
      },
      create: (body: BlendDocument) => {
        all.update((m) => ({ ...m, made: body }));
        return Promise.resolve('made');
      },
      remove: (id: string) => all.update((m) => Object.fromEntries(Object.entries(m).filter(([key]) => key !== id))),
    };
    const went: unknown[] = [];
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        AssetModel,
        { provide: DocumentsService, useValue: documents },
        { provide: StageSource, useValue: { id: signal('still') } },
        { provide: NoticesService, useValue: { error: fail } },
        { provide: Router, useValue: { navigate: (...args: unknown[]) => Promise.resolve(went.push(args)) } },
      ],
    });
    TestBed.inject(AssetModel).id.set('whole');
    const fixture = TestBed.createComponent(AssetCard);
    await fixture.whenStable();
    const root = fixture.nativeElement as HTMLElement;
    const chips = () => [...root.querySelectorAll('.chips .pill')].map((b) => b.textContent?.replace(/\s+/g, ' ').trim());
    const press = async (button: Element | null | undefined) => {
      (button as HTMLButtonElement).click();
      await fixture.whenStable();
    };
    const asset = () => all()['whole'] as AssetDocument;
    return { fixture, root, chips, press, asset, steps, went, all, model: TestBed.inject(AssetModel) };
  };

  it('names what sits on each slot, the open blend’s marked; a press opens another', async () => {
    const { root, chips, press, went } = await make();
    expect(chips()).toEqual(['copper Copper still', 'pipe Copper still', 'slots …']);
    expect(root.querySelectorAll('.chips .pill.on').length).toBe(2);
    await press(root.querySelector('.chips .pill'));
    expect(went).toEqual([[['/blend', 'still'], { queryParams: { asset: 'whole' } }]]);
  });
  it('gives a slot another blend, and says where one was deleted', async () => {
    const { root, chips, press, asset, steps, all, fixture } = await make();
    await press([...root.querySelectorAll('.chips .pill')].at(-1));
    const pick = root.querySelector<HTMLSelectElement>('[aria-label="Blend on pipe"]')!;
    pick.value = 'iron';
    pick.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(asset().slots['s2'].blend).toBe('iron');
    expect(steps).toEqual(['pipe: Black iron']);
    all.update(({ iron, ...rest }) => (iron ? rest : rest));
    await fixture.whenStable();
    expect(chips()[1]).toBe('pipe something that was deleted');
    expect(root.querySelectorAll<HTMLButtonElement>('.chips .pill')[1].disabled).toBeTrue();
  });
  it('asks whether all variants leave with its model only where a slot wears a master that has some', async () => {
    const gauge = makeMaster('Gauge', {});
    const { root, press, asset, all, steps, fixture } = await make('copper-still', { gauge });
    await press([...root.querySelectorAll('.chips .pill')].at(-1));
    const box = () => root.querySelector<HTMLInputElement>('.many input');
    const pick = root.querySelector<HTMLSelectElement>('[aria-label="Blend on pipe"]')!;
    pick.value = 'gauge';
    pick.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(box()).toBeNull();
    all.update((m) => ({ ...m, gauge: { ...gauge, variants: { v: { order: 1, name: 'Full', values: {}, switches: {} } } } as AnyDocument }));
    await fixture.whenStable();
    box()!.click();
    await fixture.whenStable();
    expect([asset().variants, steps.at(-1)]).toEqual([true, 'All variants in its model']);
    box()!.click();
    await fixture.whenStable();
    expect(asset().variants).toBeUndefined();
  });
  it('makes a copy of its own of what sits on a slot', async () => {
    const { root, press, asset, all, fixture, went } = await make();
    await press([...root.querySelectorAll('.chips .pill')].at(-1));
    await press(root.querySelector('[aria-label="own copy for pipe"]'));
    await fixture.whenStable();
    expect((all()['made'] as BlendDocument).name).toBe('Copper still, pipe');
    expect(Object.values(asset().slots).map((s) => s.blend)).toEqual(['still', 'made']);
    expect(went.length).toBe(1);
  });
  it('lays each slot by its own set and size, in metres of its own blend', async () => {
    const { model, all, root, press } = await make('mesh', {
      mesh: {
        kind: 'specimen',
        version: 1,
        name: 'Mesh',
        parts: { a: { order: 1, slot: 'copper', level: 0, sets: 2 }, b: { order: 2, slot: 'pipe', level: 0, sets: 3 } },
      } as unknown as SpecimenDocument,
    });
    await press([...root.querySelectorAll('.chips .pill')].at(-1));
    expect([...root.querySelectorAll('th')].map((t) => t.textContent)).toContain('UV set');
    // Counted as sentences and the page of the mesh count them.
    expect([...root.querySelectorAll('[aria-label="Texture coordinates of pipe"] option')].map((o) => o.textContent)).toEqual(['1', '2']);
    model.edit('x', (d) => {
      Object.assign(d.slots['s2'], { blend: 'iron', uvSet: 1, size: 3 });
      d.slots['s1'].blend = '';
    });
    // What has nothing on it is laid as the open blend would be.
    expect(model.lays(all()['still'] as BlendDocument)).toEqual({
      copper: { set: 0, by: 0.9, in: 'metres' },
      pipe: { set: 1, by: 1.5, in: 'metres' },
    });
    expect(model.slotsWith('iron')).toEqual(['pipe']);
    expect(model.slotsOf('mesh')).toEqual(['copper', 'pipe']);
    expect(model.slotsOf('shed-wall')).toEqual(['stone', 'timber', 'plaster']);
  });
});
