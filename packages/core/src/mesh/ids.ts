import type { Image } from '../image';
import { channelsOfHex, hexOf, makeImage } from '../image';
import { partOf } from './ground';
import type { Mesh } from './mesh';
import { triangleArea } from './mesh';
import { dilate } from './pad';
import { fillTriangle } from './raster';

/** One colour of an ID map, or one part of a mesh, with its share of what is covered. */
export interface IdShare {
  /** `#rrggbb`, or the name of the part. */
  id: string;
  share: number;
  /** Other colours that were taken for the same one. */
  merged: number;
}

/** Colours that are looked at one by one; what a map has beyond them is noise, and goes to the nearest. */
const MOST = 256;

/**
 * Colours of an ID map (8-bit), the commonest first. Colours within `tolerance` (distance in sRGB values of 0–1, up to √3)
 * of a commoner one count as it, so that the rims of islands are no colours of their own.
 */
export function idColours(image: Image, tolerance: number): IdShare[] {
  const { channels, data } = image;
  const counts = new Map<number, number>();
  const at = (i: number, c: number) => data[i + Math.min(c, channels - 1)] >> (image.depth === 16 ? 8 : 0);
  for (let i = 0; i < data.length; i += channels) {
    const key = (at(i, 0) << 16) | (at(i, 1) << 8) | at(i, 2);
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  const total = data.length / channels;
  const sorted = [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0]);
  const kept: { rgb: number[]; count: number; merged: number }[] = [];
  const away = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, c) => (v - b[c]) / 255));
  for (const [key, count] of sorted) {
    const rgb = [key >> 16, (key >> 8) & 255, key & 255];
    let nearest = kept.at(0);
    for (const k of kept) if (nearest && away(k.rgb, rgb) < away(nearest.rgb, rgb)) nearest = k;
    if (nearest && (away(nearest.rgb, rgb) <= tolerance || kept.length >= MOST)) {
      nearest.count += count;
      nearest.merged++;
    } else kept.push({ rgb, count, merged: 0 });
  }
  return kept.sort((a, b) => b.count - a.count).map(({ rgb, count, merged }) => ({ id: hexOf(rgb), share: count / total, merged }));
}

/** Parts of a mesh with their shares of its area. */
export function partShares(mesh: Mesh, names: readonly string[]): IdShare[] {
  const area = new Array<number>(names.length).fill(0);
  for (let k = 0; k < mesh.index.length; k += 3) area[partOf(mesh, mesh.index[k])] += triangleArea(mesh, k);
  const total = area.reduce((sum, a) => sum + a, 0) || 1;
  return names.map((id, i) => ({ id, share: area[i] / total, merged: 0 })).sort((a, b) => b.share - a.share);
}

/** Hues a golden section of the circle apart: however many there are, they lie evenly. */
const TURN = (Math.sqrt(5) - 1) / 2;

/** A colour for the `i`-th of what an ID map tells apart, `#rrggbb`; the first eight are more than 0.45 apart in sRGB values of 0–1. */
export function idColour(i: number): string {
  // Every other one darker: hues alone do not part eight.
  const value = i % 2 ? 0.55 : 0.95;
  const hue = ((i * TURN) % 1) * 6;
  return hexOf([0, 4, 2].map((turn) => Math.round(255 * value * Math.min(1, Math.max(0, Math.abs(((hue + turn) % 6) - 3) - 1)))));
}

/**
 * An ID map of a mesh, `size` × `size` texels of 8 bits: each part in its flat colour where it lies on the texture, and its
 * surroundings in the colour nearest to them, so that no filter finds another.
 * @param colours `#rrggbb` of every part, by its number
 */
export function idMapOf(mesh: Mesh, colours: readonly string[], size: number): Image {
  const { index, texcoord } = mesh;
  const image = makeImage({ width: size, height: size, channels: 3 });
  const covered = new Uint8Array(size * size);
  const rgb = colours.map(channelsOfHex);
  const all = { x0: 0, y0: 0, x1: size, y1: size };
  for (let t = 0; t < index.length; t += 3) {
    const corners = [0, 1, 2].flatMap((k) => [texcoord[index[t + k] * 2] * size, texcoord[index[t + k] * 2 + 1] * size]);
    fillTriangle(corners, all, (x, y) => {
      covered[y * size + x] = 1;
      image.data.set(rgb[partOf(mesh, index[t])], (y * size + x) * 3);
    });
  }
  dilate(image, covered, size);
  return image;
}
