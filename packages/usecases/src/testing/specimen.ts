import type { Model, SpecimenDocument } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import type { Ports } from '../ports';
import { partsOf } from '../specimens';

/** A model as a specimen that was brought in, in metres, its bytes kept. */
export async function broughtIn({ blobs }: { blobs: Pick<Ports['blobs'], 'put'> }, name: string, model: Model): Promise<SpecimenDocument> {
  const blob = await blobs.put(await writeGlb(name.toLowerCase(), model), 'model/gltf-binary');
  return {
    kind: 'specimen',
    version: 1,
    name,
    model: blob,
    file: { blob, fileName: `${name.toLowerCase()}.glb`, bytes: 1 },
    unitM: 1,
    up: 'y',
    uvSet: 0,
    parts: partsOf(model),
    stacking: {},
    thumbnail: null,
    notes: [],
  };
}
