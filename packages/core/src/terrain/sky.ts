// How much of the sky is open over a heightfield: what occlusion means where weights are worked out.
import type { Heightfield } from './heightfield';
import { coarserField, gradientAt } from './heightfield';

/** Samples along a side at which it is looked at; between them it is mixed, for it changes slowly. */
const SAMPLES = 257;
/** Directions that are looked in, and distances along each, in samples: ever longer steps, as what is farther is seen coarser. */
const DIRECTIONS = 24;
const STEPS = (() => {
  const out: number[] = [];
  for (let d = 1; d < SAMPLES * 1.5; d = Math.max(d + 1, d * 1.15)) out.push(d);
  return out;
})();

/** Samples along a direction, as steps from where one stands, and how far each is. */
function wayOf(angle: number): { cx: number; cz: number; right: Int32Array; down: Int32Array; far: Float64Array } {
  const [cx, cz] = [Math.cos(angle), Math.sin(angle)];
  const right = Int32Array.from(STEPS, (d) => Math.round(cx * d));
  const down = Int32Array.from(STEPS, (d) => Math.round(cz * d));
  return { cx, cz, right, down, far: Float64Array.from(right, (r, k) => Math.hypot(r, down[k])) };
}

/**
 * Share of the sky over every sample, 0–1, cosine-weighted about its normal: what horizons leave open, summed over directions. Past
 * the rims nothing stands in the way. Source: the integral of (n·ω)⁺ over elevations from the horizon up, in closed form.
 */
export function fieldSky(field: Heightfield): Float32Array {
  const coarse = coarserField(field, SAMPLES);
  const { width, height, altitude, spacingM } = coarse;
  const sky = new Float32Array(width * height);
  const ways = Array.from({ length: DIRECTIONS }, (_, k) => wayOf(((k + 0.5) / DIRECTIONS) * 2 * Math.PI));
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const [gx, gz] = gradientAt(coarse, x, y);
      const up = 1 / Math.hypot(gx, 1, gz);
      const foot = altitude[i];
      let sum = 0;
      for (const { cx, cz, right, down, far } of ways) {
        // The ground's own plane is a horizon as well; what stands over it is a higher one.
        const plane = gx * cx + gz * cz;
        let over = 0;
        const lean = -plane * up;
        for (let k = 0; k < right.length; k++) {
          const [px, py] = [x + right[k], y + down[k]];
          if (px < 0 || py < 0 || px >= width || py >= height) break;
          const rise = ((altitude[py * width + px] - foot) / spacingM - gx * right[k] - gz * down[k]) / far[k];
          if (rise > over) over = rise;
        }
        const h = Math.atan(plane + over);
        const sin = Math.sin(h);
        sum += lean * ((Math.PI / 2 - h) / 2 - (sin * Math.cos(h)) / 2) + (up * (1 - sin * sin)) / 2;
      }
      sky[i] = Math.min(1, Math.max(0, (2 / DIRECTIONS) * sum));
    }
  return coarse === field ? sky : spread(sky, coarse, field);
}

/** Values of a coarser grid at every sample of a finer one, mixed between the four around it. */
function spread(values: Float32Array, coarse: Heightfield, field: Heightfield): Float32Array {
  const out = new Float32Array(field.width * field.height);
  const times = field.spacingM / coarse.spacingM;
  for (let y = 0, i = 0; y < field.height; y++)
    for (let x = 0; x < field.width; x++, i++) {
      const [fx, fy] = [Math.min(coarse.width - 1, x * times), Math.min(coarse.height - 1, y * times)];
      const [x0, y0] = [Math.floor(fx), Math.floor(fy)];
      const [x1, y1] = [Math.min(coarse.width - 1, x0 + 1), Math.min(coarse.height - 1, y0 + 1)];
      const [tx, ty] = [fx - x0, fy - y0];
      const at = (a: number, b: number) => values[b * coarse.width + a];
      out[i] = (at(x0, y0) * (1 - tx) + at(x1, y0) * tx) * (1 - ty) + (at(x0, y1) * (1 - tx) + at(x1, y1) * tx) * ty;
    }
  return out;
}
