import { hash3, unit } from './hash';

const wrap = (i: number, period: number): number => ((i % period) + period) % period;

/**
 * Value noise in [0, 1] with smooth interpolation, repeating after `period` lattice cells (≥ 1, integers; `periodY` is
 * the same as `period` unless stated).
 */
export function valueNoise(x: number, y: number, period: number, seed: number, periodY = period): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const fx = x - xi;
  const fy = y - yi;
  const u = fx * fx * (3 - 2 * fx);
  const v = fy * fy * (3 - 2 * fy);
  const x0 = wrap(xi, period);
  const y0 = wrap(yi, periodY);
  const x1 = x0 + 1 === period ? 0 : x0 + 1;
  const y1 = y0 + 1 === periodY ? 0 : y0 + 1;
  const a = unit(hash3(x0, y0, seed));
  const b = unit(hash3(x1, y0, seed));
  const c = unit(hash3(x0, y1, seed));
  const d = unit(hash3(x1, y1, seed));
  const top = a + (b - a) * u;
  return top + (c + (d - c) * u - top) * v;
}

/** Fractal sum of value noise in [0, 1]: every octave has half the size and half the weight of the one before. */
export function fractalNoise(x: number, y: number, period: number, seed: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  let total = 0;
  for (let o = 0; o < octaves; o++) {
    sum += weight * valueNoise(x, y, period, seed + o);
    total += weight;
    weight *= 0.5;
    x *= 2;
    y *= 2;
    period *= 2;
  }
  return sum / total;
}
