// The still of the example as somebody would deliver it, with the map that tells its materials apart and what lies on it.
import type { Image, Model } from '@pebble/core';
import { SPECIMEN_MODELS, idMapOf, levelMesh, setsOf, withSets } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import type { Report } from '@pebble/usecases';
import { importSurface } from '@pebble/usecases';
import { layOut, tangented } from '@pebble/usecases/layout';
import { importMesh } from '@pebble/usecases/specimens';
import { stillDocuments } from '../../demo';
import { STILL, STILL_COLOURS } from '@pebble/usecases';
import type { JobDefinition } from '../kind';

/** Side of the ID map, in texels. Colours meet half way between islands, so that its size hardly matters. */
const SIDE = 512;

/** The still with its islands in one tile, and a second set in which surfaces repeat. */
export async function tiledStill(report: Report): Promise<Model> {
  let model = SPECIMEN_MODELS['copper-still'](1);
  const levels = model.lods.length;
  for (const level of model.lods.keys())
    ({ model } = await layOut(model, 'repack', level, 0, { unitM: 1, up: 'y' }, (done, note) => report((level + done) / levels, note)));
  return { ...model, lods: model.lods.map((parts) => parts.map((part) => tangented(withSets(part, [...setsOf(part)].reverse())))) };
}

/** Every slot of the still in its colour, in the tile. */
export const stillIds = (still: Model, size: number): Image =>
  idMapOf(
    levelMesh(still),
    still.lods[0].map((part) => STILL_COLOURS[part.slot]),
    size,
  );

export const still: JobDefinition<'still'> = {
  async run({ ports, report }) {
    const model = await tiledStill((done, note) => report(0.7 * done, note));
    const blob = await ports.blobs.put(await writeGlb('copper-still', model), 'model/gltf-binary');
    const { body } = await importMesh(ports, { blob, fileName: 'copper_still.glb' }, [], (done, note) => report(0.7 + 0.2 * done, note));
    const picture = await ports.blobs.put(await ports.codec.encode(stillIds(model, SIDE)), 'image/png');
    const ids = await importSurface(
      ports,
      {
        name: 'Copper still, IDs',
        sizeM: 1,
        reliefM: 0,
        maps: [{ blob: picture, fileName: 'copper_still_ID.png', role: 'id', normalDirection: 'y+' }],
      },
      (done, note) => report(0.9 + 0.1 * done, note),
    );
    return {
      create: [{ id: STILL.specimen, body: { ...body, name: 'Copper still, one tile' } }, { id: STILL.ids, body: ids }, ...stillDocuments()],
      result: {},
    };
  },
};
