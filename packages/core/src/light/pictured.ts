// Skies that are pictures.
import type { Image } from '../image';
import { fullScale, srgbToLinear } from '../image';
import type { Sky } from './sky';

/**
 * The sky of a picture that holds all directions: u = atan2(z, x)/2π + ½, v from +Y down, as maps of light are laid out. Colours of
 * sRGB become linear; one channel is grey. Bilinear, around the horizon it meets itself.
 */
export function picturedSky({ width, height, channels, depth, colourSpace, data }: Image): Sky {
  const full = fullScale(depth);
  const linear = (v: number) => (colourSpace === 'srgb' ? srgbToLinear(v / full) : v / full);
  const texel = (x: number, y: number, c: number) => linear(data[(y * width + x) * channels + (channels < 3 ? 0 : c)]);
  return (d, out) => {
    const u = (Math.atan2(d[2], d[0]) / (2 * Math.PI) + 0.5) * width - 0.5;
    const v = Math.min(height - 1, Math.max(0, (Math.acos(Math.min(1, Math.max(-1, d[1]))) / Math.PI) * height - 0.5));
    const [x0, y0] = [Math.floor(u), Math.floor(v)];
    const [fx, fy] = [u - x0, v - y0];
    const [left, right] = [(x0 + width) % width, (x0 + 1) % width];
    const below = Math.min(height - 1, y0 + 1);
    for (let c = 0; c < 3; c++) {
      const top = texel(left, y0, c) * (1 - fx) + texel(right, y0, c) * fx;
      out[c] = top * (1 - fy) + (texel(left, below, c) * (1 - fx) + texel(right, below, c) * fx) * fy;
    }
    return out;
  };
}
