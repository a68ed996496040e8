import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';

/** What a TIFF's first directory says of its picture. Names and numbers: TIFF 6.0. */
export interface TiffDirectory {
  width: number;
  height: number;
  bits: number;
  /** 1 unsigned, 2 signed, 3 float. */
  sampleFormat: number;
  /** 0 white is nothing, 1 black is nothing, 2 RGB, 3 palette. */
  photometric: number;
  samples: number;
  compression: number;
  /** Channels lie in planes of their own. */
  planar: boolean;
  /** 1 none, 2 differences, 3 differences of float bytes. */
  predictor: number;
  orientation: number;
  /** Reds, then greens, then blues of the palette, 16 bits each. */
  palette: number[];
  /** Rectangles that pixels are stored in: whole rows, or tiles. */
  tiled: boolean;
  pieceWidth: number;
  pieceHeight: number;
  offsets: number[];
  counts: number[];
}

const TAGS = {
  width: 256,
  height: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  stripOffsets: 273,
  orientation: 274,
  samples: 277,
  rowsPerStrip: 278,
  stripCounts: 279,
  planar: 284,
  predictor: 317,
  palette: 320,
  tileWidth: 322,
  tileHeight: 323,
  tileOffsets: 324,
  tileCounts: 325,
  format: 339,
} as const;
const WANTED = new Set<number>(Object.values(TAGS));
const SIZES: Record<number, number> = { 1: 1, 3: 2, 4: 4, 16: 8 };
/** More pieces than a picture of the largest size can have in rows of its own. */
const MAX_VALUES = 1 << 22;

/** Entries of a directory of numbers, by their tags. `base` is where offsets count from. */
export function directoryEntries(r: Reader, first: number, big: boolean, base = 0, wanted: ReadonlySet<number> = WANTED): Map<number, number[]> {
  const count = big ? r.u64(first) : r.u16(first);
  if (!count || count > 4096) throw corrupt('its directory makes no sense', first);
  const [begin, step] = big ? [first + 8, 20] : [first + 2, 12];
  const values = new Map<number, number[]>();
  for (let i = 0; i < count; i++) {
    const at = begin + i * step;
    const [tag, type] = [r.u16(at), r.u16(at + 2)];
    const many = big ? r.u64(at + 4) : r.u32(at + 4);
    const size = SIZES[type];
    if (!size || !wanted.has(tag) || !many) continue;
    if (many > MAX_VALUES) throw corrupt(`entry ${tag} of its directory holds more than any picture needs`, at);
    const place = at + (big ? 12 : 8);
    const from = size * many <= (big ? 8 : 4) ? place : base + (big ? r.u64(place) : r.u32(place));
    r.need(from, size * many);
    const read = (k: number) =>
      size === 1 ? r.u8(from + k) : size === 2 ? r.u16(from + k * 2) : size === 4 ? r.u32(from + k * 4) : r.u64(from + k * 8);
    values.set(
      tag,
      Array.from({ length: many }, (_, k) => read(k)),
    );
  }
  return values;
}

/** The first picture's directory, classic or with 64-bit offsets. Sets the reader's order of bytes. @throws FormatError */
export function tiffDirectory(r: Reader): TiffDirectory {
  r.little = r.u8(0) === 0x49;
  const big = r.u16(2) === 43;
  const first = big ? r.u64(8) : r.u32(4);
  if (first < 8) throw corrupt('its directory stands before the file', big ? 8 : 4);
  const values = directoryEntries(r, first, big);
  const all = (tag: number): number[] => values.get(tag) ?? [];
  const one = (tag: number, fallback: number): number => all(tag)[0] ?? fallback;
  const [width, height] = [one(TAGS.width, 0), one(TAGS.height, 0)];
  if (!width || !height) throw corrupt('its size is missing', first);
  for (const [tag, what] of [
    [TAGS.bits, 'numbers of bits'],
    [TAGS.format, 'kinds of numbers'],
  ] as const)
    if (new Set(all(tag)).size > 1) throw unsupported(`channels with different ${what} are not read. Save all of them alike`, first);
  if (one(TAGS.fillOrder, 1) !== 1) throw unsupported('bits from the lowest on are not read. Save it anew', first);
  const tiled = all(TAGS.tileOffsets).length > 0;
  const [pieceWidth, pieceHeight] = tiled
    ? [one(TAGS.tileWidth, 0), one(TAGS.tileHeight, 0)]
    : [width, Math.min(height, one(TAGS.rowsPerStrip, height))];
  if (!pieceWidth || !pieceHeight || pieceWidth > 65536 || pieceHeight > 65536)
    throw corrupt(`its ${tiled ? 'tiles' : 'strips'} have no size`, first);
  return {
    width,
    height,
    bits: one(TAGS.bits, 1),
    sampleFormat: one(TAGS.format, 1),
    photometric: one(TAGS.photometric, 1),
    samples: one(TAGS.samples, 1),
    compression: one(TAGS.compression, 1),
    planar: one(TAGS.planar, 1) === 2 && one(TAGS.samples, 1) > 1,
    predictor: one(TAGS.predictor, 1),
    orientation: one(TAGS.orientation, 1),
    palette: all(TAGS.palette),
    tiled,
    pieceWidth,
    pieceHeight,
    offsets: all(tiled ? TAGS.tileOffsets : TAGS.stripOffsets),
    counts: all(tiled ? TAGS.tileCounts : TAGS.stripCounts),
  };
}

const ORIENTATION: ReadonlySet<number> = new Set([TAGS.orientation]);

/** How a block of Exif data says that its picture is turned, 1–8; 1 where it says nothing or makes no sense. Source: Exif 2.32, 4.6. */
export function exifOrientation(r: Reader, at: number): number {
  const little = r.little;
  try {
    r.little = r.u8(at) === 0x49;
    const value = directoryEntries(r, at + r.u32(at + 4), false, at, ORIENTATION).get(TAGS.orientation)?.[0] ?? 1;
    return value >= 1 && value <= 8 ? value : 1;
  } catch {
    return 1;
  } finally {
    r.little = little;
  }
}
