import { FormatError } from '../codec';
import type { ImageFacts } from './facts';

/** Size, channels and depth of a PNG; a palette counts as its colours. */
export function probePng(bytes: Uint8Array): ImageFacts {
  if (bytes.length < 33) throw new FormatError('truncated', 'the file ends inside its header. Export it again', bytes.length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(12) !== 0x49484452) throw new FormatError('corrupt', 'the header chunk is missing. Export it again', 12);
  const [width, height, bits, type] = [view.getUint32(16), view.getUint32(20), bytes[24], bytes[25]];
  const channels = ({ 0: 1, 2: 3, 3: 3, 4: 2, 6: 4 } as const)[type as 0];
  if (!channels || ![1, 2, 4, 8, 16].includes(bits) || !width || !height)
    throw new FormatError('corrupt', 'the header makes no sense. Export it again', 16);
  const transparent = type !== 4 && type !== 6 && hasTransparency(bytes, view);
  return { format: 'png', width, height, channels: (transparent ? channels + 1 : channels) as ImageFacts['channels'], depth: bits === 16 ? 16 : 8 };
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

/** Size and channels of a JPEG. */
export function probeJpeg(bytes: Uint8Array): ImageFacts {
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) throw new FormatError('corrupt', 'a marker is missing. Export it again', at);
    const marker = bytes[at + 1];
    if (marker === 0xff) at++;
    else if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      const channels = bytes[at + 9];
      if (channels !== 1 && channels !== 3) throw new FormatError('unsupported', `a JPEG of ${channels} channels is not read. Save it as RGB`, at);
      return { format: 'jpeg', width: (bytes[at + 7] << 8) | bytes[at + 8], height: (bytes[at + 5] << 8) | bytes[at + 6], channels, depth: 8 };
    } else at += marker >= 0xd0 && marker <= 0xd9 ? 2 : 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
  }
  throw new FormatError('truncated', 'the file ends before its picture begins. Export it again', bytes.length);
}
