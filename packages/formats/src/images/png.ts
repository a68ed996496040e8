import { FormatError } from '../codec';
import { Reader } from '../reader';
import type { FileMarks, ImageKind, ImageShape } from './kind';
import { starts, turnedShape } from './kind';
import { exifOrientation } from './tiff-directory';

/** Size, channels and depth of a PNG; a palette counts as its colours. */
function probe({ bytes }: Reader): ImageShape {
  if (bytes.length < 33) throw new FormatError('truncated', 'the file ends inside its header. Export it again', bytes.length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(12) !== 0x49484452) throw new FormatError('corrupt', 'the header chunk is missing. Export it again', 12);
  const [width, height, bits, type] = [view.getUint32(16), view.getUint32(20), bytes[24], bytes[25]];
  const channels = ({ 0: 1, 2: 3, 3: 3, 4: 2, 6: 4 } as const)[type as 0];
  if (!channels || ![1, 2, 4, 8, 16].includes(bits) || !width || !height)
    throw new FormatError('corrupt', 'the header makes no sense. Export it again', 16);
  const transparent = type !== 4 && type !== 6 && hasTransparency(bytes, view);
  const shape: ImageShape = {
    width,
    height,
    channels: (transparent ? channels + 1 : channels) as ImageShape['channels'],
    depth: bits === 16 ? 16 : 8,
  };
  return turnedShape(shape, orientationOf(bytes, view));
}

/** What an eXIf chunk before the pixels says. */
function orientationOf(bytes: Uint8Array, view: DataView): number {
  for (let at = 33; at + 8 <= bytes.length; at += 12 + view.getUint32(at)) {
    const type = view.getUint32(at + 4);
    if (type === 0x65584966) return exifOrientation(new Reader(bytes), at + 8);
    if (type === 0x49444154) return 1;
  }
  return 1;
}

/** Whether a tRNS chunk stands before the pixels. */
function hasTransparency(bytes: Uint8Array, view: DataView): boolean {
  for (let at = 33; at + 8 <= bytes.length;) {
    const type = view.getUint32(at + 4);
    if (type === 0x74524e53) return true;
    if (type === 0x49444154) return false;
    at += 12 + view.getUint32(at);
  }
  return false;
}

/** What chunks before the pixels say. Source: PNG, third edition, 11.3.2. */
function mark(r: Reader): FileMarks['marked'] {
  for (let at = 8; at + 12 <= r.length; at += 12 + r.u32(at)) {
    const kind = r.text(at + 4, 4);
    if (kind === 'sRGB') return 'srgb';
    if (kind === 'gAMA') return r.u32(at + 8) === 100000 ? 'linear' : r.u32(at + 8) === 45455 ? 'srgb' : null;
    if (kind === 'IDAT') return null;
  }
  return null;
}

export const png: ImageKind = {
  name: 'PNG',
  endings: ['.png'],
  is: (b) => starts(b, [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
  probe,
  marks: ({ bytes }) => ({ lossy: false, marked: mark(new Reader(bytes, false)) }),
};
