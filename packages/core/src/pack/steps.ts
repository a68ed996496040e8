// What happens to a channel between its map and its file.
import type { MapRoute } from '../document';
import type { Depth } from '../image';
import { fullScale, linearToSrgb, srgbToLinear } from '../image';

/** What a route does in order: the colour space, the levels, the turning over. @param v 0–1 as it is stored */
export function routed({ space, levels, invert }: Pick<MapRoute, 'space' | 'levels' | 'invert'>, v: number): number {
  let out = space === 'linear' ? srgbToLinear(v) : space === 'srgb' ? linearToSrgb(v) : v;
  if (levels) {
    const { low, high, mid } = levels;
    const t = Math.min(1, Math.max(0, (out - low) / Math.max(1e-6, high - low)));
    // Bent so that `mid` becomes one half: the ends stay.
    out = (t * (1 - mid)) / (t * (1 - mid) + mid * (1 - t));
  }
  return invert ? 1 - out : out;
}

/** Whether a route changes what is stored beyond turning it over, which is exact. */
export const changes = ({ space, levels }: Pick<MapRoute, 'space' | 'levels'>): boolean => space !== undefined || levels !== undefined;

/** Stored values of a route, 0 to full scale of the file and not yet rounded, by stored values of its map. */
export function routeTable(route: MapRoute, from: Exclude<Depth, 32>, to: 8 | 16): Float64Array {
  const [full, out] = [fullScale(from), fullScale(to)];
  return Float64Array.from({ length: full + 1 }, (_, v) => routed(route, v / full) * out);
}

/** Thresholds of an ordered dither, −½ to ½ of a step: 8 × 8, each once (Bayer 1973). */
export const DITHER = Float64Array.from({ length: 64 }, (_, i) => {
  const [x, y] = [i % 8, i >> 3];
  let value = 0;
  for (let bit = 0; bit < 3; bit++) value = (value << 2) | ((((x >> bit) & 1) ^ ((y >> bit) & 1)) << 1) | ((y >> bit) & 1);
  return (value + 0.5) / 64 - 0.5;
});
/** The threshold at a place. */
export const ditherAt = (x: number, y: number): number => DITHER[(y & 7) * 8 + (x & 7)];
