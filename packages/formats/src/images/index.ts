// The room of image files: one file a kind, which says what it is called, how it is known, and what its header tells.
import { MAX_SIDE } from '@pebble/core';
import { FormatError } from '../codec';
import { Reader } from '../reader';
import { exr } from './exr';
import { hdr } from './hdr';
import { jpeg } from './jpeg';
import type { FileMarks, ImageKind, ImageShape } from './kind';
import { ktx2 } from './ktx2';
import { png } from './png';
import { tga } from './tga';
import { tiff } from './tiff';
import { webp } from './webp';

export type { FileMarks, ImageKind, ImageShape } from './kind';

/** Every kind that is read. The last has no mark of its own, so that the others are asked first. */
export const IMAGE_KINDS = { png, jpeg, webp, tiff, exr, hdr, ktx2, tga } as const satisfies Record<string, ImageKind>;
export type ImageFormat = keyof typeof IMAGE_KINDS;
export const IMAGE_FORMATS = Object.keys(IMAGE_KINDS) as ImageFormat[];
const KINDS: readonly ImageKind[] = Object.values(IMAGE_KINDS);
const NAMES = KINDS.map((k) => k.name).join(', ');
export const IMAGE_ENDINGS: readonly string[] = KINDS.flatMap((k) => k.endings);

/** An image before its pixels are read, and the kind of its file. */
export interface ImageFacts extends ImageShape {
  format: ImageFormat;
}

/** Reads the marks of a file that was probed. */
export const fileMarks = (bytes: Uint8Array, { format }: Pick<ImageFacts, 'format'>): FileMarks => IMAGE_KINDS[format].marks(new Reader(bytes));

/** More than this no picture may take once it is decoded. */
const MAX_DECODED_BYTES = 2 ** 30;

/** What an image file is, from its content alone; the name is not asked. @throws FormatError */
export function probeImage(bytes: Uint8Array): ImageFacts {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  const format = IMAGE_FORMATS.find((f) => IMAGE_KINDS[f].is(bytes));
  if (!format) throw new FormatError('unknown-format', `this is no image of a kind that is read (${NAMES}), whatever its name says`);
  const facts = { format, ...IMAGE_KINDS[format].probe(new Reader(bytes)) };
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
