import type { BlendDocument, SurfaceDocument } from '@pebble/core';
import { makeBlend, makeCue, makeLayer } from '@pebble/core';
import { nameOfSeveral } from '../../ui/name';

/** A blend of surfaces in the order in which they were picked, each but the first where a noise of its own lets it. */
export function blendOf(list: readonly { id: string; body: SurfaceDocument }[]): BlendDocument {
  const layers = Object.fromEntries(
    list.map(({ id, body }, i) => {
      const even = makeCue('noise', { order: 1, centre: 0.5, width: 0.25, sizeM: 0.6, octaves: 4, seed: i + 2 });
      const layer = makeLayer(id, body.name, i + 1);
      return [`layer${i + 1}`, i ? { ...layer, coverage: { even } } : layer];
    }),
  );
  return makeBlend(nameOfSeveral(list.map((l) => l.body.name)), { extentM: Math.max(...list.map((l) => l.body.sizeM)), layers });
}
