import type { ImageFacts } from './facts';
import { Reader } from './reader';

/** What a file says beside its pixels: whether its kind of compression loses something, and of what sort its colours are. */
export interface FileMarks {
  lossy: boolean;
  marked: 'srgb' | 'linear' | null;
}

/** sRGB formats among Vulkan's. */
const SRGB_FORMATS = [15, 22, 29, 36, 43, 50, 132, 134, 138, 146];

/** Reads the marks of a file that was probed. */
export function fileMarks(bytes: Uint8Array, { format }: ImageFacts): FileMarks {
  const r = new Reader(bytes);
  if (format === 'jpeg') return { lossy: true, marked: null };
  if (format === 'webp') return { lossy: losesInWebp(r), marked: null };
  if (format === 'exr' || format === 'hdr') return { lossy: false, marked: 'linear' };
  if (format === 'ktx2') return { lossy: r.u32(12) === 0 || r.u32(12) > 130, marked: SRGB_FORMATS.includes(r.u32(12)) ? 'srgb' : null };
  return { lossy: false, marked: format === 'png' ? pngMark(new Reader(bytes, false)) : null };
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

/** What chunks before the pixels say. Source: PNG, third edition, 11.3.2. */
function pngMark(r: Reader): FileMarks['marked'] {
  for (let at = 8; at + 12 <= r.length; at += 12 + r.u32(at)) {
    const kind = r.text(at + 4, 4);
    if (kind === 'sRGB') return 'srgb';
    if (kind === 'gAMA') return r.u32(at + 8) === 100000 ? 'linear' : r.u32(at + 8) === 45455 ? 'srgb' : null;
    if (kind === 'IDAT') return null;
  }
  return null;
}
