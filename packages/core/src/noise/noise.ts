import { hash2, pcg, unit } from './hash';

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
  const row0 = pcg((y0 + pcg(seed >>> 0)) >>> 0);
  const row1 = pcg((y1 + pcg(seed >>> 0)) >>> 0);
  const a = unit(pcg((x0 + row0) >>> 0));
  const b = unit(pcg((x1 + row0) >>> 0));
  const c = unit(pcg((x0 + row1) >>> 0));
  const d = unit(pcg((x1 + row1) >>> 0));
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

export interface Cell {
  /** Distance to the nearest point and to the second nearest, in cells. */
  near: number;
  next: number;
  /** Hash of the nearest point's cell: identity of the element. */
  id: number;
  /** Vector from the nearest point to the sample, in cells. */
  dx: number;
  dy: number;
}

/** Cellular noise: one point a lattice cell, moved by up to `jitter` (0–1) of the cell; tileable by `period`. */
export function cellNoise(x: number, y: number, period: number, seed: number, jitter: number, out: Cell): Cell {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  out.near = out.next = 9;
  const margin = (1 - jitter) * 0.5;
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      const h = hash2(wrap(xi + i, period), wrap(yi + j, period), seed);
      const dx = x - (xi + i + margin + jitter * unit(h));
      const dy = y - (yi + j + margin + jitter * unit(pcg(h)));
      const d = Math.sqrt(dx * dx + dy * dy);
      if (d < out.near) {
        out.next = out.near;
        out.near = d;
        out.id = h;
        out.dx = dx;
        out.dy = dy;
      } else if (d < out.next) out.next = d;
    }
  return out;
}

export const makeCell = (): Cell => ({ near: 9, next: 9, id: 0, dx: 0, dy: 0 });
