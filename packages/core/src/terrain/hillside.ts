// Orrin Ridge: a terraced hillside with paths between the terraces and a stream that runs down through them. All made up.
import { valueNoise } from '../noise';
import type { Heightfield } from './heightfield';

/** The hillside as it ships: metres across, metres from its lowest to its highest place at most, altitude of its foot. */
export const HILLSIDE = { acrossM: 512, rangeM: 176, footM: 1720 } as const;
/** Terraces up the slope, and the share of each that is a wall. */
const TERRACES = { count: 13, wall: 0.16 };
const smooth = (t: number): number => t * t * (3 - 2 * t);
const clamp = (v: number): number => Math.min(1, Math.max(0, v));

/** Noise of an octave sum about 0, −½ to ½, with features of `cells` across the whole. */
function rolling(u: number, v: number, cells: number, seed: number, octaves: number): number {
  let [sum, weight, total] = [0, 0.5, 0];
  for (let o = 0; o < octaves; o++, weight *= 0.5) {
    sum += weight * valueNoise(u * cells * 2 ** o, v * cells * 2 ** o, 4096, seed + o);
    total += weight;
  }
  return sum / total - 0.5;
}

/** Where the stream runs at a distance down the hill, 0–1 across. */
export const streamAt = (v: number): number => 0.62 + 0.09 * Math.sin(v * 7.1 + 0.6) + 0.035 * Math.sin(v * 19 + 2);
/** Where a path climbs, 0–1 across: it turns three times. */
export const pathAt = (v: number): number => 0.26 + 0.16 * Math.sin(v * 9.4);

/**
 * The hillside on a grid of samples. The same side gives the same bytes; a finer one has the same hill with more detail.
 * @param samples along its northern rim; @param rows down the hill
 */
export function hillside(samples = 1025, rows = samples): Heightfield {
  const altitude = new Float32Array(samples * rows);
  for (let y = 0, i = 0; y < rows; y++)
    for (let x = 0; x < samples; x++, i++) {
      const [u, v] = [x / (samples - 1), y / (samples - 1)];
      // It falls from the north, with spurs and hollows; steeper in the middle.
      const across = u - streamAt(v);
      const valley = Math.exp(-((across / 0.07) ** 2));
      const fall = clamp(1 - v - 0.16 * rolling(u, v, 3, 11, 3) - 0.05 * rolling(u, v, 11, 31, 3) - 0.07 * valley);
      const slope = 0.5 * fall + 0.5 * smooth(fall);
      // Terraces follow the lines of equal height where people dug them: on the middle of the hill, beside the stream.
      const dug =
        smooth(clamp((slope - 0.12) / 0.12)) *
        smooth(clamp((0.86 - slope) / 0.12)) *
        smooth(clamp((rolling(u, v, 2, 71, 2) + 0.32) / 0.3)) *
        (1 - Math.exp(-((across / 0.035) ** 2)));
      const at = slope * TERRACES.count;
      const step = Math.floor(at);
      const within = at - step;
      const bench =
        within < 1 - TERRACES.wall
          ? within * 0.12
          : 0.12 * (1 - TERRACES.wall) + smooth((within - 1 + TERRACES.wall) / TERRACES.wall) * (1 - 0.12 * (1 - TERRACES.wall));
      let h = slope + (dug * (step + bench - at)) / TERRACES.count;
      // The stream has cut its bed, deeper the farther down.
      const off = across / (0.008 + 0.012 * v);
      h -= (0.012 + 0.02 * v) * Math.exp(-off * off);
      // The path is trodden in, and levels what it crosses.
      const aside = Math.abs(u - pathAt(v)) / 0.005;
      h -= 0.0035 * Math.exp(-aside * aside);
      h += 0.004 * rolling(u, v, 60, 131, 4);
      altitude[i] = HILLSIDE.footM + HILLSIDE.rangeM * clamp(0.03 + 0.94 * h);
    }
  return { width: samples, height: rows, spacingM: HILLSIDE.acrossM / (samples - 1), altitude };
}
