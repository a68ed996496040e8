// A mesh as a texture lies on it. By itself, for what reads it knows files of meshes, which pages do not carry.
import type { Frame, Mesh, Model } from '@pebble/core';
import { levelMesh, setsOf, slottedMesh, withSpans } from '@pebble/core';
import { withTangents } from '@pebble/formats/mesh';
import { UseCaseError } from './errors';

/**
 * The finest level of a model as textures lie on it by a set, with the tangents of that set: as far as some of its slots.
 * @throws UseCaseError for parts without coordinates, and slots that are not there
 */
export function slotMesh(model: Model, frame: Frame, called: string, set: number, slots?: readonly string[]): Mesh {
  const parts = model.lods[0];
  const bare = parts.find((p) => (!slots || slots.includes(p.slot)) && setsOf(p).length <= set);
  if (bare)
    throw new UseCaseError('no-coordinates', `${called}: ${bare.name} has no set ${set + 1} of texture coordinates. Unwrap it first`, bare.name);
  const whole = levelMesh(model, 0, frame, set);
  const { spans } = slottedMesh(parts, () => ({ set, by: 1 }), frame);
  const mesh = slots
    ? withSpans(
        whole,
        slots.flatMap((slot) => spans[slot] ?? []),
      )
    : whole;
  if (!mesh.index.length) throw new UseCaseError('missing-slot', `${called} has no slot called ${slots?.join(', ')} any more`);
  // Tangents of a file are those of its first set.
  return set ? withTangents(mesh).mesh : mesh;
}
