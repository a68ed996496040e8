// A page of texture coordinates as a picture: tiles, triangles in their colours, the rims of islands.
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';
import type { UvLayout } from './uv';
import { weld } from './weld';

/** Part of texture space that is shown: its middle, and how much of it is as wide as the picture. */
export interface PageView {
  u: number;
  v: number;
  span: number;
}

/** The tile from 0 to 1, the others, and lines between them; rims of islands. */
const SHADES = { tile: 0x8c8a86, beyond: 0x767470, rule: 0x9d9a94, rim: 0x23282b };

export interface PagePicture {
  width: number;
  height: number;
  /** RGBA, 8 bit, opaque. */
  data: Uint8ClampedArray<ArrayBuffer>;
}

/** Edges with a triangle of their island on one side only, as pairs of vertices, for every mesh. */
export function rimsOf(meshes: readonly Mesh[]): Uint32Array[] {
  return meshes.map((mesh) => {
    const root = weld([mesh.position, mesh.texcoord], [3, 2]);
    const count = mesh.position.length / 3;
    const once = new Map<number, number>();
    for (let k = 0; k < mesh.index.length; k++) {
      const next = k % 3 === 2 ? k - 2 : k + 1;
      const [a, b] = [root[mesh.index[k]], root[mesh.index[next]]];
      if (a === b) continue;
      const key = a < b ? a * count + b : b * count + a;
      once.set(key, once.has(key) ? -1 : k);
    }
    const out: number[] = [];
    for (const k of once.values()) if (k >= 0) out.push(mesh.index[k], mesh.index[k % 3 === 2 ? k - 2 : k + 1]);
    return Uint32Array.from(out);
  });
}

/** Draws the coordinates of meshes, later triangles over earlier ones; `colours` has one for every triangle. */
export function drawPage(
  meshes: readonly Mesh[],
  rims: readonly Uint32Array[],
  view: PageView,
  { width, height }: { width: number; height: number },
  colours: Uint32Array,
): PagePicture {
  const data = new Uint8ClampedArray(width * height * 4);
  const pixels = new Uint32Array(data.buffer);
  const scale = width / view.span;
  const toX = (u: number) => (u - view.u) * scale + width / 2;
  const toY = (v: number) => (v - view.v) * scale + height / 2;
  const colour = (rgb: number) => 0xff000000 | ((rgb & 255) << 16) | (rgb & 0xff00) | (rgb >>> 16);
  ground(pixels, width, height, toX, toY, colour);
  const window = { x0: 0, y0: 0, x1: width, y1: height };
  let t = 0;
  for (const mesh of meshes)
    for (let k = 0; k < mesh.index.length; k += 3, t++) {
      const paint = colour(colours[t]);
      const corners = [0, 1, 2].flatMap((c) => [toX(mesh.texcoord[mesh.index[k + c] * 2]), toY(mesh.texcoord[mesh.index[k + c] * 2 + 1])]);
      fillTriangle(corners, window, (x, y) => {
        pixels[y * width + x] = paint;
      });
    }
  meshes.forEach((mesh, m) => {
    const at = (i: number) => [toX(mesh.texcoord[i * 2]), toY(mesh.texcoord[i * 2 + 1])];
    for (let k = 0; k < rims[m].length; k += 2) line(pixels, width, height, at(rims[m][k]), at(rims[m][k + 1]), colour(SHADES.rim));
  });
  return { width, height, data };
}

function ground(
  pixels: Uint32Array,
  width: number,
  height: number,
  toX: (u: number) => number,
  toY: (v: number) => number,
  colour: (rgb: number) => number,
): void {
  pixels.fill(colour(SHADES.beyond));
  const [x0, x1, y0, y1] = [toX(0), toX(1), toY(0), toY(1)].map(Math.round);
  for (let y = Math.max(0, y0); y < Math.min(height, y1); y++)
    pixels.fill(colour(SHADES.tile), y * width + Math.max(0, Math.min(width, x0)), y * width + Math.max(0, Math.min(width, x1)));
  const rule = colour(SHADES.rule);
  const side = toX(1) - toX(0);
  // Lines of tiles that are too small to be told apart would only be grey.
  if (side < 8) return;
  const lines = (from: number, size: number) => {
    const first = Math.ceil(-from / side);
    return Array.from({ length: Math.max(0, Math.floor((size - from) / side) - first + 1) }, (_, i) => Math.round(from + (first + i) * side)).filter(
      (p) => p >= 0 && p < size,
    );
  };
  for (const x of lines(toX(0), width)) for (let y = 0; y < height; y++) pixels[y * width + x] = rule;
  for (const y of lines(toY(0), height)) pixels.fill(rule, y * width, (y + 1) * width);
}

/** A line a pixel wide, cut to the picture. */
function line(pixels: Uint32Array, width: number, height: number, [ax, ay]: number[], [bx, by]: number[], paint: number): void {
  const steps = Math.ceil(Math.max(Math.abs(bx - ax), Math.abs(by - ay), 1));
  // Far longer than any picture: only its ends could be in it, and nobody would see where it leads.
  if (steps > 20_000 || (ax < 0 && bx < 0) || (ay < 0 && by < 0) || (ax > width && bx > width) || (ay > height && by > height)) return;
  for (let s = 0; s <= steps; s++) {
    const x = Math.floor(ax + ((bx - ax) * s) / steps);
    const y = Math.floor(ay + ((by - ay) * s) / steps);
    if (x >= 0 && x < width && y >= 0 && y < height) pixels[y * width + x] = paint;
  }
}

/** The topmost triangle at a place of texture space, −1 for none. */
export function triangleAt(meshes: readonly Mesh[], u: number, v: number): number {
  let found = -1;
  let t = 0;
  for (const { index, texcoord } of meshes)
    for (let k = 0; k < index.length; k += 3, t++) {
      const [ax, ay, bx, by, cx, cy] = [0, 1, 2].flatMap((c) => [texcoord[index[k + c] * 2] - u, texcoord[index[k + c] * 2 + 1] - v]);
      const [p, q, r] = [ax * by - ay * bx, bx * cy - by * cx, cx * ay - cy * ax];
      if ((p >= 0 && q >= 0 && r >= 0) || (p <= 0 && q <= 0 && r <= 0)) if (p || q || r) found = t;
    }
  return found;
}

/** Island of a layout at one of its triangles, null for none. */
export const islandAt = (layout: UvLayout, triangle: number): number | null => {
  const island = triangle < 0 ? -1 : layout.islandOf[triangle];
  return island < 0 ? null : island;
};
