import type { Heightfield } from '@pebble/core';
import { Recent, coarserField, heightfieldOf, hillside } from '@pebble/core';
import { webCodec } from '@pebble/formats/web';
import { GROUND_SAMPLES } from '@pebble/usecases/ground';
import { bytesOf } from './blob';
import type { GroundOn } from './terrain-protocol';

/** Heights of a terrain, as fine as they are drawn; those that were asked for last are at hand. */
const fields = new Recent<string, Promise<Heightfield>>(2);
export const fieldOf = ({ terrain, heights }: Pick<GroundOn, 'terrain' | 'heights'>): Promise<Heightfield> =>
  fields.of(JSON.stringify([heights, terrain]), async () => {
    if (terrain.heights === null) return hillside(Math.min(terrain.width, GROUND_SAMPLES));
    return coarserField(heightfieldOf(await webCodec.decode(await bytesOf(heights), 'data'), terrain), GROUND_SAMPLES);
  });
