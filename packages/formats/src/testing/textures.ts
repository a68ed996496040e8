// Made-up maps for recognition: patterns of their own, apart from the product's generators.
import type { Image, MapSet } from '@pebble/core';
import { makeImage, makeRandom, normalsFromHeight } from '@pebble/core';

type Field = (u: number, v: number) => number;

/** Tileable value noise of a number of cells, 0–1. */
function noise(next: () => number, cells: number): Field {
  const grid = Float32Array.from({ length: cells * cells }, next);
  const at = (x: number, y: number) => grid[(((y % cells) + cells) % cells) * cells + (((x % cells) + cells) % cells)];
  const fade = (t: number) => t * t * (3 - 2 * t);
  return (u, v) => {
    const [x, y] = [u * cells, v * cells];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const [fx, fy] = [fade(x - x0), fade(y - y0)];
    const top = at(x0, y0) + (at(x0 + 1, y0) - at(x0, y0)) * fx;
    const low = at(x0, y0 + 1) + (at(x0 + 1, y0 + 1) - at(x0, y0 + 1)) * fx;
    return top + (low - top) * fy;
  };
}
const octaves = (next: () => number, cells: number, count: number): Field => {
  const fields = Array.from({ length: count }, (_, k) => noise(next, cells << k));
  return (u, v) => fields.reduce((sum, f, k) => sum + f(u, v) / 2 ** k, 0) / (2 - 2 ** (1 - count));
};
/** Distance to the nearest of scattered points, and which it is. */
function cells(next: () => number, count: number): (u: number, v: number) => [near: number, id: number, second: number] {
  const points = Array.from({ length: count }, () => [next(), next()]);
  return (u, v) => {
    let [best, second, id] = [9, 9, 0];
    points.forEach(([x, y], i) => {
      const dx = Math.abs(u - x);
      const dy = Math.abs(v - y);
      const d = Math.hypot(Math.min(dx, 1 - dx), Math.min(dy, 1 - dy));
      if (d < best) [best, second, id] = [d, best, i];
      else if (d < second) second = d;
    });
    return [best, id, second];
  };
}
const clamp = (x: number) => Math.min(1, Math.max(0, x));
const ease = (a: number, b: number, x: number) => clamp((x - a) / (b - a)) ** 2 * (3 - 2 * clamp((x - a) / (b - a)));

export const PATTERNS = ['setts', 'planks', 'plates', 'dunes', 'weave', 'rubble'] as const;
export type Pattern = (typeof PATTERNS)[number];

/** Height, an element's number and how special a place is, 0–1 each, of a pattern. */
function patternOf(name: Pattern, next: () => number): (u: number, v: number) => { height: number; id: number; special: number } {
  const fine = octaves(next, 16, 4);
  const wide = octaves(next, 3, 3);
  const points = cells(next, name === 'rubble' ? 90 : 24);
  const rows = 3 + Math.floor(next() * 5);
  const columns = 2 + Math.floor(next() * 4);
  return (u, v) => {
    const rough = fine(u, v);
    if (name === 'setts') {
      const y = v * rows * 2;
      const x = (u + (Math.floor(y) % 2) * (0.5 / columns)) * columns;
      const edge = Math.min(x - Math.floor(x), 1 - x + Math.floor(x), (y - Math.floor(y)) * 0.6, (1 - y + Math.floor(y)) * 0.6);
      const face = ease(0.03, 0.12, edge + (rough - 0.5) * 0.03);
      return { height: face * (0.7 + 0.3 * wide(u, v)) + 0.08 * rough, id: Math.floor(y) * 17 + (Math.floor(x) % columns), special: face };
    }
    if (name === 'planks') {
      const y = v * rows;
      const edge = Math.min(y - Math.floor(y), 1 - y + Math.floor(y));
      const grain = 0.5 + 0.5 * Math.sin((wide(u, v * 3) * 9 + y * 40) * 1.3);
      return { height: ease(0.01, 0.05, edge) * (0.75 + 0.15 * grain) + 0.07 * rough, id: Math.floor(y), special: grain };
    }
    if (name === 'dunes') {
      const h = 0.5 + 0.35 * Math.sin(2 * Math.PI * (rows * v + 1.2 * wide(u, v))) * (0.5 + wide(v, u));
      return { height: clamp(h + 0.1 * (rough - 0.5)), id: 0, special: wide(v, u) };
    }
    if (name === 'weave') {
      const [x, y] = [u * columns * 6, v * columns * 6];
      const over = (Math.floor(x) + Math.floor(y)) % 2;
      const across = Math.abs(Math.sin(Math.PI * (over ? x : y)));
      return { height: clamp(0.2 + 0.6 * across + 0.15 * rough), id: over, special: over };
    }
    const [near, id, second] = points(u, v);
    const gap = second - near;
    const stone = name === 'rubble' ? Math.sqrt(clamp(gap * 14)) : ease(0.004, 0.03, gap + 0.01 * rough);
    return { height: clamp(stone * (0.6 + 0.4 * ((id * 7919) % 13) * (1 / 13)) + 0.1 * rough), id, special: ease(0.45, 0.6, wide(u, v)) };
  };
}

/** All maps of a made-up surface, and an ID map of its elements. */
export function madeUp(name: Pattern, seed: number, size: number): { maps: MapSet; id: Image; reliefM: number } {
  const next = makeRandom(seed * 2654435761 + name.length);
  const pattern = patternOf(name, next);
  const [tint, dirt] = [octaves(next, 5, 4), octaves(next, 9, 3)];
  const palette = Array.from({ length: 7 }, () => {
    const light = 0.15 + 0.5 * next();
    return [light * (1 + 0.35 * (next() - 0.3)), light, light * (1 - 0.4 * (next() - 0.3))];
  });
  const metal = next() < 0.5;
  const n = size * size;
  const height = new Float32Array(n);
  const ids = new Int32Array(n);
  const special = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const p = pattern(((i % size) + 0.5) / size, (Math.floor(i / size) + 0.5) / size);
    [height[i], ids[i], special[i]] = [p.height, p.id, p.special];
  }
  const make = (channels: number, srgb: boolean, of: (i: number, c: number) => number, depth: 8 | 16 = 8): Image => {
    const image = makeImage({ width: size, height: size, channels, depth, colourSpace: srgb ? 'srgb' : 'data' });
    const full = depth === 8 ? 255 : 65535;
    for (let i = 0; i < n; i++) for (let c = 0; c < channels; c++) image.data[i * channels + c] = Math.round(clamp(of(i, c)) * full);
    return image;
  };
  const around = (i: number, r: number) => {
    let sum = 0;
    const [x, y] = [i % size, Math.floor(i / size)];
    for (const [dx, dy] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
      [0.7, 0.7],
      [-0.7, 0.7],
      [0.7, -0.7],
      [-0.7, -0.7],
    ]) {
      const px = (x + Math.round(dx * r) + size) % size;
      const py = (y + Math.round(dy * r) + size) % size;
      sum += Math.max(0, height[py * size + px] - height[i]);
    }
    return sum / 8;
  };
  const [u, v] = [(i: number) => ((i % size) + 0.5) / size, (i: number) => (Math.floor(i / size) + 0.5) / size];
  const reliefM = 0.02 + 0.05 * next();
  const normals = normalsFromHeight(
    height.map((h) => h * reliefM),
    size,
    size,
    1 / size,
  );
  const glossy = next() < 0.4;
  const maps: MapSet = {
    baseColor: make(3, true, (i, c) => Math.sqrt(palette[ids[i] % 7][c] * (0.6 + 0.5 * tint(u(i), v(i))) * (0.75 + 0.3 * height[i]))),
    normal: make(3, false, (i, c) => normals[i * 3 + c] * 0.5 + 0.5),
    roughness: make(1, false, (i) => (glossy ? 0.25 : 0.55) + 0.4 * (dirt(u(i), v(i)) - 0.35) + (((ids[i] * 31) % 11) / 11 - 0.5) * 0.15),
    occlusion: make(1, false, (i) => 1 / (1 + 1.6 * around(i, 3) + 2.5 * around(i, 8))),
    metallic: make(1, false, (i) => (metal ? (special[i] > 0.5 && dirt(v(i), u(i)) < 0.62 ? 1 : 0) : dirt(v(i), u(i)) > 0.7 ? 0.9 : 0)),
    height: make(1, false, (i) => height[i], next() < 0.5 ? 8 : 16),
  };
  const colours = Array.from({ length: 9 }, (_, k) =>
    [0, 1, 2].map((c) => ((k + 1) >> c) & 1).map((on, c) => (on ? 1 - 0.1 * ((k * 3 + c) % 3) : 0)),
  );
  return { maps, id: make(3, false, (i, c) => colours[ids[i] % 9][c]), reliefM };
}
