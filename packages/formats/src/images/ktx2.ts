import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { starts, turnedShape } from './kind';

/** How pixels of a `vkFormat` are stored. Names of the numbers: Vulkan 1.3, `VkFormat`. */
export interface Ktx2Pixels {
  channels: 1 | 2 | 3 | 4;
  depth: 8 | 16 | 32;
  /** Blocks of 4 × 4, else plain samples; `half` floats become floats. */
  blocks?: 'BC1' | 'BC3' | 'BC4' | 'BC5' | 'BC7';
  half?: true;
  /** Blue comes first. */
  turned?: true;
}
export const KTX2_PIXELS: Readonly<Record<number, Ktx2Pixels>> = {
  9: { channels: 1, depth: 8 },
  15: { channels: 1, depth: 8 },
  16: { channels: 2, depth: 8 },
  22: { channels: 2, depth: 8 },
  23: { channels: 3, depth: 8 },
  29: { channels: 3, depth: 8 },
  30: { channels: 3, depth: 8, turned: true },
  36: { channels: 3, depth: 8, turned: true },
  37: { channels: 4, depth: 8 },
  43: { channels: 4, depth: 8 },
  44: { channels: 4, depth: 8, turned: true },
  50: { channels: 4, depth: 8, turned: true },
  70: { channels: 1, depth: 16 },
  76: { channels: 1, depth: 32, half: true },
  77: { channels: 2, depth: 16 },
  83: { channels: 2, depth: 32, half: true },
  84: { channels: 3, depth: 16 },
  90: { channels: 3, depth: 32, half: true },
  91: { channels: 4, depth: 16 },
  97: { channels: 4, depth: 32, half: true },
  100: { channels: 1, depth: 32 },
  103: { channels: 2, depth: 32 },
  106: { channels: 3, depth: 32 },
  109: { channels: 4, depth: 32 },
  131: { channels: 3, depth: 8, blocks: 'BC1' },
  132: { channels: 3, depth: 8, blocks: 'BC1' },
  133: { channels: 4, depth: 8, blocks: 'BC1' },
  134: { channels: 4, depth: 8, blocks: 'BC1' },
  137: { channels: 4, depth: 8, blocks: 'BC3' },
  138: { channels: 4, depth: 8, blocks: 'BC3' },
  139: { channels: 1, depth: 8, blocks: 'BC4' },
  141: { channels: 2, depth: 8, blocks: 'BC5' },
  145: { channels: 4, depth: 8, blocks: 'BC7' },
  146: { channels: 4, depth: 8, blocks: 'BC7' },
};

/** Colour models of the data format descriptor that only a transcoder reads. Source: Khronos Data Format 1.3. */
const MODELS = { etc1s: 163, uastc: 166 };

/** A text that stands under a key beside the levels; null where there is none. Source: KTX 2.0, 3.11. */
function valueOf(r: Reader, key: string): string | null {
  const [from, length] = [r.u32(56), r.u32(60)];
  for (let at = from; at + 4 < from + length;) {
    const size = r.u32(at);
    const text = r.text(at + 4, size);
    if (text.startsWith(`${key}\0`)) return text.slice(key.length + 1).replace(/\0+$/, '');
    at += 4 + Math.ceil(size / 4) * 4;
  }
  return null;
}

/** Rows from the bottom or columns from the right are put right. Source: KTX 2.0, 3.11.3. */
function turnOf(r: Reader): number {
  const text = valueOf(r, 'KTXorientation') ?? 'rd';
  if (!/^[rl][du]$/.test(text)) throw unsupported(`an orientation of ${text.slice(0, 4)} is not read. Save it upright`, 56);
  return { rd: 1, ld: 2, lu: 3, ru: 4 }[text] as number;
}

/** Which stored channel, 0 or 1 each channel is to show, `rgba` unless something else is said. Source: KTX 2.0, 3.11.6. */
export function ktx2Swizzle(r: Reader): string {
  const text = valueOf(r, 'KTXswizzle') ?? 'rgba';
  if (!/^[rgba01]{4}$/.test(text)) throw unsupported(`channels exchanged as ${text.slice(0, 6)} are not read. Save it without`, 56);
  return text;
}

/** How many channels are to be seen of `stored` ones: grey where the three colours are one, alpha where it is not 1. */
export function shownChannels(stored: ImageShape['channels'], swizzle: string): ImageShape['channels'] {
  // What is not stored is 0, alpha 1: naming it so changes nothing.
  if ('rgba'.slice(0, stored) === swizzle.slice(0, stored)) return stored;
  const [red, green, blue, alpha] = swizzle;
  const opaque = alpha === '1' || (alpha === 'a' && stored < 4);
  return red === green && green === blue ? (opaque ? 1 : 2) : opaque ? 3 : 4;
}

/** Header of a KTX2 file. Source: KTX 2.0 specification. */
function probe(r: Reader): ImageShape {
  const shape = stored(r);
  return turnedShape({ ...shape, channels: shownChannels(shape.channels, ktx2Swizzle(r)) }, turnOf(r));
}

/** The picture as it is stored. */
export function stored(r: Reader): ImageShape {
  r.need(0, 80);
  const [format, width, height, deep, layers, faces] = [12, 20, 24, 28, 32, 36].map((at) => r.u32(at));
  if (!width || !height) throw unsupported('a texture of one line is not read', 20);
  if (deep || layers > 1 || faces !== 1) throw unsupported('volumes, arrays and cubes are not read. Save one picture of it', 28);
  const descriptor = r.u32(48);
  if (format === 0) {
    const model = r.u8(descriptor + 12);
    if (model !== MODELS.etc1s && model !== MODELS.uastc) throw unsupported(`blocks of colour model ${model} are not read`, descriptor + 12);
    const samples = (r.u16(descriptor + 10) - 24) / 16;
    const channel = r.u8(descriptor + 4 + 24 + 3) & 15;
    const alpha = model === MODELS.etc1s ? samples > 1 : channel === 3 || channel === 5;
    return { width, height, channels: alpha ? 4 : 3, depth: 8 };
  }
  const pixels = KTX2_PIXELS[format];
  if (!pixels) throw unsupported(`pixels of Vulkan format ${format} are not read. Save it as UASTC or uncompressed`, 12);
  if (r.u32(44) > 3) throw corrupt('its supercompression is unknown', 44);
  return { width, height, channels: pixels.channels, depth: pixels.depth };
}

/** sRGB formats among Vulkan's. */
const SRGB_FORMATS = [15, 22, 29, 36, 43, 50, 132, 134, 138, 146];

export const ktx2: ImageKind = {
  name: 'KTX2',
  endings: ['.ktx2'],
  is: (b) => starts(b, [0xab, ...[...'KTX 20'].map((c) => c.charCodeAt(0)), 0xbb, 0x0d, 0x0a, 0x1a, 0x0a]),
  probe,
  marks: (r) => ({ lossy: r.u32(12) === 0 || r.u32(12) > 130, marked: SRGB_FORMATS.includes(r.u32(12)) ? 'srgb' : null }),
};
