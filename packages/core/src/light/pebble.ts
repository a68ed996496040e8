import type { Image } from '../image';
import { decodeTable, makeImage, srgbByte } from '../image';
import type { MapSet, SurfaceFacts } from '../surface';
import { surfaceReader } from './flat';
import type { LightData } from './prefilter';
import { shadePoint } from './shade';
import type { Vec3 } from './sky';
import { toneMap } from './tone';

export interface PebbleOptions {
  width: number;
  height: number;
  /** Metres that the pebble is wide: the same for all surfaces, so that their structures compare at true scale. */
  widthM: number;
}
export const PEBBLE: PebbleOptions = { width: 320, height: 220, widthM: 1.1 };

/** How far it leans back, in radians. */
const LEAN = 0.62;

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
  const [cos, sin] = [Math.cos(LEAN), Math.sin(LEAN)];
  const view: Vec3 = [0, sin, cos];
  const n: Vec3 = [0, 0, 0];
  const point = { albedo, roughness: 0, metallic: 0, open: 1 };
  // Run for every one of four places in a pixel: no arrays are made in it.
  const shade = (px: number, py: number): boolean => {
    const x = (px / width) * 2 - 1;
    const y = (py / height) * 2 - 1;
    const r2 = outline(x * 1.065, y * 1.065);
    if (r2 >= 1) return false;
    let bx = x * 0.9;
    let by = -y * 0.72;
    let bz = Math.sqrt(1 - r2 * 0.92) * 0.95;
    const long = 1 / (Math.sqrt(bx * bx + by * by + bz * bz) || 1);
    bx *= long;
    by *= long;
    bz *= long;
    // The tangent lies level; its third leg points up.
    const level = 1 / (Math.sqrt(bz * bz + bx * bx) || 1);
    const [tx, tz] = [bz * level, -bx * level];
    // The surface is laid over the pebble as cloth would be: arc length grows toward the rim.
    const stretch = 1 + 0.35 * r2;
    const xm = x * stretch * widthM * 0.5 + facts.sizeM * 0.5;
    const ym = y * stretch * widthM * 0.5 * (height / width) + facts.sizeM * 0.5;
    read.normal(xm, ym, m);
    const nx = m[0] * tx + m[1] * by * tz + m[2] * bx;
    const ny = m[1] * (bz * tx - bx * tz) + m[2] * by;
    const nz = m[0] * tz - m[1] * by * tx + m[2] * bz;
    const unit = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    n[0] = nx * unit;
    n[1] = (ny * cos + nz * sin) * unit;
    n[2] = (nz * cos - ny * sin) * unit;
    point.open = read.open(xm, ym);
    read.albedo(xm, ym, albedo);
    point.roughness = read.roughness(xm, ym);
    point.metallic = read.metallic(xm, ym);
    shadePoint(light, n, view, point, light.key, 0.3 + 0.3 * point.open, rgb);
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
