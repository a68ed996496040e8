// Normal maps whose direction is hard to tell: strands, threads that cross, facets, steps that slopes do not hold.
import type { Image } from '@pebble/core';
import { makeImage, makeRandom } from '@pebble/core';

export interface HardNormals {
  name: string;
  image: Image;
  direction: 'y+' | 'y-';
  lossy: boolean;
}

const SIDE = 256;
export const HARD_KINDS = ['strands', 'threads', 'twill', 'slats', 'facets', 'shards'] as const;

/** Height in texels at every texel of a made-up relief. */
function reliefOf(kind: (typeof HARD_KINDS)[number], next: () => number): (u: number, v: number) => number {
  const [kx, ky] = [Math.round((next() * 2 - 1) * 12) || 3, Math.round((next() * 2 - 1) * 12) || 5];
  const amount = 1 + next() * 6;
  const round = next() > 0.5;
  const threads = 8 + Math.floor(next() * 12);
  const points = Array.from({ length: 20 + Math.floor(next() * 60) }, () => [next(), next(), (next() - 0.5) * 1.2, (next() - 0.5) * 1.2, next()]);
  const near = (d: number) => ((d + 1.5) % 1) - 0.5;
  const arch = (f: number) => (round ? Math.sqrt(Math.max(0, 1 - (2 * f - 1) ** 2)) : Math.sin(Math.PI * f));
  const part = (t: number) => t - Math.floor(t);
  if (kind === 'strands') return (u, v) => amount * arch(part(kx * u + ky * v));
  if (kind === 'slats') return (u, v) => amount * part(kx * u + ky * v);
  if (kind === 'threads' || kind === 'twill')
    return (u, v) => {
      const [x, y] = [u * threads, v * threads];
      const over = kind === 'threads' ? (Math.floor(x) + Math.floor(y)) % 2 === 1 : (Math.floor(x) + 2 * Math.floor(y)) % 4 < 2;
      const [a, b] = over ? [part(x), part(y)] : [part(y), part(x)];
      return kind === 'threads' ? amount * arch(a) * (0.4 + 0.6 * Math.sin(Math.PI * b)) : amount * (over ? 1 : 0.6) * Math.sin(Math.PI * a);
    };
  return (u, v) => {
    let best = kind === 'facets' ? 9 : -1;
    let distance = 9;
    for (const [a, b, p, q, c] of points) {
      const [du, dv] = [near(u - a), near(v - b)];
      if (kind === 'facets') best = Math.min(best, c * 0.1 + p * du + q * dv + Math.hypot(du, dv) ** 4 * 30);
      else if (Math.hypot(du, dv) < distance) [distance, best] = [Math.hypot(du, dv), p * du + q * dv + 0.05 * c];
    }
    return best * SIDE * 0.5;
  };
}

/**
 * Normals of a relief by central differences, or, for odd seeds, by the lesser of the differences to both sides: slopes stay
 * those of each thread or facet and its step is nowhere in them.
 */
export function hardNormals(kind: (typeof HARD_KINDS)[number], seed: number): Omit<HardNormals, 'lossy'> {
  const next = makeRandom(seed * 7919 + kind.length * 31 + kind.charCodeAt(1));
  const relief = reliefOf(kind, next);
  const height = Float32Array.from({ length: SIDE * SIDE }, (_, i) => relief(((i % SIDE) + 0.5) / SIDE, (Math.floor(i / SIDE) + 0.5) / SIDE));
  const down = next() < 0.5;
  const image = makeImage({ width: SIDE, height: SIDE, channels: 3, depth: 8 });
  const at = (x: number, y: number) => height[((y + SIDE) % SIDE) * SIDE + ((x + SIDE) % SIDE)];
  const slope = (before: number, here: number, after: number) =>
    seed % 2 === 0 ? (after - before) / 2 : Math.abs(after - here) < Math.abs(here - before) ? after - here : here - before;
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const p = slope(at(x - 1, y), at(x, y), at(x + 1, y));
      // Rows count downward, y up.
      const q = -slope(at(x, y - 1), at(x, y), at(x, y + 1));
      const length = Math.hypot(p, q, 1);
      [-p / length, (down ? q : -q) / length, 1 / length].forEach((v, c) => (image.data[(y * SIDE + x) * 3 + c] = Math.round((v * 0.5 + 0.5) * 255)));
    }
  return { name: `${kind} ${seed}`, image, direction: down ? 'y-' : 'y+' };
}

/** The picture turned by a quarter, its colours as they were. */
export function turned({ width, height, channels, data, ...rest }: Image): Image {
  const out = data.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++) out[(x * height + (height - 1 - y)) * channels + c] = data[(y * width + x) * channels + c];
  return { ...rest, width: height, height: width, channels, data: out };
}
