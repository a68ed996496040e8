import type { GraphContext, ImageChannel, MasterDocument } from '@pebble/core';
import { MasterMaterials, SOLID, givenOutputs, optimise, valueRows } from '@pebble/core';
import { writeMaterialX } from '@pebble/formats/materialx';

/** Channels of a surface lie in files by their roles. */
const ROLE_FILE = (channel: ImageChannel): string => (channel === 'spread' ? 'height' : channel);

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
      if (!picture) return `${surfaces[slot]}/${ROLE_FILE(channel)}.png`;
      if (picture.kind === 'map') return `${picture.surface}/${picture.role}.png`;
      return picture.kind === 'id' ? `${picture.surface}/id.png` : `painted/${slot}.png`;
    },
  });
}
