import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Layer, SurfaceDocument } from '@pebble/core';
import { DEFAULT_LOOK, makeLayer } from '@pebble/core';
import { ComputeService } from '../../../services/compute.service';
import { NoticesService } from '../../../services/notices.service';
import { BlendModel } from '../blend-model';
import { Repeats } from './repeats';

const surface = (name: string, sizeM: number) =>
  ({ name, sizeM, maps: { baseColor: { blob: name, stage: { blob: `${name} stage` } } } }) as unknown as SurfaceDocument;

describe('repetition over a blend', () => {
  const asked: { stage: { blob: string }; sizeM: number; times: number; turns?: { atM: number } }[] = [];
  const selectedId = signal<string | null>(null);
  const extent = signal(4);
  const layers = signal<(Layer & { id?: string })[]>([]);
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
        {
          provide: ComputeService,
          useValue: {
            run: async (_: string, args: (typeof asked)[0]) => (asked.push(args), { score: (scores[args.stage.blob] ?? 0) / (args.turns ? 3 : 1) }),
          },
        },
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

  it('is measured of what lies more than once, as often as it does, and said of what is noticed most', async () => {
    extent.set(4);
    layers.set([makeLayer('s', 'Stone', 1), makeLayer('m', 'Moss', 2), makeLayer('w', 'Wide', 3)]);
    const { repeats, settle } = await make({ 'stone stage': 0.3, 'moss stage': 0.4 });
    // Four metres of extent: four stones, two mosses each way; the wide one lies once.
    expect(asked.map(({ stage, sizeM, times }) => [stage.blob, sizeM, times])).toEqual([
      ['stone stage', 1, 4],
      ['moss stage', 2, 2],
    ]);
    expect(repeats.warning()).toBe('moss and 1 more repeat visibly, every 2.00 m (0.40)');
    // Larger by its look it comes less often; what is below the mark is not said.
    layers.set([{ ...makeLayer('s', 'Stone', 1), look: { ...DEFAULT_LOOK, scale: 2 } }]);
    await settle();
    expect(asked.at(-1)).toEqual(jasmine.objectContaining({ sizeM: 2, times: 2 }));
    expect(repeats.warning()).toBe('stone repeats visibly, every 2.00 m (0.30)');
    layers.set([makeLayer('w', 'Wide', 1)]);
    await settle();
    expect(repeats.warning()).toBeNull();
  });
  it('tells of the chosen layer what taking turns with itself would make of it, and counts it once it does', async () => {
    extent.set(4);
    selectedId.set('a');
    layers.set([{ ...makeLayer('s', 'Stone', 1), id: 'a' }]);
    const { repeats, settle } = await make({ 'stone stage': 0.6 });
    expect(repeats.chosen()).toEqual({ plain: 0.6, turned: jasmine.any(Number) });
    expect(repeats.chosen()?.turned).toBeCloseTo(0.2, 9);
    // One and a half of its own size, to begin with.
    expect(asked.find((a) => a.turns)?.turns?.atM).toBe(1.5);
    expect(repeats.warning()).toContain('(0.60)');
    layers.set([{ ...makeLayer('s', 'Stone', 1), id: 'a', laying: { turns: { atM: 1.5, seed: 1 } } }]);
    await settle();
    expect(repeats.warning()).toBeNull();
    selectedId.set(null);
  });
});
