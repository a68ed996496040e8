// Pixels that evaluating a material reads.
import type { ChannelSource, Image, ImageChannel, MapSet, Material, Sources } from '@pebble/core';
import { CompileError, mipChain, sourceOfPicture, sourcesOfMaps, wantsMips } from '@pebble/core';

/** Pixels that evaluating a material reads, by its slots. */
export interface Ingredients {
  slots: readonly MapSet[];
  /** Pictures of cues: masks with one channel, IDs with three. */
  masks: readonly Image[];
  ids: readonly Image[];
}
export const ingredients = (slots: readonly MapSet[], masks: readonly Image[] = [], ids: readonly Image[] = []): Ingredients => ({
  slots,
  masks,
  ids,
});

/** Sources from whole pictures. */
export function sourcesOf({ slots, masks, ids }: Ingredients, mips: boolean): Sources {
  const finders = slots.map((maps) => sourcesOfMaps(maps, mips));
  const made = new Map<string, ChannelSource>();
  return (slot, channel: ImageChannel) => {
    const key = `${slot}${channel}`;
    let source = made.get(key);
    if (source) return source;
    if (channel === 'mask' && masks[slot]) source = sourceOfPicture(mips ? mipChain(masks[slot]) : [masks[slot]]);
    else if (channel === 'id' && ids[slot]) source = sourceOfPicture([ids[slot]]);
    else source = finders[slot]?.(channel);
    if (!source) throw new CompileError('missing-source', `Slot ${slot} has no ${channel}`, 'image');
    made.set(key, source);
    return source;
  };
}

/** Whether a picture with so many texels an extent shows what it looks up smaller than it is, so that mip levels are wanted. */
export const showsSmaller = (material: Material, { slots, masks }: Ingredients, texels: number): boolean =>
  wantsMips(material, texels, {
    surfaces: slots.map((maps) => Math.max(0, ...Object.values(maps).map((m) => m.width))),
    masks: masks.map((m) => m.width),
  });
