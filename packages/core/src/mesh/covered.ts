// Where a picture says something, and where a mesh lies on its texture: two maps of cells that agree where they belong together.
import type { Image } from '../image';
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** Cells of a side. */
export const CELLS = 48;
/** Samples of a cell, each way. */
const FINE = 4;

/** Cells as text, four a letter. */
export const cellsText = (cells: Uint8Array): string =>
  Array.from({ length: cells.length / 4 }, (_, i) => [0, 1, 2, 3].reduce((n, k) => n | (cells[i * 4 + k] << k), 0).toString(16)).join('');
export const cellsOf = (text: string): Uint8Array =>
  Uint8Array.from({ length: text.length * 4 }, (_, i) => (Number.parseInt(text[i >> 2], 16) >> (i & 3)) & 1);

/** A cell counts where at least half of its samples do. */
const halves = (samples: Uint8Array): Uint8Array => {
  const side = CELLS * FINE;
  return Uint8Array.from({ length: CELLS * CELLS }, (_, at) => {
    let count = 0;
    for (let i = 0; i < FINE * FINE; i++)
      count += samples[(Math.floor(at / CELLS) * FINE + Math.floor(i / FINE)) * side + (at % CELLS) * FINE + (i % FINE)];
    return count * 2 >= FINE * FINE ? 1 : 0;
  });
};

/** Cells of a texture that meshes lie on; what lies in other tiles counts where it repeats. */
export function coveredCells(meshes: readonly Pick<Mesh, 'texcoord' | 'index'>[]): Uint8Array {
  const side = CELLS * FINE;
  const samples = new Uint8Array(side * side);
  const window = { x0: 0, y0: 0, x1: side, y1: side };
  for (const { texcoord, index } of meshes)
    for (let t = 0; t + 2 < index.length; t += 3) {
      const corners = [0, 1, 2].flatMap((k) => [texcoord[index[t + k] * 2], texcoord[index[t + k] * 2 + 1]]);
      const tile = [0, 1].map((c) => Math.floor((corners[c] + corners[2 + c] + corners[4 + c]) / 3));
      const here = corners.map((v, i) => (v - tile[i & 1]) * side);
      if (here.every(Number.isFinite)) fillTriangle(here, window, (x, y) => (samples[y * side + x] = 1));
    }
  return halves(samples);
}

/** Of all texels, what shares the commonest colour may have to be a ground that the rest stands on. */
const GROUND = { least: 0.04, most: 0.97 };
/** Differences up to this are loss, of 255. */
const SAME = 5;

/** Cells where a picture says something: what is clear, or of the one colour that islands stand on, says nothing. Null where it has no such ground. */
export function inkCells({ width, height, channels, depth, data }: Image): Uint8Array | null {
  const side = CELLS * FINE;
  const full = depth === 32 ? 1 : 2 ** depth - 1;
  const value = (x: number, y: number, c: number): number => {
    const [px, py] = [Math.min(width - 1, Math.floor(((x + 0.5) * width) / side)), Math.min(height - 1, Math.floor(((y + 0.5) * height) / side))];
    return Math.round((data[(py * width + px) * channels + c] / full) * 255);
  };
  const all = Array.from({ length: channels }, (_, c) =>
    Uint8Array.from({ length: side * side }, (_v, i) => Math.min(255, value(i % side, Math.floor(i / side), c))),
  );
  const alpha = channels === 4 || channels === 2 ? all[channels - 1] : null;
  const clear = alpha ? alpha.reduce((n, v) => n + (v === 0 ? 1 : 0), 0) / alpha.length : 0;
  if (alpha && clear > GROUND.least && clear < GROUND.most) return halves(alpha.map((v) => (v > 0 ? 1 : 0)));
  const counts = new Map<number, number>();
  for (let i = 0; i < side * side; i++) {
    const key = all.reduce((k, plane) => k * 256 + plane[i], 0);
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  const [[commonest]] = [...counts].sort(([, a], [, b]) => b - a);
  const colour = all.map((_, c) => Math.floor(commonest / 256 ** (channels - 1 - c)) % 256);
  const ink = new Uint8Array(side * side).map((_, i) => (all.some((plane, c) => Math.abs(plane[i] - colour[c]) > SAME) ? 1 : 0));
  const ground = 1 - ink.reduce((n, v) => n + v, 0) / ink.length;
  return ground > GROUND.least && ground < GROUND.most ? halves(ink) : null;
}

/** How far two maps of cells agree, 0–1: cells that both have, of those that either has. */
export function cellsAgree(a: Uint8Array, b: Uint8Array): number {
  let [both, either] = [0, 0];
  a.forEach((v, i) => {
    both += v & b[i];
    either += v | b[i];
  });
  return either ? both / either : 0;
}

/** Texels of a side on which rims are looked at, and how far beyond an island a texel lies that a filter still reads. */
const RIM = { side: 512, beyond: 2 };
/** Differences of a channel from which the ground is another colour than an island, of 255. */
const OTHER = 48;

/**
 * Of the texels right beyond the islands of meshes, the share that is the ground at once, in another colour than the island beside
 * them: where it is large, smaller levels carry the ground into the islands.
 */
export function bareRims({ width, height, channels, depth, data }: Image, meshes: readonly Pick<Mesh, 'texcoord' | 'index'>[]): number {
  const side = Math.min(RIM.side, width, height);
  const window = { x0: 0, y0: 0, x1: side, y1: side };
  const covered = new Uint8Array(side * side);
  for (const { texcoord, index } of meshes)
    for (let t = 0; t + 2 < index.length; t += 3) {
      const corners = [0, 1, 2].flatMap((k) => [texcoord[index[t + k] * 2] * side, texcoord[index[t + k] * 2 + 1] * side]);
      if (corners.every(Number.isFinite)) fillTriangle(corners, window, (x, y) => (covered[y * side + x] = 1));
    }
  const k = depth === 32 ? 255 : 255 / (2 ** depth - 1);
  const colours = Math.min(3, channels);
  const value = (x: number, y: number, c: number): number =>
    data[
      (Math.min(height - 1, Math.floor(((y + 0.5) * height) / side)) * width + Math.min(width - 1, Math.floor(((x + 0.5) * width) / side))) *
        channels +
        c
    ] * k;
  // What islands stand on: the commonest colour where there is none.
  const counts = new Map<number, number>();
  for (let i = 0; i < covered.length; i++) {
    if (covered[i]) continue;
    const key = Array.from({ length: colours }, (_, c) => Math.round(value(i % side, Math.floor(i / side), c))).reduce((n, v) => n * 256 + v, 0);
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  const commonest = [...counts].reduce((a, b) => (b[1] > a[1] ? b : a), [0, 0])[0];
  const ground = Array.from({ length: colours }, (_, c) => Math.floor(commonest / 256 ** (colours - 1 - c)) % 256);
  const isGround = (x: number, y: number): boolean => ground.every((v, c) => Math.abs(value(x, y, c) - v) <= SAME);
  const [ways, far] = [
    [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const,
    RIM.beyond,
  ];
  let [rim, bare] = [0, 0];
  for (let y = far; y < side - far; y++)
    for (let x = far; x < side - far; x++) {
      if (!covered[y * side + x]) continue;
      for (const [dx, dy] of ways) {
        const [ox, oy] = [x + dx * far, y + dy * far];
        if (covered[(y + dy) * side + x + dx] || covered[oy * side + ox]) continue;
        // From well inside, for the last texel of an island is often mixed with what lies around it.
        const [ix, iy] = [x - dx * far, y - dy * far];
        if (!covered[iy * side + ix]) continue;
        rim++;
        if (isGround(ox, oy) && ground.some((v, c) => Math.abs(v - value(ix, iy, c)) > OTHER)) bare++;
      }
    }
  return rim ? bare / rim : 0;
}
