// The blocks room: pictures as a target holds them, four by four texels at a time.
import { decodeBc4, encodeBc4 } from './bc4';
import { encodeBc7 } from './bc7';
import { decodeBc7 } from './bc7-modes';

export { decodeBc7 };

/** Block formats that are worked out here: one channel, two, four. */
const CODECS = {
  BC4: { channels: 1, bytes: 8, encode: encodeBc4, decode: decodeBc4 },
  BC5: {
    channels: 2,
    bytes: 16,
    // Two blocks of one channel, side by side.
    encode: (texels: ArrayLike<number>, into: Uint8Array, at: number) => {
      for (let c = 0; c < 2; c++)
        encodeBc4(
          Array.from({ length: 16 }, (_, t) => texels[t * 2 + c]),
          into,
          at + c * 8,
        );
    },
    decode: (bytes: Uint8Array, at: number, out: Float32Array) => {
      const one = new Float32Array(16);
      for (let c = 0; c < 2; c++) {
        decodeBc4(bytes, at + c * 8, one);
        for (let t = 0; t < 16; t++) out[t * 2 + c] = one[t];
      }
    },
  },
  BC7: { channels: 4, bytes: 16, encode: encodeBc7, decode: decodeBc7 },
} as const;
export type CodedFormat = keyof typeof CODECS;

/** Blocks of a picture, row by row. @param planes a channel each, 0–255, `width` × `height` from the top; both multiples of 4 */
export function encodeBlocks(planes: readonly ArrayLike<number>[], width: number, height: number, format: CodedFormat): Uint8Array {
  if (width % 4 || height % 4) throw new RangeError(`A picture of ${width} × ${height} is not made of whole blocks of 4 × 4`);
  const { channels, bytes, encode } = CODECS[format];
  const out = new Uint8Array((width / 4) * (height / 4) * bytes);
  const texels = new Float32Array(16 * channels);
  let at = 0;
  for (let y = 0; y < height; y += 4)
    for (let x = 0; x < width; x += 4, at += bytes) {
      for (let t = 0; t < 16; t++)
        // A fourth channel that is not there is opaque.
        for (let c = 0; c < channels; c++) texels[t * channels + c] = planes[c]?.[(y + (t >> 2)) * width + x + (t & 3)] ?? 255;
      encode(texels, out, at);
    }
  return out;
}

/** The channels of a picture from its blocks, 0–255. */
export function decodeBlocks(blocks: Uint8Array, width: number, height: number, format: CodedFormat): Float32Array[] {
  const { channels, bytes, decode } = CODECS[format];
  const planes = Array.from({ length: channels }, () => new Float32Array(width * height));
  const texels = new Float32Array(16 * channels);
  let at = 0;
  for (let y = 0; y < height; y += 4)
    for (let x = 0; x < width; x += 4, at += bytes) {
      decode(blocks, at, texels);
      for (let t = 0; t < 16; t++) for (let c = 0; c < channels; c++) planes[c][(y + (t >> 2)) * width + x + (t & 3)] = texels[t * channels + c];
    }
  return planes;
}
