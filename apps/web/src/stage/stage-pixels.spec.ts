import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { BlendDocument, BlendSurface, MaterialSlots, SurfaceDocument } from '@pebble/core';
import { blendMaterial, followedSide, makeBlend, makeCue, makeImage, makeLayer, makeStack, mipChain } from '@pebble/core';
import { ComputeService } from '../services/compute.service';
import { NoticesService } from '../services/notices.service';
import type { SizedPicture, StageMaps } from '../workers/protocol';
import { StagePixels } from './stage-pixels';

const SIDE = 1024;
/** A mask of one value, painted with so many pixels a side; what is shown is small, as nobody looks at it here. */
const mask = (value: number, painted = 2, size = SIDE): SizedPicture => ({
  width: painted,
  height: painted,
  size,
  levels: mipChain(makeImage({ width: 2, height: 2, channels: 1, data: new Uint8Array(4).fill(value) })),
});
const slotsOf = (blend: BlendDocument, surfaces: Record<string, BlendSurface>): MaterialSlots => blendMaterial(makeStack(blend, surfaces)).slots;
const stackOf = (...pictures: string[]): MaterialSlots =>
  slotsOf(
    makeBlend('Step', {
      layers: {
        a: makeLayer('s', 'Stone', 1),
        ...Object.fromEntries(
          pictures.map((picture, i) => [`b${i}`, makeLayer('s', 'Clay', i + 2, { coverage: { m: makeCue('painted', { picture }) } })]),
        ),
      },
    }),
    { s: { sizeM: 1, reliefM: 0.1, mid: 0.5, roles: new Set() } },
  );
const documents = { s: { maps: {} } } as unknown as Record<string, SurfaceDocument>;

describe('textures of a blend', () => {
  let asked: string[];
  let failing: string;
  let sides: [picture: string, shown: number][];
  const make = () => {
    const own: string[] = (asked = []);
    failing = '';
    sides = [];
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        StagePixels,
        {
          provide: ComputeService,
          useValue: {
            run: async (kind: string, args: { painted?: string; maps?: StageMaps; size: number; most: number; beside?: string[] }) => {
              const name = args.painted ?? (args.maps?.height ? `${args.maps.height.blob} ${args.size}` : kind);
              own.push(name);
              if (name === failing) throw new Error('Not there');
              if (args.painted && /^\d+$/.test(args.painted)) sides.push([args.painted, args.size]);
              // Some are called by the pixels that they were painted with.
              const sideOf = (name: string) => parseInt(name, 10) || 2;
              const shownAt = (name: string) => followedSide({ width: sideOf(name), height: sideOf(name) }, args.size, args.most);
              return args.painted
                ? mask(args.painted.length, sideOf(args.painted), Math.max(...[args.painted, ...(args.beside ?? [])].map(shownAt)))
                : { size: args.size };
            },
          },
        },
        { provide: NoticesService, useValue: { error: fail } },
      ],
    });
    return TestBed.inject(StagePixels);
  };
  const settle = () => new Promise((resolve) => setTimeout(resolve));

  it('of painted masks are others while they are painted on, and come back as they were', async () => {
    const pixels = make();
    const stack = stackOf('one');
    pixels.want([stack], documents);
    expect(pixels.of(stack)).toBeNull();
    expect([pixels.mean('one'), pixels.sizeOf('one').width]).toEqual([0, 1024]);
    await settle();
    expect(pixels.sizeOf('one')).toEqual(jasmine.objectContaining({ width: 2, height: 2 }));
    const before = pixels.of(stack);
    expect(before?.masks.length).toBe(1);
    expect(pixels.of(stack)).toBe(before);
    expect(pixels.mean('one')).toBeCloseTo(3 / 255, 9);
    pixels.showFor('one', mask(100));
    pixels.showFor('one', mask(200));
    const shown = pixels.of(stack)!;
    expect(shown.masks[0].key).not.toBe(before!.masks[0].key);
    expect(shown.surfaces[0]).toBe(before!.surfaces[0]);
    expect(pixels.mean('one')).toBeCloseTo(200 / 255, 9);
    pixels.showFor('one', null);
    expect(pixels.of(stack)?.masks[0]).toBe(before?.masks[0]);
    // Where nothing is covered, and of what is not there, nothing changes.
    pixels.showFor('one', null);
    pixels.showFor('none', mask(1));
    expect(pixels.of(stack)?.masks[0]).toBe(before?.masks[0]);
  });
  it('of painted masks are taken in as they were painted, without being fetched', async () => {
    const pixels = make();
    pixels.want([stackOf('one')], documents);
    await settle();
    pixels.take('two', mask(9));
    const next = stackOf('two');
    pixels.want([next], documents);
    expect(pixels.of(next)?.masks[0].packed.levels[0].data[0]).toBe(9);
    expect(asked).toEqual(['pack', 'one']);
  });
  it('of painted masks are kept for undoing, but not all of them', async () => {
    const pixels = make();
    const first = stackOf('first');
    pixels.want([first], documents);
    await settle();
    for (let i = 0; i < 120; i++) pixels.take(`p${i}`, mask(i + 1));
    // What is on show stays, however long ago it came. Of 1024 pixels a side, 72 are 96 MiB.
    expect(pixels.mean('first')).toBeGreaterThan(0);
    expect(pixels.mean('p119')).toBeGreaterThan(0);
    expect(pixels.mean('p48')).toBeGreaterThan(0);
    expect(pixels.mean('p2')).toBe(0);
    // Finer ones take the room of sixteen each.
    for (let i = 0; i < 4; i++) pixels.take(`q${i}`, mask(200, 4096, 4096));
    expect(pixels.mean('p119')).toBeGreaterThan(0);
    expect(pixels.mean('p90')).toBe(0);
    // One that was let go of is fetched again when it is wanted.
    pixels.want([stackOf('p2')], documents);
    await settle();
    expect(asked).toContain('p2');
    expect(pixels.of(stackOf('p2'))).not.toBeNull();
  });
  it('of painted masks are as fine as the finest of them was painted, all alike, as far as memory goes', async () => {
    const pixels = make();
    const want = async (stack: MaterialSlots) => {
      pixels.want([stack], documents);
      for (let i = 0; i < 4; i++) await settle();
      return [...new Set(pixels.of(stack)?.masks.map((m) => m.packed.size))];
    };
    expect(await want(stackOf('512', '1024'))).toEqual([1024]);
    expect(await want(stackOf('512', '2048'))).toEqual([2048]);
    // The finest is fetched once, at its own side; one that was shown more coarsely follows.
    expect(sides).toEqual([
      ['512', 1024],
      ['1024', 1024],
      ['2048', 1024],
      ['512', 2048],
    ]);
    expect(await want(stackOf('512', '4096'))).toEqual([4096]);
    // Five of 4096 pixels a side take more than 96 MiB.
    expect(await want(stackOf('4096', '5', '6', '7', '8'))).toEqual([2048]);
    // What the brush could not follow is shown as finely as surfaces are.
    expect(await want(stackOf('3000'))).toEqual([1024]);
    expect([pixels.maskSideWith(2048, 2048), pixels.maskSideWith(2048, 1024), pixels.maskSideWith(512, 512)]).toEqual([2048, 1024, 1024]);
  });
  it('of painted masks that come together come at one side, each once', async () => {
    const pixels = make();
    const stack = stackOf('4096', '512');
    pixels.want([stack], documents);
    pixels.want([stack], documents);
    for (let i = 0; i < 4; i++) await settle();
    expect(sides).toEqual([
      ['4096', 1024],
      ['512', 1024],
    ]);
    expect(pixels.of(stack)?.masks.map((m) => m.packed.size)).toEqual([4096, 4096]);
  });
  it('of a painted mask that comes finer while it is painted on wait until that ends', async () => {
    const pixels = make();
    const rounds = async () => {
      for (let i = 0; i < 4; i++) await settle();
    };
    pixels.want([stackOf('512')], documents);
    await rounds();
    pixels.showFor('512', mask(77, 512));
    pixels.want([stackOf('512', '4096')], documents);
    await rounds();
    expect(pixels.mean('512')).toBeCloseTo(77 / 255, 9);
    pixels.showFor('512', null);
    expect(pixels.of(stackOf('512', '4096'))?.masks.map((m) => m.packed.size)).toEqual([4096, 4096]);
  });
  it('of painted masks take regions of their own side alone', async () => {
    const pixels = make();
    const stack = stackOf('one');
    pixels.want([stack], documents);
    await settle();
    const before = pixels.of(stack)!.masks[0];
    const region = { level: 0, x: 0, y: 0, width: 1, height: 1, data: Uint8Array.of(250) };
    pixels.patchFor('one', [region], 2048);
    expect(pixels.of(stack)!.masks[0]).toBe(before);
    pixels.patchFor('one', [region], SIDE);
    expect(pixels.of(stack)!.masks[0].packed.levels[0].data[0]).toBe(250);
  });
  describe('coarse', () => {
    const stage = (blob: string, side: number) => ({ blob, width: side, height: side, channels: 1, depth: 8 as const });
    /** A surface of one map of so many pixels, with coarse ones or without. */
    const made = (name: string, side = 512, coarse = true) =>
      ({
        maps: { height: { stage: { ...stage(name, side), ...(coarse ? { coarse: { blob: `${name}-`, width: 256, height: 256 } } : {}) } } },
      }) as SurfaceDocument;
    const library = { s: made('s'), t: made('t'), u: made('u'), old: made('old', 512, false), tiny: made('tiny', 64, false) };
    const layers = (...ids: string[]) =>
      slotsOf(
        makeBlend('Step', { layers: Object.fromEntries(ids.map((id, i) => [id, makeLayer(id, id, i + 1)])) }),
        Object.fromEntries(Object.keys(library).map((id) => [id, { sizeM: 1, reliefM: 0.1, mid: 0.5, roles: new Set<never>() }])),
      );
    const begun = async (...ids: string[]) => {
      const pixels = make();
      pixels.want([layers(...ids)], library);
      await settle();
      return pixels;
    };
    const sizes = (set: ReturnType<StagePixels['soon']>) => set?.surfaces.map(({ packed, transient }) => (transient ? -packed.size : packed.size));

    it('are there first for a surface that comes in later, and go when it is whole', async () => {
      const pixels = await begun('s');
      // At the opening nobody waits for them.
      expect(asked).toEqual(['s 1024']);
      const next = layers('s', 't');
      pixels.want([next], library);
      expect([pixels.of(next), pixels.soon(next)]).toEqual([null, null]);
      await settle();
      expect(asked).toEqual(['s 1024', 't- 256']);
      expect(pixels.of(next)).toBeNull();
      expect(sizes(pixels.soon(next))).toEqual([1024, -256]);
      while (!pixels.of(next)) await settle();
      expect(asked).toEqual(['s 1024', 't- 256', 't 1024']);
      expect(sizes(pixels.soon(next))).toEqual([1024, 1024]);
    });
    it('are not waited for where there are none, and are what there is of a small map', async () => {
      const pixels = await begun('s');
      pixels.want([layers('s', 'old', 'tiny')], library);
      await settle();
      expect(asked).toEqual(['s 1024', 'old 1024', 'tiny 256']);
    });
    it('are not fetched for what others show', async () => {
      const pixels = await begun('s');
      pixels.want([layers('s'), layers('t')], library);
      await settle();
      expect(asked).toEqual(['s 1024', 't 1024']);
    });
    it('of surfaces that may be chosen are fetched beforehand, one after another, once', async () => {
      const pixels = await begun('s');
      const { s, t, u, old } = library;
      const offered = pixels.offer({ s, t, u, old });
      expect(asked).toEqual(['s 1024', 't- 256']);
      await offered;
      await pixels.offer({ u, t });
      expect(asked).toEqual(['s 1024', 't- 256', 'u- 256']);
      const next = layers('s', 'u');
      pixels.want([next], library);
      expect(sizes(pixels.soon(next))).toEqual([1024, -256]);
      // Of other maps they are others.
      await pixels.offer({ t: made('other') });
      expect(asked.at(-1)).toBe('other- 256');
    });
    it('give way to what is chosen, and may be fetched again after a failure', async () => {
      const pixels = await begun('s');
      const { t, u } = library;
      failing = 't- 256';
      const offered = pixels.offer({ t, u });
      // Now somebody chooses the second.
      pixels.want([layers('s', 'u')], library);
      await offered;
      expect(asked).toEqual(['s 1024', 't- 256', 'u- 256']);
      failing = '';
      await pixels.offer({ t });
      expect(asked.at(-1)).toBe('t- 256');
    });
  });
});
