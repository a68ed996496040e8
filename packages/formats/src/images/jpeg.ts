import { FormatError } from '../codec';
import type { Reader } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { starts, turnedShape } from './kind';
import { exifOrientation } from './tiff-directory';

/** `Exif` and two zeros, before a block of it. */
const EXIF = [0x45, 0x78, 0x69, 0x66, 0, 0];

/** Size, channels and orientation of a JPEG. */
function probe(r: Reader): ImageShape {
  const { bytes } = r;
  let orientation = 1;
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) throw new FormatError('corrupt', 'a marker is missing. Export it again', at);
    const marker = bytes[at + 1];
    if (marker === 0xff) at++;
    else if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      const channels = bytes[at + 9];
      if (channels !== 1 && channels !== 3) throw new FormatError('unsupported', `a JPEG of ${channels} channels is not read. Save it as RGB`, at);
      return turnedShape(
        { width: (bytes[at + 7] << 8) | bytes[at + 8], height: (bytes[at + 5] << 8) | bytes[at + 6], channels, depth: 8 },
        orientation,
      );
    } else {
      if (marker === 0xe1 && EXIF.every((b, i) => bytes[at + 4 + i] === b)) orientation = exifOrientation(r, at + 10);
      at += marker >= 0xd0 && marker <= 0xd9 ? 2 : 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
    }
  }
  throw new FormatError('truncated', 'the file ends before its picture begins. Export it again', bytes.length);
}

export const jpeg: ImageKind = {
  name: 'JPEG',
  endings: ['.jpg', '.jpeg'],
  is: (b) => starts(b, [0xff, 0xd8]),
  probe,
  marks: () => ({ lossy: true, marked: null }),
};
