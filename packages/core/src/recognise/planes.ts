import type { Image } from '../image';
import { fullScale } from '../image';

/** A part of an image as planes of 0–1 values as they are stored, one a channel. */
export interface Planes {
  width: number;
  height: number;
  channels: Float32Array[];
  /** 0 where the image is clear and its colours say nothing; null where all of it is seen. */
  seen: Uint8Array | null;
}

/** Side of the parts that are looked at closely: neighbours are neighbours in the image. */
const PART = 256;

/**
 * Up to `count` square parts of an image, spread over it: what lies side by side stays so. Small images come whole, others
 * from whole blocks of 8 on.
 * Float samples are taken as they are.
 */
export function partsOf(image: Image, count = 4): Planes[] {
  const [w, h] = [Math.min(PART, image.width), Math.min(PART, image.height)];
  const across = image.width > w ? Math.ceil(Math.sqrt(count)) : 1;
  const down = image.height > h ? Math.ceil(count / across) : 1;
  const place = (i: number, n: number, room: number) => 8 * Math.floor((n === 1 ? room / 2 : (room * i) / (n - 1)) / 8);
  const parts: Planes[] = [];
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) parts.push(cut(image, place(i, across, image.width - w), place(j, down, image.height - h), w, h));
  // Parts that are wholly clear say nothing, unless all of it is.
  const telling = parts.filter(({ seen }) => !seen || seen.includes(1));
  return telling.length ? telling : parts.map((part) => ({ ...part, seen: null }));
}

function cut({ width, channels, depth, data }: Image, left: number, top: number, w: number, h: number): Planes {
  const scale = 1 / fullScale(depth);
  const planes = Array.from({ length: channels }, () => new Float32Array(w * h));
  // Copying converts whatever kind of samples there is; the loops then know theirs.
  const row = new Float32Array(w * channels);
  for (let y = 0; y < h; y++) {
    const at = ((top + y) * width + left) * channels;
    row.set(data.subarray(at, at + row.length));
    planes.forEach((plane, c) => spread(row, c, channels, scale, plane, y * w));
  }
  const alpha = channels === 4 || channels === 2 ? planes[channels - 1] : null;
  if (!alpha?.some((v) => v <= 0)) return { width: w, height: h, channels: planes, seen: null };
  const seen = Uint8Array.from(alpha, (v) => (v > 0 ? 1 : 0));
  if (seen.includes(1)) planes.slice(0, channels - 1).forEach((plane) => spreadInto(plane, seen));
  return { width: w, height: h, channels: planes, seen };
}

/** What is clear takes the value before it, so that its edges are no steps of the map. */
function spreadInto(plane: Float32Array, seen: Uint8Array): void {
  let last = plane[seen.indexOf(1)];
  for (let i = 0; i < plane.length; i++)
    if (seen[i]) last = plane[i];
    else plane[i] = last;
}

function spread(row: Float32Array, first: number, step: number, scale: number, plane: Float32Array, at: number): void {
  for (let i = first, o = at; i < row.length; i += step) plane[o++] = row[i] * scale;
}

/** How two rows of numbers go together, −1 to 1; 0 when one of them does not change. */
export function correlation(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const n = a.length;
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    sa += a[i];
    sb += b[i];
    saa += a[i] * a[i];
    sbb += b[i] * b[i];
    sab += a[i] * b[i];
  }
  const [va, vb] = [saa - (sa * sa) / n, sbb - (sb * sb) / n];
  return va > 1e-9 * n && vb > 1e-9 * n ? (sab - (sa * sb) / n) / Math.sqrt(va * vb) : 0;
}

/** Steps to the right and down from the texels of every so many rows of a plane, one after the other; `far` texels wide. */
export function steps(plane: Float32Array, width: number, height: number, far = 1, every = 1): Float32Array {
  const rows = Math.ceil(Math.max(0, height - far) / every);
  const out = new Float32Array(Math.max(0, width - far) * rows * 2);
  for (let y = 0, o = 0; y < height - far; y += every)
    for (let x = 0; x < width - far; x++) {
      const i = y * width + x;
      out[o++] = plane[i + far] - plane[i];
      out[o++] = plane[i + far * width] - plane[i];
    }
  return out;
}

export const mean = (values: ArrayLike<number>): number => {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return values.length ? sum / values.length : 0;
};
