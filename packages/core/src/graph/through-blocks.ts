// What a step gives as a target would hold it: kept as a texture of 8 bits, cut into blocks, and read again.
import type { CodedFormat } from '../blocks';
import { decodeBlocks, encodeBlocks } from '../blocks';
import { COMPONENTS, operation as registered } from '../compile';
import { linearToSrgb } from '../image';
import type { LookFrom } from './looks';
import { planesAt, shownNode } from './looks';
import type { GraphValue } from './step';
import { isSurface } from './step';

export interface BlockLook {
  format: CodedFormat;
  /** rgba as it is seen, from the top-left: a colour in sRGB, a normal around grey. */
  rgba: Uint8ClampedArray<ArrayBuffer>;
  /** How far it is from what was kept, in steps of 255: the largest of all numbers, and the root of the mean square. */
  worst: number;
  rms: number;
  bytes: number;
}

const eight = (v: number): number => Math.round(255 * Math.min(1, Math.max(0, v)));

/**
 * An output over one repetition after block compression: one number as BC4, two and normals as BC5, colours (a surface by
 * its base colour) as BC7, in sRGB.
 * @param at domain of a picture whose sides are multiples of 4
 */
export function throughBlocks(value: GraphValue, at: LookFrom): BlockLook {
  const node = shownNode(value);
  const normal = !isSurface(value) && COMPONENTS[node.type] === 3 && registered(node.op).unit === true;
  const { width, height } = at.domain;
  const planes = planesAt({ seen: node }, at)['seen'];
  const coloured = planes.length >= 3 && !normal;
  const stored = (normal ? planes.slice(0, 2) : planes).map((plane, c) =>
    Uint8Array.from(plane, (v) => eight(normal ? v * 0.5 + 0.5 : coloured && c < 3 ? linearToSrgb(Math.min(1, Math.max(0, v))) : v)),
  );
  const format: CodedFormat = stored.length === 1 ? 'BC4' : stored.length === 2 ? 'BC5' : 'BC7';
  const blocks = encodeBlocks(stored, width, height, format);
  const read = decodeBlocks(blocks, width, height, format).slice(0, stored.length);
  let [worst, sum] = [0, 0];
  read.forEach((plane, c) =>
    plane.forEach((v, i) => {
      const off = Math.abs(v - stored[c][i]);
      worst = Math.max(worst, off);
      sum += off * off;
    }),
  );
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const [x, y = 0] = read.map((plane) => plane[i]);
    const at4 = i * 4;
    if (normal) {
      const [u, v] = [x / 127.5 - 1, y / 127.5 - 1];
      rgba.set([x, y, 127.5 + 127.5 * Math.sqrt(Math.max(0, 1 - u * u - v * v))], at4);
    } else for (let c = 0; c < 3; c++) rgba[at4 + c] = read.length === 1 ? x : (read[c]?.[i] ?? 0);
    rgba[at4 + 3] = 255;
  }
  return { format, rgba, worst, rms: Math.sqrt(sum / (read.length * width * height || 1)), bytes: blocks.length };
}
