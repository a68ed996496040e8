import type { Depth } from './buffer';
import { fullScale } from './buffer';

/** sRGB-encoded value (0–1) to linear light. Source: IEC 61966-2-1, exact piecewise curve. */
export const srgbToLinear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** Linear light (0–1) to the sRGB-encoded value. Source: IEC 61966-2-1, exact piecewise curve. */
export const linearToSrgb = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

const tables = new Map<string, Float32Array>();

/** Integer sample → real value, for every sample of a depth; `srgb` decodes the curve as well. Shared: do not write. */
export function decodeTable(depth: 8 | 16, srgb: boolean): Float32Array {
  const key = `${depth}${srgb}`;
  let table = tables.get(key);
  if (!table) {
    const full = fullScale(depth as Depth);
    table = Float32Array.from({ length: full + 1 }, (_, v) => (srgb ? srgbToLinear(v / full) : v / full));
    tables.set(key, table);
  }
  return table;
}

/** Lowest linear value that rounds to each code of the encoded byte. */
const THRESHOLDS = Float64Array.from({ length: 257 }, (_, code) =>
  code === 256 ? Infinity : code === 0 ? -Infinity : srgbToLinear((code - 0.5) / 255),
);
const BUCKETS = 65536;
/** Code at the lower end of each of 65536 equal steps; no step holds more than one threshold. */
const GUESS = Uint8Array.from({ length: BUCKETS + 1 }, (_, i) => Math.floor(linearToSrgb(i / BUCKETS) * 255 + 0.5));

/** Linear light to the sRGB byte: exactly `round(255 · linearToSrgb(v))`, clamped, without a power. */
export function srgbByte(v: number): number {
  if (!(v > 0)) return 0;
  if (v >= 1) return 255;
  const code = GUESS[Math.floor(v * BUCKETS)];
  return v >= THRESHOLDS[code + 1] ? code + 1 : code;
}
