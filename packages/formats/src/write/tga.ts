import type { Image } from '@pebble/core';

/** A TGA file without compression, its first row at the top. Source: Truevision TGA 2.0. */
export function writeTga({ width, height, channels, data }: Image): Uint8Array {
  const stored = channels === 2 ? 4 : channels;
  const out = new Uint8Array(18 + width * height * stored);
  const view = new DataView(out.buffer);
  out[2] = channels === 1 ? 3 : 2;
  view.setUint16(12, width, true);
  view.setUint16(14, height, true);
  out[16] = stored * 8;
  // From the top, with so many bits of alpha.
  out[17] = 0x20 | (stored === 4 ? 8 : 0);
  for (let i = 0, o = 18, j = 0; i < width * height; i++, o += stored, j += channels) {
    if (channels === 1) out[o] = data[j];
    else if (channels === 2) out.set([data[j], data[j], data[j], data[j + 1]], o);
    else {
      out[o] = data[j + 2];
      out[o + 1] = data[j + 1];
      out[o + 2] = data[j];
      if (channels === 4) out[o + 3] = data[j + 3];
    }
  }
  return out;
}
