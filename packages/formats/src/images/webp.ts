import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { starts, turnedShape } from './kind';
import { exifOrientation } from './tiff-directory';

/** Size and alpha of a WebP file. Source: RFC 9649. */
function probe(r: Reader): ImageShape {
  const kind = r.text(12, 4);
  const facts = (width: number, height: number, alpha: boolean): ImageShape => ({ width, height, channels: alpha ? 4 : 3, depth: 8 });
  if (kind === 'VP8X') {
    if (r.u8(20) & 2) throw unsupported('an animation is not read. Save one picture of it', 20);
    const u24 = (at: number) => r.u16(at) + r.u8(at + 2) * 65536;
    const shape = facts(u24(24) + 1, u24(27) + 1, (r.u8(20) & 16) !== 0);
    return turnedShape(shape, r.u8(20) & 8 ? orientationOf(r) : 1);
  }
  if (kind === 'VP8L') {
    if (r.u8(20) !== 0x2f) throw corrupt('the mark of its pixels is missing', 20);
    const bits = r.u32(21);
    return facts((bits & 0x3fff) + 1, ((bits >>> 14) & 0x3fff) + 1, (bits >>> 28) % 2 === 1);
  }
  if (kind === 'VP8 ') {
    if (r.u8(23) !== 0x9d || r.u8(24) !== 0x01 || r.u8(25) !== 0x2a) throw corrupt('the mark of its pixels is missing', 23);
    return facts(r.u16(26) & 0x3fff, r.u16(28) & 0x3fff, false);
  }
  throw corrupt('its first chunk is none that a picture begins with', 12);
}

/** What its EXIF chunk says; some writers put the mark of JPEG before it. */
function orientationOf(r: Reader): number {
  for (let at = 12; at + 8 <= r.length; at += 8 + r.u32(at + 4) + (r.u32(at + 4) & 1))
    if (r.text(at, 4) === 'EXIF') return exifOrientation(r, at + 8 + (starts(r.bytes.subarray(at + 8), 'Exif') ? 6 : 0));
  return 1;
}

/** Whether any picture chunk is a lossy one. */
function losesInWebp(r: Reader): boolean {
  for (let at = 12; at + 8 <= r.length; at += 8 + r.u32(at + 4) + (r.u32(at + 4) & 1)) {
    const kind = r.text(at, 4);
    if (kind === 'VP8 ') return true;
    if (kind === 'VP8L') return false;
  }
  return false;
}

export const webp: ImageKind = {
  name: 'WebP',
  endings: ['.webp'],
  is: (b) => starts(b, 'RIFF') && starts(b.subarray(8), 'WEBP'),
  probe,
  marks: (r) => ({ lossy: losesInWebp(r), marked: null }),
};
