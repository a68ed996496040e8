import type { Image } from '../image';
import { decodeTable, makeImage, srgbByte } from '../image';
import type { MapSet, SurfaceFacts } from '../surface';
import { surfaceReader } from './flat';
import type { LightData } from './prefilter';
import { normalise, shadePoint } from './shade';
import type { Vec3 } from './sky';
import { toneMap } from './tone';

export interface PebbleOptions {
  width: number;
  height: number;
  /** Metres that the pebble is wide: the same for all surfaces, so that their structures compare at true scale. */
  widthM: number;
}
export const PEBBLE: PebbleOptions = { width: 320, height: 220, widthM: 1.1 };

/** Outline of a pebble: a superellipse, gently irregular. Below 1 is inside; the value is a squared radius. */
function outline(x: number, y: number): number {
  const a = Math.atan2(y, x);
  const r = 1 + 0.035 * Math.sin(a * 2 + 0.7) + 0.02 * Math.sin(a * 3 + 2);
  return (Math.abs(x / r) ** 2.25 + Math.abs(y / r) ** 2.25) ** (2 / 2.25);
}

/** A lit rounded pebble of a surface, RGBA with coverage in alpha: what stands for it on the wall. 2×2 supersampled. */
export function renderPebble(maps: MapSet, facts: SurfaceFacts, light: LightData, options: PebbleOptions = PEBBLE): Image {
  const { width, height, widthM } = options;
  const image = makeImage({ width, height, channels: 4, colourSpace: 'srgb' });
  const read = surfaceReader(maps, facts);
  const rgb: Vec3 = [0, 0, 0];
  const albedo: Vec3 = [0, 0, 0];
  const m: Vec3 = [0, 0, 0];
  // Seen from straight in front of the wall; the pebble leans back so that the sky reaches it.
  const lean = 0.62;
  const tilt = (v: readonly number[]): Vec3 => [v[0], v[1] * Math.cos(lean) + v[2] * Math.sin(lean), -v[1] * Math.sin(lean) + v[2] * Math.cos(lean)];
  const view = tilt([0, 0, 1]);
  const shade = (px: number, py: number): boolean => {
    const x = (px / width) * 2 - 1;
    const y = (py / height) * 2 - 1;
    const r2 = outline(x * 1.065, y * 1.065);
    if (r2 >= 1) return false;
    const z = Math.sqrt(1 - r2 * 0.92);
    const base = normalise([x * 0.9, -y * 0.72, z * 0.95]);
    const tangent = normalise([base[2], 0, -base[0]]);
    const up = [
      base[1] * tangent[2] - base[2] * tangent[1],
      base[2] * tangent[0] - base[0] * tangent[2],
      base[0] * tangent[1] - base[1] * tangent[0],
    ];
    // The surface is laid over the pebble as cloth would be: arc length grows toward the rim.
    const stretch = 1 + 0.35 * r2;
    const xm = x * stretch * widthM * 0.5 + facts.sizeM * 0.5;
    const ym = y * stretch * widthM * 0.5 * (height / width) + facts.sizeM * 0.5;
    read.normal(xm, ym, m);
    const n = normalise([0, 1, 2].map((c) => m[0] * tangent[c] + m[1] * up[c] + m[2] * base[c]));
    const open = read.open(xm, ym);
    const point = { albedo: read.albedo(xm, ym, albedo), roughness: read.roughness(xm, ym), metallic: read.metallic(xm, ym), open };
    shadePoint(light, tilt(n), view, point, light.key, 0.3 + 0.3 * open, rgb);
    return true;
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0];
      let hits = 0;
      for (let s = 0; s < 4; s++)
        if (shade(x + 0.25 + 0.5 * (s & 1), y + 0.25 + 0.5 * (s >> 1))) {
          hits++;
          for (let c = 0; c < 3; c++) sum[c] += toneMap(rgb[c]);
        }
      const o = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) image.data[o + c] = srgbByte(sum[c] / Math.max(1, hits));
      image.data[o + 3] = Math.round((hits / 4) * 255);
    }
  return image;
}

/** Mean base colour as `#rrggbb`; grey where there is no such map. */
export function toneOf(maps: MapSet): string {
  const map = maps.baseColor;
  if (!map) return '#808080';
  const table = map.depth === 32 ? null : decodeTable(map.depth, map.colourSpace === 'srgb');
  const sum = [0, 0, 0];
  const n = map.width * map.height;
  const stride = Math.max(1, Math.floor(n / 65536));
  let count = 0;
  for (let i = 0; i < n; i += stride, count++)
    for (let c = 0; c < 3; c++) {
      const v = map.data[i * map.channels + (map.channels >= 3 ? c : 0)];
      sum[c] += table ? table[v] : v;
    }
  return `#${sum
    .map((s) =>
      srgbByte(s / count)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}
