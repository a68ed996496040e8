import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import { FormatError } from '../codec';
import type { ImageKind, ImageShape } from './kind';
import { NO_MARKS, starts, turnedShape } from './kind';
import type { TiffDirectory } from './tiff-directory';
import { tiffDirectory } from './tiff-directory';

/** Kinds of compression that are read. Source: TIFF 6.0 and its technical notes. */
export const TIFF_COMPRESSIONS = { none: 1, lzw: 5, jpeg: 7, deflate: 8, packBits: 32773, deflateOld: 32946 } as const;
const READ = new Set<number>(Object.values(TIFF_COMPRESSIONS));

/** A directory whose picture can be read, all of whose pieces lie within the file. @throws FormatError */
export function readableTiff(r: Reader): TiffDirectory {
  const d = tiffDirectory(r);
  if (![0, 1, 2, 3].includes(d.photometric))
    throw unsupported(`colours of kind ${d.photometric} (neither grey nor RGB) are not read. Save it as RGB`);
  if (d.samples > 4 || d.samples < 1) throw unsupported(`${d.samples} channels are not read. Save it with at most four`);
  const whole = d.sampleFormat === 1 && [1, 2, 4, 8, 16].includes(d.bits);
  if (!whole && !(d.sampleFormat === 3 && (d.bits === 32 || d.bits === 16)))
    throw unsupported(
      `samples of ${d.bits} bits (${['', 'unsigned', 'signed', 'float'][d.sampleFormat] ?? 'of an unknown kind'}) are not read. Save it with 8 or 16 bits or as float`,
    );
  if (!READ.has(d.compression)) throw unsupported(`its compression (${d.compression}) is not read. Save it with LZW, deflate or none`);
  if (d.compression === TIFF_COMPRESSIONS.jpeg && (d.tiled || d.planar))
    throw unsupported('tiles of JPEG are not read. Save it with LZW, deflate or none');
  if (d.photometric === 3 && (d.samples !== 1 || d.bits > 8 || d.palette.length !== 3 << d.bits)) throw corrupt('its palette makes no sense', 0);
  const pieces = Math.ceil(d.width / d.pieceWidth) * Math.ceil(d.height / d.pieceHeight) * (d.planar ? d.samples : 1);
  const what = d.tiled ? 'tiles' : 'strips';
  if (d.offsets.length < pieces) throw corrupt(`${pieces} ${what} are needed, ${d.offsets.length} are listed`, 0);
  if (d.counts.length && d.counts.length < pieces) throw corrupt(`sizes of ${pieces} ${what} are needed, ${d.counts.length} are listed`, 0);
  for (let i = 0; i < pieces; i++) {
    const count = d.counts[i] ?? 1;
    if (!count || !d.offsets[i]) throw corrupt(`one of its ${what} (${i + 1} of ${pieces}) has no bytes`, 0);
    if (d.offsets[i] + count > r.length)
      throw new FormatError(
        'truncated',
        `one of its ${what} (${i + 1} of ${pieces}) lies past the end of the file. Copy or export it again`,
        r.length,
      );
  }
  return d;
}

function probe(r: Reader): ImageShape {
  const { width, height, photometric, samples, sampleFormat, bits, orientation } = readableTiff(r);
  const channels = photometric === 3 ? 3 : samples;
  return turnedShape({ width, height, channels: channels as 1, depth: sampleFormat === 3 ? 32 : bits === 16 ? 16 : 8 }, orientation);
}

/** Either order of bytes, classic or with 64-bit offsets. */
export const tiff: ImageKind = {
  name: 'TIFF',
  endings: ['.tif', '.tiff'],
  is: (b) => [42, 43].some((n) => starts(b, [0x49, 0x49, n, 0]) || starts(b, [0x4d, 0x4d, 0, n])),
  probe,
  marks: () => NO_MARKS,
};
