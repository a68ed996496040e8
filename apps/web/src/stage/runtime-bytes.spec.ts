import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Material, Role, SurfaceDocument } from '@pebble/core';
import { runtimeBytes } from './runtime-bytes';
import { StagePixels } from './stage-pixels';

describe('bytes of what a material binds', () => {
  const surface = (...sides: number[]) =>
    ({ maps: Object.fromEntries(sides.map((width, i) => [i ? 'height' : 'baseColor', { width }])) }) as unknown as SurfaceDocument;
  const material = (roles: readonly Role[], masks: Material['slots']['masks'] = []) =>
    ({
      reads: { mesh: new Set(), roles: new Map([[0, new Set(roles)]]), masks: new Set(masks.map((_, i) => i)), ids: new Set(), levels: false },
      slots: { surfaces: ['s'], masks, ids: [] },
    }) as unknown as Material;
  beforeEach(() => TestBed.configureTestingModule({ providers: [{ provide: StagePixels, useValue: { sizeOf: () => ({ width: 16, height: 8 }) } }] }));
  const bytes = (now: Material | null, sides = [64]) =>
    TestBed.runInInjectionContext(() => runtimeBytes(() => now, signal({ s: surface(...sides) })))();
  /** 16 bytes for 4 × 4 texels (BC7) or 8 (BC4), all levels down to one block. */
  const levels = (side: number, block: number) => {
    let sum = 0;
    for (let s = side; s >= 1; s >>= 1) sum += Math.max(1, s / 4) ** 2 * block;
    return sum;
  };

  it('are those of the packed textures that are read, once each, by the largest map of a surface', () => {
    expect(bytes(material(['baseColor', 'opacity']))).toBe(levels(64, 16));
  });
  it('count every packed texture of a surface, and masks by their own size', () => {
    expect(bytes(material(['baseColor', 'height']), [64, 32])).toBe(levels(64, 16) + levels(64, 8));
    const painted = { kind: 'painted', picture: 'p' } as Material['slots']['masks'][number];
    // 16 × 8: eight blocks, then 2, 1, 1, 1.
    expect(bytes(material([], [painted]))).toBe(8 * (8 + 2 + 1 + 1 + 1));
  });
  it('are none before there is one', () => expect(bytes(null)).toBe(0));
});
