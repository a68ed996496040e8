import type { Stamp } from '../document';
import { channelsOfHex, hexOf } from '../image';
import { makeRandom } from '../noise';

/** How far stamps that are pressed in turn differ: radians either way, times larger or smaller at most less one, share that colours darken. */
export interface StampScatter {
  turn: number;
  scale: number;
  tint: number;
}
export const NO_SCATTER: StampScatter = { turn: 0, scale: 0, tint: 0 };

/** A stamp as chance has it: turned by ±`turn`, 1/(1 + `scale`) to 1 + `scale` times as large, up to `tint` darker. The same seed gives the same. */
export function scattered<T extends Stamp>(stamp: T, { turn, scale, tint }: StampScatter, seed: number): T {
  const random = makeRandom(seed);
  const [a, b, c] = [random(), random(), random()];
  const times = (1 + scale) ** (2 * b - 1);
  const shade = 1 - tint * c;
  const colour = hexOf(channelsOfHex(stamp.tint).map((v) => Math.round(v * shade)));
  return { ...stamp, turn: stamp.turn + turn * (2 * a - 1), scale: stamp.scale * times, radiusM: stamp.radiusM * times, tint: colour };
}
