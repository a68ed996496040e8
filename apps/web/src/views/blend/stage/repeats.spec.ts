import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Layer, LayerLaying, SurfaceDocument } from '@pebble/core';
import { DEFAULT_LOOK, makeLayer } from '@pebble/core';
import { ComputeService } from '../../../services/compute.service';
import { NoticesService } from '../../../services/notices.service';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { BlendModel } from '../blend-model';
import { Repeats } from './repeats';

const surface = (name: string, sizeM: number) =>
  ({ name, sizeM, maps: { baseColor: { blob: name, stage: { blob: `${name} stage` } } } }) as unknown as SurfaceDocument;

describe('repetition over a blend', () => {
  interface Asked {
    layer: { shows: { surface: string }; look: { scale: number }; laying?: LayerLaying };
    surfaces: Record<string, SurfaceDocument>;
    distanceM: number;
  }
  const asked: Asked[] = [];
  const blobOf = ({ layer, surfaces }: Asked) => (surfaces[layer.shows.surface].maps.baseColor as { blob: string }).blob;
  const selectedId = signal<string | null>(null);
  const extent = signal(4);
  const layers = signal<(Layer & { id?: string })[]>([]);
  const terrain = signal<object | null>(null);
  const seen = signal(true);
  /** Every way makes a third of it; from farther away it is less. */
  const scoreOf = (scores: Record<string, number>, a: Asked) =>
    ((scores[blobOf(a)] ?? 0) / 3 ** Object.keys(a.layer.laying ?? {}).length) * (2 / a.distanceM);
  const make = async (scores: Record<string, number>) => {
    asked.length = 0;
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        Repeats,
        {
          provide: BlendModel,
          useValue: {
            blend: () => ({ extentM: extent() }),
            layers,
            selectedId,
            surfaces: () => ({ s: surface('stone', 1), m: surface('moss', 2), w: surface('wide', 4) }),
          },
        },
        { provide: ComputeService, useValue: { run: async (_: string, args: Asked) => (asked.push(args), { score: scoreOf(scores, args) }) } },
        { provide: StageSpecimen, useValue: { terrain } },
        { provide: StageScene, useValue: { seen } },
        { provide: NoticesService, useValue: { error: (e: unknown) => fail(e) } },
      ],
    });
    const repeats = TestBed.inject(Repeats);
    const settle = async () => {
      TestBed.tick();
      await new Promise((resolve) => setTimeout(resolve));
    };
    await settle();
    return { repeats, settle };
  };

  it('waits until something is seen', async () => {
    extent.set(4);
    layers.set([makeLayer('s', 'Stone', 1)]);
    seen.set(false);
    const { settle } = await make({ stone: 0.3 });
    expect(asked).toEqual([]);
    seen.set(true);
    await settle();
    expect(asked.length).toBe(1);
  });
  it('is measured of what lies more than once, and said of what is noticed most', async () => {
    extent.set(4);
    layers.set([makeLayer('s', 'Stone', 1), makeLayer('m', 'Moss', 2), makeLayer('w', 'Wide', 3)]);
    const { repeats, settle } = await make({ stone: 0.3, moss: 0.4 });
    // The wide one lies once over the extent.
    expect(asked.map((a) => [blobOf(a), a.distanceM])).toEqual([
      ['stone', 2],
      ['moss', 2],
    ]);
    expect(repeats.warning()).toBe('moss and 1 more repeat visibly, every 2.00 m (0.40)');
    layers.set([{ ...makeLayer('s', 'Stone', 1), look: { ...DEFAULT_LOOK, scale: 2 } }]);
    await settle();
    expect(asked.at(-1)?.layer.look.scale).toBe(2);
    expect(repeats.warning()).toBe('stone repeats visibly, every 2.00 m (0.30)');
    layers.set([makeLayer('w', 'Wide', 1)]);
    await settle();
    expect(repeats.warning()).toBeNull();
  });
  it('tells of the chosen layer what each way would make of it, and counts those that are used', async () => {
    extent.set(4);
    selectedId.set('a');
    layers.set([{ ...makeLayer('s', 'Stone', 1), id: 'a' }]);
    const { repeats, settle } = await make({ stone: 0.6 });
    const chosen = repeats.chosen();
    expect(chosen?.plain).toEqual({ 2: 0.6 });
    expect(Object.keys(chosen?.would ?? {})).toEqual(['turns', 'cells', 'macro', 'far']);
    expect(chosen?.would.cells?.[2]).toBeCloseTo(0.2, 9);
    // One and a half of its own size, and three quarters of it, to begin with.
    const sizes = asked.flatMap(({ layer: { laying } }) => [laying?.turns?.atM ?? [], laying?.cells?.atM ?? []].flat());
    expect(sizes).toEqual([1.5, 0.75]);
    expect(repeats.warning()).toContain('(0.60)');
    layers.set([{ ...makeLayer('s', 'Stone', 1), id: 'a', laying: { turns: { atM: 1.5, seed: 1 }, sides: true } }]);
    await settle();
    expect(repeats.warning()).toBeNull();
    // What hides nothing is not measured: looked up from the sides, it repeats as it did.
    expect(asked.every((a) => !a.layer.laying?.sides)).toBe(true);
    expect(repeats.chosen()?.now[2]).toBeCloseTo(0.2, 9);
    expect(repeats.chosen()?.plain[2]).toBe(0.6);
    expect(Object.keys(repeats.chosen()?.would ?? {})).toEqual(['cells', 'macro', 'far']);
    selectedId.set(null);
  });
  it('is measured of a terrain from some way off and from afar as well, with patches over the world', async () => {
    extent.set(6);
    terrain.set({});
    selectedId.set('a');
    layers.set([{ ...makeLayer('s', 'Stone', 1), id: 'a' }]);
    const { repeats } = await make({ stone: 0.6 });
    expect(repeats.chosen()?.distances).toEqual([2, 20, 100]);
    expect(repeats.chosen()?.plain[100]).toBeCloseTo(0.012, 9);
    expect(asked.filter((a) => a.layer.laying?.cells).map((a) => [a.distanceM, a.layer.laying?.cells?.over])).toEqual([
      [2, 'world'],
      [20, 'world'],
      [100, 'world'],
    ]);
    terrain.set(null);
    selectedId.set(null);
  });
});
