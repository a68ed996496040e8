import type { FieldFacts, Heightfield, Image } from '@pebble/core';
import { FIELD_SIDES, heightfieldOf } from '@pebble/core';
import { UseCaseError } from './errors';

/** A heightfield from its picture. @throws UseCaseError for a size that no terrain has */
export function fieldFrom(image: Image, facts: FieldFacts, where: string): Heightfield {
  const { least, most } = FIELD_SIDES;
  if (Math.min(image.width, image.height) < least || Math.max(image.width, image.height) > most)
    throw new UseCaseError(
      'too-large',
      `${where} has ${image.width} × ${image.height} samples; a terrain has ${least} to ${most} along a side`,
      where,
    );
  return heightfieldOf(image, facts);
}
