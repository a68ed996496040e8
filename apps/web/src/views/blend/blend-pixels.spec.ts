import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Stack, SurfaceDocument } from '@pebble/core';
import { makeBlend, makeCue, makeImage, makeLayer, makeStack, mipChain } from '@pebble/core';
import { ComputeService } from '../../services/compute.service';
import { NoticesService } from '../../services/notices.service';
import type { SizedPicture } from '../../workers/protocol';
import { BlendPixels } from './blend-pixels';

const SIDE = 1024;
/** A mask of one value; small, as nobody looks at its size here. */
const mask = (value: number): SizedPicture => ({
  width: 2,
  height: 2,
  size: SIDE,
  levels: mipChain(makeImage({ width: 2, height: 2, channels: 1, data: new Uint8Array(4).fill(value) })),
});
const stackOf = (picture: string): Stack =>
  makeStack(
    makeBlend('Step', {
      layers: { a: makeLayer('s', 'Stone', 1), b: makeLayer('s', 'Clay', 2, { coverage: { m: makeCue('painted', { picture }) } }) },
    }),
    { s: { sizeM: 1, reliefM: 0.1, mid: 0.5, roles: new Set() } },
  );
const documents = { s: { maps: {} } } as unknown as Record<string, SurfaceDocument>;

describe('textures of a blend', () => {
  let asked: string[];
  const make = () => {
    asked = [];
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        BlendPixels,
        {
          provide: ComputeService,
          useValue: {
            run: async (kind: string, args: { painted?: string }) => {
              asked.push(args.painted ?? kind);
              return args.painted ? mask(args.painted.length) : { size: SIDE };
            },
          },
        },
        { provide: NoticesService, useValue: { error: fail } },
      ],
    });
    return TestBed.inject(BlendPixels);
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
    for (let i = 0; i < 40; i++) pixels.take(`p${i}`, mask(i + 1));
    // What is on show stays, however long ago it came.
    expect(pixels.mean('first')).toBeGreaterThan(0);
    expect(pixels.mean('p39')).toBeGreaterThan(0);
    expect(pixels.mean('p20')).toBeGreaterThan(0);
    expect(pixels.mean('p2')).toBe(0);
    // One that was let go of is fetched again when it is wanted.
    pixels.want([stackOf('p2')], documents);
    await settle();
    expect(asked).toContain('p2');
    expect(pixels.of(stackOf('p2'))).not.toBeNull();
  });
  it('of a surface that may be chosen are fetched beforehand, once', async () => {
    const pixels = make();
    pixels.expect('s', documents['s']);
    pixels.expect('s', documents['s']);
    pixels.expect('gone', undefined);
    await settle();
    expect(asked).toEqual(['pack']);
    const stack = stackOf('one');
    pixels.take('one', mask(1));
    pixels.want([stack], documents);
    expect(pixels.of(stack)?.surfaces.length).toBe(1);
    expect(asked).toEqual(['pack']);
  });
});
