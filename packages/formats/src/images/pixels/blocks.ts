import { decodeBc7, fullScale } from '@pebble/core';

/** Blocks of 4 × 4 texels that can be taken apart. */
export type BlockKind = 'BC1' | 'BC3' | 'BC4' | 'BC5' | 'BC7';
const BYTES: Record<BlockKind, number> = { BC1: 8, BC3: 16, BC4: 8, BC5: 16, BC7: 16 };

const spread = (v: number, bits: number): number => Math.round((v * fullScale(8)) / ((1 << bits) - 1));

/** Sixteen values of one channel. Source: Khronos Data Format 1.3, section 20 (RGTC), as BC3's alpha too. */
function ramp(data: Uint8Array, at: number, out: Uint8Array, channel: number, channels: number): void {
  const [a, b] = [data[at], data[at + 1]];
  const values =
    a > b
      ? [a, b, ...[1, 2, 3, 4, 5, 6].map((k) => Math.round(((7 - k) * a + k * b) / 7))]
      : [a, b, ...[1, 2, 3, 4].map((k) => Math.round(((5 - k) * a + k * b) / 5)), 0, 255];
  for (let half = 0; half < 2; half++) {
    const bits = data[at + 2 + half * 3] | (data[at + 3 + half * 3] << 8) | (data[at + 4 + half * 3] << 16);
    for (let i = 0; i < 8; i++) out[(half * 8 + i) * channels + channel] = values[(bits >> (i * 3)) & 7];
  }
}

/** Sixteen colours. Source: Khronos Data Format 1.3, section 18 (S3TC). `four` never takes the form with a clear colour. */
function colours(data: Uint8Array, at: number, out: Uint8Array, channels: number, four: boolean): void {
  const ends = [data[at] | (data[at + 1] << 8), data[at + 2] | (data[at + 3] << 8)];
  const rgb = ends.map((v) => [spread(v >> 11, 5), spread((v >> 5) & 63, 6), spread(v & 31, 5)]);
  const mix = (k: number, n: number) => [0, 1, 2].map((c) => Math.round(((n - k) * rgb[0][c] + k * rgb[1][c]) / n));
  const clear = !four && ends[0] <= ends[1];
  const table = clear ? [rgb[0], rgb[1], mix(1, 2), [0, 0, 0]] : [rgb[0], rgb[1], mix(1, 3), mix(2, 3)];
  for (let i = 0; i < 16; i++) {
    const k = (data[at + 4 + (i >> 2)] >> ((i & 3) * 2)) & 3;
    for (let c = 0; c < 3; c++) out[i * channels + c] = table[k][c];
    if (channels === 4 && !four) out[i * 4 + 3] = clear && k === 3 ? 0 : 255;
  }
}

/** Takes a level of blocks apart into interleaved 8-bit samples. @throws RangeError when blocks are missing */
export function decodeBlocks(data: Uint8Array, width: number, height: number, kind: BlockKind, channels: number): Uint8Array {
  const [across, down] = [Math.ceil(width / 4), Math.ceil(height / 4)];
  if (data.length < across * down * BYTES[kind])
    throw new RangeError(`${across * down} blocks expected, ${Math.floor(data.length / BYTES[kind])} there`);
  const out = new Uint8Array(width * height * channels);
  const block = new Uint8Array(16 * channels);
  const texels = new Float32Array(64);
  for (let by = 0; by < down; by++)
    for (let bx = 0; bx < across; bx++) {
      const at = (by * across + bx) * BYTES[kind];
      if (kind === 'BC7') {
        decodeBc7(data, at, texels);
        block.set(texels);
      } else if (kind === 'BC1') colours(data, at, block, channels, false);
      else if (kind === 'BC3') {
        colours(data, at + 8, block, channels, true);
        ramp(data, at, block, 3, channels);
      } else for (let c = 0; c < channels; c++) ramp(data, at + c * 8, block, c, channels);
      for (let y = 0; y < Math.min(4, height - by * 4); y++) {
        const row = ((by * 4 + y) * width + bx * 4) * channels;
        out.set(block.subarray(y * 4 * channels, (y * 4 + Math.min(4, width - bx * 4)) * channels), row);
      }
    }
  return out;
}
