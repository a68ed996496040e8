import { MAX_SIDE } from '@pebble/core';
import { FormatError } from '../codec';
import { probeExr, probeHdr } from './float';
import type { ImageFacts } from './facts';
import { probeJpeg, probePng } from './png-jpeg';
import { Reader } from './reader';
import { probeKtx2 } from './ktx2';
import { isTga, probeTga } from './tga';
import { probeTiff } from './tiff';
import { probeWebp } from './webp';

export * from './clues';
export * from './facts';

const starts = (bytes: Uint8Array, ...pattern: number[]): boolean => pattern.every((b, i) => bytes[i] === b);
const ascii = (text: string): number[] => [...text].map((c) => c.charCodeAt(0));

/** Kinds that say what they are in their first bytes. */
const KINDS: readonly { is: (bytes: Uint8Array) => boolean; probe: (bytes: Uint8Array) => ImageFacts }[] = [
  { is: (b) => starts(b, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a), probe: probePng },
  { is: (b) => starts(b, 0xff, 0xd8), probe: probeJpeg },
  { is: (b) => starts(b, ...ascii('RIFF')) && starts(b.subarray(8), ...ascii('WEBP')), probe: (b) => probeWebp(new Reader(b)) },
  { is: (b) => starts(b, ...ascii('II'), 42, 0) || starts(b, ...ascii('II'), 43, 0), probe: (b) => probeTiff(new Reader(b, true)) },
  { is: (b) => starts(b, ...ascii('MM'), 0, 42) || starts(b, ...ascii('MM'), 0, 43), probe: (b) => probeTiff(new Reader(b, false)) },
  { is: (b) => starts(b, 0x76, 0x2f, 0x31, 0x01), probe: (b) => probeExr(new Reader(b)) },
  { is: (b) => starts(b, ...ascii('#?RADIANCE')) || starts(b, ...ascii('#?RGBE')), probe: (b) => probeHdr(new Reader(b)) },
  { is: (b) => starts(b, 0xab, ...ascii('KTX 20'), 0xbb, 0x0d, 0x0a, 0x1a, 0x0a), probe: (b) => probeKtx2(new Reader(b)) },
  // TGA has no mark of its own: whatever makes sense as its header and nothing else.
  { is: isTga, probe: (b) => probeTga(new Reader(b)) },
];

/** More than this no picture may take once it is decoded. */
const MAX_DECODED_BYTES = 2 ** 30;

/** What an image file is, from its content alone; the name is not asked. @throws FormatError */
export function probeImage(bytes: Uint8Array): ImageFacts {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  const kind = KINDS.find((k) => k.is(bytes));
  if (!kind)
    throw new FormatError(
      'unknown-format',
      'this is no image of a kind that is read (PNG, JPEG, WebP, TIFF, TGA, EXR, HDR, KTX2), whatever its name says',
    );
  const facts = kind.probe(bytes);
  if (facts.width > MAX_SIDE || facts.height > MAX_SIDE)
    throw new FormatError('too-large', `${facts.width} × ${facts.height} pixels is over the limit of ${MAX_SIDE} on a side. Scale it down first`);
  const bytesDecoded = (facts.width * facts.height * facts.channels * facts.depth) / 8;
  if (bytesDecoded > MAX_DECODED_BYTES)
    throw new FormatError(
      'too-large',
      `${facts.width} × ${facts.height} pixels would take ${(bytesDecoded / 2 ** 30).toFixed(1)} GiB. Scale it down first`,
    );
  return facts;
}
