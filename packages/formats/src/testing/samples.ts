import { makeRandom } from '@pebble/core';
import type { Picture } from './writers';

/** Samples for tests of codecs, the same for a seed. */
export function seededSamples(seed: number) {
  const next = makeRandom(seed);
  return {
    next,
    bytes: (n: number) => Uint8Array.from({ length: n }, () => Math.floor(next() * 256)),
    picture: (width: number, height: number, channels: number, of: () => number): Picture => ({
      width,
      height,
      channels,
      data: Array.from({ length: width * height * channels }, of),
    }),
    byte: () => Math.floor(next() * 256),
    word: () => Math.floor(next() * 65536),
    /** Floats of many sizes, some negative. */
    real: () => Math.fround((next() - 0.3) * 2 ** (next() * 20 - 10)),
  };
}
