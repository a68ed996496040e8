import type { Signal } from '@angular/core';
import { computed, inject } from '@angular/core';
import type { Material, SurfaceDocument, Unit } from '@pebble/core';
import { PACKED_FORMATS, textureBytes, texturesOf } from '@pebble/core';
import { StagePixels } from './stage-pixels';

/** Bytes of the packed textures that a material binds, mips and all, in the formats that the runtime keeps. Wants an injection context. */
export function runtimeBytes(
  material: () => Pick<Material, 'reads' | 'slots'> | null,
  surfaces: Signal<Readonly<Record<string, SurfaceDocument>>>,
): Signal<number> {
  const pixels = inject(StagePixels);
  /** A surface is packed as large as the largest of its maps. */
  const square = (id: string) => {
    const side = Math.max(1, ...Object.values(surfaces()[id]?.maps ?? {}).map((m) => m.width));
    return { width: side, height: side };
  };
  const sizeOf = (unit: Unit, slot: number, { surfaces: list, masks, ids }: Material['slots']) => {
    if (unit !== 'mask' && unit !== 'id') return square(list[slot]);
    const picture = (unit === 'mask' ? masks : ids)[slot];
    return picture.kind === 'painted' ? pixels.sizeOf(picture.picture) : square(picture.surface);
  };
  return computed(() => {
    const now = material();
    if (!now) return 0;
    return texturesOf(now.reads).reduce((sum, { unit, slot }) => {
      const { width, height } = sizeOf(unit, slot, now.slots);
      return sum + textureBytes(width, height, PACKED_FORMATS[unit]);
    }, 0);
  });
}
