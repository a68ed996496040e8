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

/** Places in a pixel that are looked at, from its corner. */
const PLACES = [
  [0.25, 0.25],
  [0.75, 0.25],
  [0.25, 0.75],
  [0.75, 0.75],
] as const;
/** Those at which maps are read: two of a diagonal halve the cost, and nobody tells the pictures apart. */
const READ = [PLACES[1], PLACES[2]] as const;
/** Squared radii between which the rim may run through a pixel. */
const RIM = [0.85, 1.2] as const;

interface Form {
  width: number;
  height: number;
  /** Squared radius at every pixel, at most 1. */
  inside: Float32Array;
  /** How many of its four places lie on the pebble. */
  hits: Uint8Array;
}
/** The last form: all pebbles of a wall have the same. */
let form: Form | null = null;

function formOf(width: number, height: number): Form {
  if (form?.width === width && form.height === height) return form;
  const radius = (px: number, py: number) => outline(((px / width) * 2 - 1) * 1.065, ((py / height) * 2 - 1) * 1.065);
  const inside = new Float32Array(width * height);
  const hits = new Uint8Array(width * height);
  for (let py = 0, i = 0; py < height; py++)
    for (let px = 0; px < width; px++, i++) {
      const r2 = radius(px + 0.5, py + 0.5);
      inside[i] = Math.min(1, r2);
      if (r2 <= RIM[1]) hits[i] = r2 < RIM[0] ? 4 : PLACES.filter(([dx, dy]) => radius(px + dx, py + dy) < 1).length;
    }
  return (form = { width, height, inside, hits });
}

/**
 * A lit rounded pebble of a surface, RGBA with coverage in alpha: what stands for it on the wall. Maps are averaged over
 * two places of a pixel and lit once, as filtered textures are; the rim is covered by as many.
 */
export function renderPebble(maps: MapSet, facts: SurfaceFacts, light: LightData, options: PebbleOptions = PEBBLE): Image {
  const { width, height, widthM } = options;
  const image = makeImage({ width, height, channels: 4, colourSpace: 'srgb' });
  const read = surfaceReader(maps, facts);
  // Seen from straight in front of the wall; the pebble leans back so that the sky reaches it.
  const [cos, sin] = [Math.cos(LEAN), Math.sin(LEAN)];
  const view: Vec3 = [0, sin, cos];
  const [rgb, albedo, m, n]: Vec3[] = [0, 1, 2, 3].map(() => [0, 0, 0]);
  const point = { albedo: [0, 0, 0] as Vec3, roughness: 0, metallic: 0, open: 0 };
  const { inside: insides, hits: covers } = formOf(width, height);

  /** Means of the maps over a pixel, the normal in the pebble's own frame into `m`. The surface lies on it as cloth would: arc length grows toward the rim. */
  const gather = (px: number, py: number, stretch: number): void => {
    let [nx, ny, nz] = [0, 0, 0];
    point.roughness = point.metallic = point.open = 0;
    point.albedo.fill(0);
    for (const [dx, dy] of READ) {
      const xm = (((px + dx) / width) * 2 - 1) * stretch * widthM * 0.5 + facts.sizeM * 0.5;
      const ym = (((py + dy) / height) * 2 - 1) * stretch * widthM * 0.5 * (height / width) + facts.sizeM * 0.5;
      read.normal(xm, ym, m);
      nx += m[0];
      ny += m[1];
      nz += m[2];
      read.albedo(xm, ym, albedo);
      for (let c = 0; c < 3; c++) point.albedo[c] += albedo[c] / READ.length;
      point.roughness += read.roughness(xm, ym) / READ.length;
      point.metallic += read.metallic(xm, ym) / READ.length;
      point.open += read.open(xm, ym) / READ.length;
    }
    m[0] = nx;
    m[1] = ny;
    m[2] = nz;
  };

  for (let py = 0; py < height; py++)
    for (let px = 0; px < width; px++) {
      const hits = covers[py * width + px];
      if (!hits) continue;
      const inside = insides[py * width + px];
      gather(px, py, 1 + 0.35 * inside);
      let bx = (((px + 0.5) / width) * 2 - 1) * 0.9;
      let by = -(((py + 0.5) / height) * 2 - 1) * 0.72;
      let bz = Math.sqrt(1 - inside * 0.92) * 0.95;
      const long = 1 / (Math.sqrt(bx * bx + by * by + bz * bz) || 1);
      bx *= long;
      by *= long;
      bz *= long;
      // The tangent lies level; the third leg points up.
      const level = 1 / (Math.sqrt(bz * bz + bx * bx) || 1);
      const [tx, tz] = [bz * level, -bx * level];
      const x = m[0] * tx + m[1] * by * tz + m[2] * bx;
      const y = m[1] * (bz * tx - bx * tz) + m[2] * by;
      const z = m[0] * tz - m[1] * by * tx + m[2] * bz;
      const unit = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
      n[0] = x * unit;
      n[1] = (y * cos + z * sin) * unit;
      n[2] = (z * cos - y * sin) * unit;
      shadePoint(light, n, view, point, light.key, 0.3 + 0.3 * point.open, rgb);
      const o = (py * width + px) * 4;
      for (let c = 0; c < 3; c++) image.data[o + c] = srgbByte(toneMap(rgb[c]));
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
