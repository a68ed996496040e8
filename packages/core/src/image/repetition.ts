import type { Image } from './buffer';
import { labOf } from './difference';
import { fourier2d, waves } from './fourier';
import { resize } from './resize';
import { decodeTable } from './srgb';

/** How much the eye finds that a picture repeats. */
export interface Repetition {
  /** 0 (never) to 1: `peak · min(1, contrast / 5)`. Up to 0.25 is taken as unnoticed. */
  score: number;
  /** Highest autocorrelation away from zero. */
  peak: number;
  /** Standard deviation of L* of what is left after the low-pass. */
  contrast: number;
  /** Distance at which the peak lies, in metres. */
  everyM: number;
}

/**
 * What the low-pass leaves is wider than about 10° of the visual field: a Gaussian of this standard deviation. Narrower
 * things are looked at one by one; what recurs over a wider span makes a wall look papered.
 */
const FIELD = (5 * Math.PI) / 180;
/** L* that is plainly seen. */
const PLAIN = 5;

/** Score of a square of lightnesses L*, `n` × `n`, `widthM` wide, seen from `distanceM`; wraps round. */
export function repetitionOf(lightness: Float64Array, n: number, widthM: number, distanceM: number): Repetition {
  const re = Float64Array.from(lightness);
  const im = new Float64Array(n * n);
  fourier2d(re, im, n, n);
  const sigma = (Math.tan(FIELD) * distanceM) / widthM;
  let variance = 0;
  for (let y = 0, i = 0; y < n; y++)
    for (let x = 0; x < n; x++, i++) {
      const f2 = waves(x, n) ** 2 + waves(y, n) ** 2;
      // Transfer of the Gaussian, squared: this is a power spectrum.
      const power = f2 === 0 ? 0 : (re[i] ** 2 + im[i] ** 2) * Math.exp(-4 * Math.PI ** 2 * sigma ** 2 * f2);
      re[i] = power;
      im[i] = 0;
      variance += power / n ** 4;
    }
  fourier2d(re, im, n, n, true);
  const contrast = Math.sqrt(variance);
  let [peak, at] = [0, 0];
  const zero = re[0];
  if (zero > 1e-12)
    for (let i = 0; i < n * n; i++) {
      // Within two deviations a blurred picture resembles itself anyway.
      const away = Math.hypot(waves(i % n, n), waves(Math.floor(i / n), n)) / n;
      if (away <= 2 * sigma || re[i] / zero <= peak) continue;
      [peak, at] = [re[i] / zero, away];
    }
  return { score: peak * Math.min(1, contrast / PLAIN), peak, contrast, everyM: at * widthM };
}

/** Side of the picture that is measured. */
export const REPETITION_SIDE = 256;

/** Lightness L* of a picture in sRGB, sample by sample. */
export function lightnessOf({ data, channels, depth }: Image): Float64Array {
  const table = decodeTable(depth === 16 ? 16 : 8, true);
  return Float64Array.from({ length: data.length / channels }, (_, i) => {
    const [r, g, b] = [0, 1, 2].map((c) => table[data[i * channels + (channels >= 3 ? c : 0)]]);
    return labOf(r, g, b)[0];
  });
}

/**
 * Repetition of a tile laid `times` × `times` (a power of two), seen from a distance. `baseColor` holds sRGB, `sizeM` is
 * the side of one tile. Source of the score: the autocorrelation of lightness, own weighting.
 */
export function tileRepetition(baseColor: Image, sizeM: number, times = 4, distanceM = 2): Repetition {
  const n = REPETITION_SIDE;
  const side = n / times;
  const tile = lightnessOf(resize(baseColor, side, side));
  const lightness = Float64Array.from({ length: n * n }, (_, i) => tile[(Math.floor(i / n) % side) * side + (i % side)]);
  return repetitionOf(lightness, n, sizeM * times, distanceM);
}
