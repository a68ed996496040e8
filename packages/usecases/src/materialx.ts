import type { CuePicture, GraphContext, ImageChannel, MasterDocument, Material, Role } from '@pebble/core';
import { MasterMaterials, SOLID, givenOutputs, optimise, valueRows } from '@pebble/core';
import { writeMaterialX } from '@pebble/formats/materialx';

/** Channels of a surface lie in files by their roles. */
const ROLE_FILE = (channel: ImageChannel): string => (channel === 'spread' ? 'height' : channel);
const mapFile = (surface: string, role: string): string => `${surface}/${role}.png`;
/** Where a picture of a cue lies: in the maps of its surface, or by the hash of what was painted. */
const pictureFile = (picture: CuePicture): string =>
  picture.kind === 'painted' ? `painted/${picture.picture.slice(0, 12)}.png` : mapFile(picture.surface, picture.kind === 'map' ? picture.role : 'id');

/** A file that a master looks for where it is written, and what it holds. */
export type MasterPicture = { path: string } & ({ surface: string; role: Role } | { painted: string });

/** Every file that a master looks for, once. */
export function masterPictures({ slots: { surfaces, masks, ids }, reads }: Pick<Material, 'slots' | 'reads'>): MasterPicture[] {
  const maps = [...reads.roles].flatMap(([slot, roles]) =>
    [...roles].map((role): MasterPicture => ({ path: mapFile(surfaces[slot], role), surface: surfaces[slot], role })),
  );
  const pictures = [...[...reads.masks].map((slot) => masks[slot]), ...[...reads.ids].map((slot) => ids[slot])].map((of): MasterPicture =>
    of.kind === 'painted'
      ? { path: pictureFile(of), painted: of.picture }
      : { path: pictureFile(of), surface: of.surface, role: of.kind === 'map' ? of.role : 'id' },
  );
  return [...new Map([...maps, ...pictures].map((p) => [p.path, p])).values()];
}

/**
 * A master as a MaterialX 1.39 document; maps are looked for as `SURFACE/ROLE.png` beside it.
 * @throws GraphError where it cannot be worked out
 */
export function materialXOf(document: MasterDocument, context: GraphContext): string {
  const materials = new MasterMaterials();
  const { error } = materials.lowering(document, context);
  if (error) throw error;
  const material = materials.of(document, context);
  const { surfaces, masks, ids } = material.slots;
  return writeMaterialX({
    name: document.name,
    help: document.help,
    outputs: optimise(givenOutputs(material.near)).outputs,
    rows: valueRows(document, context),
    values: material.values,
    drawn: material.drawn ?? SOLID,
    fileOf: (slot, channel) => {
      const picture = channel === 'mask' ? masks[slot] : channel === 'id' ? ids[slot] : undefined;
      return picture ? pictureFile(picture) : mapFile(surfaces[slot], ROLE_FILE(channel));
    },
  });
}
