import { MAX_SIDE } from '@pebble/core';
import { FormatError } from './codec';

export interface ImageFacts {
  format: 'png' | 'jpeg';
  width: number;
  height: number;
  /** As decoded: palettes count as their colours. */
  channels: 1 | 2 | 3 | 4;
  depth: 8 | 16;
}

const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

/** What an image file is, from its content alone; the name is not asked. @throws FormatError */
export function probeImage(bytes: Uint8Array): ImageFacts {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  const facts = PNG.every((b, i) => bytes[i] === b) ? probePng(bytes) : bytes[0] === 0xff && bytes[1] === 0xd8 ? probeJpeg(bytes) : null;
  if (!facts) throw new FormatError('unknown-format', 'this is neither PNG nor JPEG, whatever its name says. Save it as PNG');
  if (facts.width > MAX_SIDE || facts.height > MAX_SIDE)
    throw new FormatError('too-large', `${facts.width} × ${facts.height} pixels is over the limit of ${MAX_SIDE} on a side. Scale it down first`);
  return facts;
}

function probePng(bytes: Uint8Array): ImageFacts {
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

function probeJpeg(bytes: Uint8Array): ImageFacts {
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
