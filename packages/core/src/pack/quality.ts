// How far a picture is from another of the same size: what compression and packing lost.
import type { Image } from '../image';
import { deltaE2000, fullScale, labOf, srgbToLinear } from '../image';

/** Differences over all texels. */
export interface Spread {
  mean: number;
  /** 99 of 100 are at most this. */
  p99: number;
  max: number;
}
export interface Quality {
  /** Of each channel: peak signal-to-noise ratio in dB (null where nothing differs), and differences of values 0–1. */
  channels: ({ psnr: number | null } & Spread)[];
  /** Between directions, in degrees. */
  angle?: Spread;
  /** Between colours, ΔE2000. */
  deltaE?: Spread;
}
/** Whose pictures two are: directions, sRGB colours, or numbers. */
export type Compared = 'normal' | 'colour' | 'data';

function spreadOf(values: Float64Array): Spread {
  if (!values.length) return { mean: 0, p99: 0, max: 0 };
  const sorted = values.slice().sort();
  return {
    mean: values.reduce((a, b) => a + b, 0) / values.length,
    p99: sorted[Math.min(sorted.length - 1, Math.ceil(sorted.length * 0.99) - 1)],
    max: sorted[sorted.length - 1],
  };
}

/** A direction of a stored normal; what has two channels has its third rebuilt. */
function direction({ data, channels, depth }: Image, i: number): [number, number, number] {
  const full = fullScale(depth);
  const [x, y] = [0, 1].map((c) => (data[i * channels + c] / full) * 2 - 1);
  const z = channels > 2 ? (data[i * channels + 2] / full) * 2 - 1 : Math.sqrt(Math.max(0, 1 - x * x - y * y));
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}

/**
 * Compares two pictures, the second against the first. Channels that only one has are left out; grey stands for three alike.
 * PSNR = 10·log10(1 / mean squared difference), values 0–1.
 * @throws RangeError for pictures of different sizes
 */
export function compareImages(a: Image, b: Image, as: Compared): Quality {
  if (a.width !== b.width || a.height !== b.height)
    throw new RangeError(`One is ${a.width} × ${a.height}, the other ${b.width} × ${b.height}: only pictures of one size can be compared`);
  const count = a.width * a.height;
  const shared = a.channels === 1 || b.channels === 1 ? 1 : Math.min(a.channels, b.channels);
  const [fullA, fullB] = [fullScale(a.depth), fullScale(b.depth)];
  const quality: Quality = {
    channels: Array.from({ length: shared }, (_, c) => {
      const off = new Float64Array(count);
      let squared = 0;
      for (let i = 0; i < count; i++) {
        off[i] = Math.abs(a.data[i * a.channels + c] / fullA - b.data[i * b.channels + c] / fullB);
        squared += off[i] ** 2;
      }
      return { psnr: squared ? 10 * Math.log10(count / squared) : null, ...spreadOf(off) };
    }),
  };
  if (as === 'normal' && shared > 1)
    quality.angle = spreadOf(
      Float64Array.from({ length: count }, (_, i) => {
        const [p, q] = [direction(a, i), direction(b, i)];
        // Of small angles the chord says more than the cosine.
        return (2 * Math.asin(Math.min(1, Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) / 2)) * 180) / Math.PI;
      }),
    );
  if (as === 'colour' && shared > 2)
    quality.deltaE = spreadOf(
      Float64Array.from({ length: count }, (_, i) => {
        const lab = ({ data, channels }: Image, full: number) => {
          const [r, g, bl] = [0, 1, 2].map((c) => srgbToLinear(data[i * channels + c] / full));
          return labOf(r, g, bl);
        };
        return deltaE2000(lab(a, fullA), lab(b, fullB));
      }),
    );
  return quality;
}
