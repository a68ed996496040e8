import type { LightData, MapSet, SurfaceFacts } from '@pebble/core';
import { renderFlat, resize, tileRepetition, unpackLight } from '@pebble/core';
import { picture } from './pictures';
import type { LitTile } from './protocol';

let light: Promise<LightData> | null = null;
const theLight = (): Promise<LightData> =>
  (light ??= fetch('/light/overcast.bin')
    .then((r) => r.arrayBuffer())
    .then((bytes) => unpackLight(new Uint8Array(bytes))));

/** One repetition of a surface from straight above, lit, with the shadows of its relief; and how much it repeats when tiled. */
export async function litTile(maps: MapSet, facts: SurfaceFacts, size: number): Promise<LitTile> {
  const rows = Math.max(1, Math.round(size * (facts.tall ?? 1)));
  const small = Object.fromEntries(Object.entries(maps).map(([role, map]) => [role, map.width > size ? resize(map, size, rows) : map])) as MapSet;
  const lit = await picture(renderFlat(small, facts, await theLight(), { size, rows, widthM: facts.sizeM }));
  return { lit, repetition: maps.baseColor ? tileRepetition(maps.baseColor, facts.sizeM) : null };
}
