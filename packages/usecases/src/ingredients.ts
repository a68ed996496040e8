// Pixels that evaluating a stack reads.
import type { ChannelSource, Image, ImageChannel, MapSet, Sources, Stack, StackLayer } from '@pebble/core';
import { CompileError, mipChain, readsLevels, sourceOfPicture, sourcesOfMaps } from '@pebble/core';

/** Pixels that evaluating a stack reads, by its slots. */
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

/** Whether a picture of this size shows the sources smaller than they are, so that mip levels are wanted. */
export function wantsMips(stack: Stack, slots: readonly MapSet[], size: number): boolean {
  const small = ({ slot, repeats, inner }: StackLayer): boolean =>
    inner
      ? wantsMips(inner, slots, size / repeats)
      : slot >= 0 && Math.max(0, ...Object.values(slots[slot]).map((m) => m.width)) * repeats > size * 1.01;
  return readsLevels(stack) || stack.layers.some(small);
}
