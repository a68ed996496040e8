import type { Image } from '@pebble/core';
import { MAX_SIDE, makeImage } from '@pebble/core';
import { FormatError } from './codec';

/** Endings of heightfields without a header. */
export const RAW_ENDINGS = ['.raw', '.r16'];
export const isRawName = (fileName: string): boolean => RAW_ENDINGS.some((e) => fileName.toLowerCase().endsWith(e));

/**
 * A square heightfield of unsigned 16-bit little-endian samples, row 0 at the top, without a header: only its length says
 * what it is. @throws FormatError when that is no square of 2 bytes a sample
 */
export function decodeRawHeights(bytes: Uint8Array): Image {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  const side = Math.round(Math.sqrt(bytes.length / 2));
  if (side * side * 2 !== bytes.length)
    throw new FormatError('unsupported', `${bytes.length} bytes are no square of 16-bit heights. Save it square, or as a 16-bit PNG`);
  if (side > MAX_SIDE)
    throw new FormatError('too-large', `${side} × ${side} heights are over the limit of ${MAX_SIDE} on a side. Scale it down first`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const data = new Uint16Array(side * side);
  for (let i = 0; i < data.length; i++) data[i] = view.getUint16(i * 2, true);
  return makeImage({ width: side, height: side, channels: 1, depth: 16, colourSpace: 'data', data });
}
