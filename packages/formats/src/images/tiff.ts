import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { NO_MARKS, starts } from './kind';

const TAGS = { width: 256, height: 257, bits: 258, photometric: 262, samples: 277, extra: 338, format: 339 } as const;
const SIZES: Record<number, number> = { 1: 1, 3: 2, 4: 4, 16: 8 };

/** Size and kind of samples of a TIFF's first picture, classic or with 64-bit offsets. Source: TIFF 6.0. */
function probe(r: Reader): ImageShape {
  r.little = r.u8(0) === 0x49;
  const big = r.u16(2) === 43;
  const offset = (at: number) => (big ? r.u64(at) : r.u32(at));
  const first = offset(big ? 8 : 4);
  if (first < 8) throw corrupt('its directory stands before the file', big ? 8 : 4);
  const count = big ? r.u64(first) : r.u16(first);
  if (!count || count > 4096) throw corrupt('its directory makes no sense', first);
  const [begin, step] = big ? [first + 8, 20] : [first + 2, 12];
  const values = new Map<number, number[]>();
  for (let i = 0; i < count; i++) {
    const at = begin + i * step;
    const [tag, type] = [r.u16(at), r.u16(at + 2)];
    const many = big ? r.u64(at + 4) : r.u32(at + 4);
    const size = SIZES[type];
    if (!size || many > 16 || !(Object.values(TAGS) as number[]).includes(tag)) continue;
    const place = at + (big ? 12 : 8);
    const from = size * many <= (big ? 8 : 4) ? place : offset(place);
    const read = (k: number) =>
      size === 1 ? r.u8(from + k) : size === 2 ? r.u16(from + k * 2) : size === 4 ? r.u32(from + k * 4) : r.u64(from + k * 8);
    values.set(
      tag,
      Array.from({ length: many }, (_, k) => read(k)),
    );
  }
  const one = (tag: number, fallback: number) => values.get(tag)?.[0] ?? fallback;
  const [width, height, bits] = [one(TAGS.width, 0), one(TAGS.height, 0), one(TAGS.bits, 1)];
  if (!width || !height) throw corrupt('its size is missing', first);
  const sampleFormat = one(TAGS.format, 1);
  const photometric = one(TAGS.photometric, 1);
  const samples = one(TAGS.samples, 1);
  if (![0, 1, 2, 3].includes(photometric))
    throw unsupported(`colours of kind ${photometric} (neither grey nor RGB) are not read. Save it as RGB`, first);
  if (samples > 4) throw unsupported(`${samples} channels are not read. Save it with at most four`, first);
  const whole = sampleFormat === 1 && [1, 2, 4, 8, 16].includes(bits);
  if (!whole && !(sampleFormat === 3 && (bits === 32 || bits === 16)))
    throw unsupported(
      `samples of ${bits} bits (${['', 'unsigned', 'signed', 'float'][sampleFormat] ?? 'of an unknown kind'}) are not read. Save it with 8 or 16 bits or as float`,
      first,
    );
  const channels = photometric === 3 ? 3 : samples;
  return { width, height, channels: channels as 1, depth: sampleFormat === 3 ? 32 : bits === 16 ? 16 : 8 };
}

/** Either order of bytes, classic or with 64-bit offsets. */
export const tiff: ImageKind = {
  name: 'TIFF',
  endings: ['.tif', '.tiff'],
  is: (b) => [42, 43].some((n) => starts(b, [0x49, 0x49, n, 0]) || starts(b, [0x4d, 0x4d, 0, n])),
  probe,
  marks: () => NO_MARKS,
};
