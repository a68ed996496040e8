// TIFF in tiles, in planes and of floats, on Node: a library at hand leaves tiles it cannot read black, another mixes floats up.
import type { ColourSpace, Image, Samples } from '@pebble/core';
import { fromHalf, makeImage } from '@pebble/core';
import { inflateSync } from 'node:zlib';
import { FormatError } from '../../codec';
import { Reader, corrupt } from '../../reader';
import { TIFF_COMPRESSIONS, readableTiff } from '../tiff';
import type { TiffDirectory } from '../tiff-directory';

/** Whether a file is one that the usual library reads right: rows of 8- or 16-bit numbers, channels side by side. */
export const isPlainTiff = (bytes: Uint8Array): boolean => {
  const d = readableTiff(new Reader(bytes));
  return !d.tiled && !d.planar && d.sampleFormat === 1;
};

/** Every sample of a TIFF's first picture, before it is turned; floats of 16 bits become those of 32. @throws FormatError */
export function decodeTiff(bytes: Uint8Array, colourSpace: ColourSpace): Image {
  const r = new Reader(bytes);
  const d = readableTiff(r);
  const { width, height, pieceWidth, pieceHeight, samples, bits } = d;
  const depth = d.sampleFormat === 3 ? 32 : bits === 16 ? 16 : 8;
  const image = makeImage({ width, height, channels: samples, depth, colourSpace });
  const [across, down] = [Math.ceil(width / pieceWidth), Math.ceil(height / pieceHeight)];
  const planes = d.planar ? samples : 1;
  // Channels that lie side by side in a piece.
  const beside = samples / planes;
  for (let plane = 0; plane < planes; plane++)
    for (let y = 0; y < down; y++)
      for (let x = 0; x < across; x++) {
        const index = (plane * down + y) * across + x;
        const rows = d.tiled ? pieceHeight : Math.min(pieceHeight, height - y * pieceHeight);
        const line = Math.ceil((pieceWidth * beside * bits) / 8);
        const stored = bytes.subarray(d.offsets[index], d.counts.length ? d.offsets[index] + d.counts[index] : undefined);
        const raw = unpacked(stored, line * rows, d.compression, index);
        if (d.predictor > 1) undoDifferences(raw, d, line, rows, beside, r.little);
        const values = numbersOf(raw, d, pieceWidth * beside, line, rows, r.little);
        const [left, top] = [x * pieceWidth, y * pieceHeight];
        const [w, h] = [Math.min(pieceWidth, width - left), Math.min(rows, height - top)];
        for (let j = 0; j < h; j++)
          for (let i = 0; i < w; i++)
            for (let c = 0; c < beside; c++)
              image.data[((top + j) * width + left + i) * samples + plane + c] = values[(j * pieceWidth + i) * beside + c];
      }
  return d.photometric === 3 ? throughPalette(image, d.palette, colourSpace) : d.photometric === 0 && depth !== 32 ? inverted(image) : image;
}

const cutOff = (piece: number) => new FormatError('truncated', `piece ${piece + 1} of its pixels is cut off. Copy or export it again`);

/** A piece without its compression: exactly `length` bytes. */
function unpacked(stored: Uint8Array, length: number, compression: number, piece: number): Uint8Array {
  const out = expand(stored, length, compression, piece);
  if (out.length < length) throw cutOff(piece);
  return out.subarray(0, length);
}

function expand(stored: Uint8Array, length: number, compression: number, piece: number): Uint8Array {
  if (compression === TIFF_COMPRESSIONS.none) return stored.slice(0, length);
  if (compression === TIFF_COMPRESSIONS.packBits) return unpackBits(stored, length);
  if (compression === TIFF_COMPRESSIONS.lzw) return unpackLzw(stored, length, piece);
  try {
    // A stream that goes on past the piece is damaged, too.
    return Uint8Array.from(inflateSync(stored, { maxOutputLength: length + 65536 }));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'Z_BUF_ERROR') throw cutOff(piece);
    throw corrupt(`piece ${piece + 1} of its pixels cannot be unpacked`, 0);
  }
}

/** Source: TIFF 6.0, section 9. */
function unpackBits(stored: Uint8Array, length: number): Uint8Array {
  const out = new Uint8Array(length);
  let o = 0;
  for (let at = 0; at < stored.length && o < length;) {
    const n = (stored[at++] << 24) >> 24;
    if (n === -128) continue;
    if (n < 0) {
      if (at >= stored.length) break;
      out.fill(stored[at++], o, (o += 1 - n));
    } else {
      const part = stored.subarray(at, at + n + 1);
      out.set(part.subarray(0, length - o), o);
      o += part.length;
      at += n + 1;
    }
  }
  return out.subarray(0, Math.min(o, length));
}

const [CLEAR, END] = [256, 257];
/** Codes of 9 to 12 bits, highest bit first, one wider a code early. Source: TIFF 6.0, section 13. */
function unpackLzw(stored: Uint8Array, length: number, piece: number): Uint8Array {
  const out = new Uint8Array(length);
  // Where the string of each code stands in what is written already, and how long it is.
  const [from, long] = [new Uint32Array(4097), new Uint16Array(4097)];
  let [o, next, width, before] = [0, 258, 9, -1];
  let [held, bits, at] = [0, 0, 0];
  for (;;) {
    while (bits < width) {
      if (at >= stored.length) return out.subarray(0, o);
      held = ((held << 8) | stored[at++]) & 0xffffff;
      bits += 8;
    }
    const code = (held >> (bits - width)) & ((1 << width) - 1);
    bits -= width;
    if (code === END || o >= length) return out.subarray(0, o);
    if (code === CLEAR) {
      [next, width, before] = [258, 9, -1];
      continue;
    }
    if (code > next || (code === next && before < 0) || (code > 255 && code < 258))
      throw corrupt(`piece ${piece + 1} of its pixels cannot be unpacked`, 0);
    const start = o;
    const put = (value: number) => {
      if (o < length) out[o++] = value;
    };
    const repeat = (place: number, count: number) => {
      for (let i = 0; i < count; i++) put(out[place + i]);
    };
    if (code < 256) put(code);
    else if (code < next) repeat(from[code], long[code]);
    if (before >= 0 && next < 4096) {
      // The string before and the first of this one: both stand side by side.
      const [place, count] = before < 256 ? [start - 1, 1] : [start - long[before], long[before]];
      if (code === next) {
        repeat(place, count);
        put(out[place]);
      }
      from[next] = place;
      long[next] = count + 1;
      next++;
      if (next + 1 >= 1 << width && width < 12) width++;
    }
    before = code;
  }
}

/** Undoes differences between neighbours of a row, in place. Source: TIFF 6.0, section 14; technical note 3 for floats. */
function undoDifferences(raw: Uint8Array, { predictor, bits }: TiffDirectory, line: number, rows: number, beside: number, little: boolean): void {
  if (predictor === 2 && bits < 8) throw corrupt('differences of less than 8 bits make no sense', 0);
  const size = bits / 8;
  for (let y = 0; y < rows; y++) {
    const row = raw.subarray(y * line, (y + 1) * line);
    if (predictor === 3) undoFloatDifferences(row, beside, size, little);
    else if (size === 1) for (let i = beside; i < line; i++) row[i] += row[i - beside];
    else addNeighbours(row, beside, size as 2 | 4, little);
  }
}

function addNeighbours(row: Uint8Array, beside: number, size: 2 | 4, little: boolean): void {
  const view = new DataView(row.buffer, row.byteOffset, row.length);
  for (let at = beside * size; at < row.length; at += size)
    if (size === 2) view.setUint16(at, view.getUint16(at, little) + view.getUint16(at - beside * size, little), little);
    else view.setUint32(at, view.getUint32(at, little) + view.getUint32(at - beside * size, little), little);
}

/** Bytes of floats lie by their weight, the highest of all of them first, each the difference to that before it. */
function undoFloatDifferences(row: Uint8Array, beside: number, size: number, little: boolean): void {
  for (let i = beside; i < row.length; i++) row[i] += row[i - beside];
  const planes = row.slice();
  const count = row.length / size;
  for (let i = 0; i < count; i++) for (let b = 0; b < size; b++) row[i * size + (little ? size - 1 - b : b)] = planes[b * count + i];
}

/** Samples of a piece as whole numbers of 8 or 16 bits or as floats. Fewer than 8 bits are spread over 8, unless they name colours. */
function numbersOf(raw: Uint8Array, d: TiffDirectory, perRow: number, line: number, rows: number, little: boolean): Samples {
  const { bits } = d;
  if (bits === 8) return raw;
  const view = new DataView(raw.buffer, raw.byteOffset, raw.length);
  const count = perRow * rows;
  if (bits === 16 && d.sampleFormat === 1) return Uint16Array.from({ length: count }, (_, i) => view.getUint16(i * 2, little));
  if (bits === 16) return Float32Array.from({ length: count }, (_, i) => fromHalf(view.getUint16(i * 2, little)));
  if (bits === 32) return Float32Array.from({ length: count }, (_, i) => view.getFloat32(i * 4, little));
  const most = (1 << bits) - 1;
  const scale = d.photometric === 3 ? 1 : 255 / most;
  return Uint8Array.from({ length: count }, (_, i) => {
    const bit = (i % perRow) * bits;
    return ((raw[Math.floor(i / perRow) * line + (bit >> 3)] >> (8 - bits - (bit & 7))) & most) * scale;
  });
}

function throughPalette(image: Image, palette: readonly number[], colourSpace: ColourSpace): Image {
  const count = palette.length / 3;
  const out = makeImage({ ...image, channels: 3, data: undefined, colourSpace });
  for (let i = 0; i < image.data.length; i++) for (let c = 0; c < 3; c++) out.data[i * 3 + c] = palette[c * count + image.data[i]] >> 8;
  return out;
}

/** White is nothing: colours the other way round, alpha as it is. */
function inverted(image: Image): Image {
  const most = image.depth === 16 ? 65535 : 255;
  const colours = image.channels % 2 ? image.channels : image.channels - 1;
  for (let i = 0; i < image.data.length; i++) if (i % image.channels < colours) image.data[i] = most - image.data[i];
  return image;
}
