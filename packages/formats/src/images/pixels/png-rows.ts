// PNG read row by row: a picture of any size passes through a few hundred kilobytes. Node only.
// Source: PNG Specification (Third Edition), chunks (5), filtering (9).
import { MAX_SIDE } from '@pebble/core';
import { createCRC32 } from 'hash-wasm';
import { pipeline } from 'node:stream';
import { createInflate } from 'node:zlib';
import type { RowsShape } from '../../codec';
import { FormatError } from '../../codec';

const SIGNATURE = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
const CHANNELS: Readonly<Record<number, RowsShape['channels']>> = { 0: 1, 2: 3, 4: 2, 6: 4 };
/** A chunk of pixels is handed to the decompressor in pieces no longer than this. */
const PIECE = 1 << 16;

export interface PngRows extends RowsShape {
  rows(first: number, end: number): Promise<Uint8Array | Uint16Array>;
  close(): Promise<void>;
}

/** Bytes of a stream, a wanted number at a time. */
class ByteReader {
  private held: Buffer = Buffer.alloc(0);
  private readonly iterator: AsyncIterator<Uint8Array>;
  constructor(source: AsyncIterable<Uint8Array>) {
    this.iterator = source[Symbol.asyncIterator]();
  }
  /** Gathers at least `n` bytes where there are so many. */
  private async gather(n: number): Promise<void> {
    const parts = [this.held];
    let length = this.held.length;
    while (length < n) {
      const { value, done } = await this.iterator.next();
      if (done) break;
      parts.push(Buffer.from(value.buffer, value.byteOffset, value.byteLength));
      length += value.length;
    }
    if (parts.length > 1) this.held = Buffer.concat(parts);
  }
  async peek(n: number): Promise<Buffer> {
    await this.gather(n);
    return this.held.subarray(0, n);
  }
  /** Exactly `n` bytes. @throws FormatError `truncated` */
  async take(n: number): Promise<Buffer> {
    await this.gather(n);
    if (this.held.length < n) throw new FormatError('truncated', 'the file is cut off before its last row. Copy or export it again');
    const out = this.held.subarray(0, n);
    this.held = this.held.subarray(n);
    return out;
  }
  async rest(): Promise<Buffer> {
    await this.gather(Infinity);
    return this.held;
  }
  async close(): Promise<void> {
    await this.iterator.return?.();
  }
}

/**
 * Opens a PNG whose samples stand in the file as they are wanted: 8 or 16 bit, no palette, no colour key, not interlaced.
 * Any other file is given back whole, for a decoder that takes it whole.
 * @throws FormatError while opening or while rows are read.
 */
export async function openPngRows(source: AsyncIterable<Uint8Array>): Promise<PngRows | Uint8Array> {
  const reader = new ByteReader(source);
  try {
    const head = await reader.peek(33);
    const plain =
      head.length === 33 &&
      head.subarray(0, 8).equals(SIGNATURE) &&
      head.toString('latin1', 12, 16) === 'IHDR' &&
      (head[24] === 8 || head[24] === 16) &&
      head[25] in CHANNELS &&
      head[28] === 0;
    if (!plain || (await wantsWhole(reader))) return await reader.rest();
    const shape: RowsShape = { width: head.readUInt32BE(16), height: head.readUInt32BE(20), depth: head[24] as 8 | 16, channels: CHANNELS[head[25]] };
    if (!shape.width || !shape.height || shape.width > MAX_SIDE || shape.height > MAX_SIDE) return await reader.rest();
    await reader.take(8);
    return rowsOf(reader, shape);
  } catch (error) {
    await reader.close();
    throw error;
  }
}

/** Whether a chunk before the pixels gives a colour that is clear, or turns the picture; looks ahead without taking anything. */
async function wantsWhole(reader: ByteReader): Promise<boolean> {
  for (let at = 8; ;) {
    const head = await reader.peek(at + 8);
    if (head.length < at + 8) return false;
    const type = head.toString('latin1', at + 4, at + 8);
    if (['tRNS', 'eXIf', 'IDAT'].includes(type)) return type !== 'IDAT';
    at += 12 + head.readUInt32BE(at);
    // Text and profiles of any length may stand here; a picture with megabytes of them is decoded whole.
    if (at > 1 << 22) return true;
  }
}

/** The compressed bytes of all IDAT chunks, each checked against its sum. */
async function* compressed(reader: ByteReader): AsyncGenerator<Buffer> {
  const crc = await createCRC32();
  for (let at = 8; ;) {
    const head = await reader.take(8);
    const length = head.readUInt32BE(0);
    const type = head.subarray(4, 8);
    const name = type.toString('latin1');
    crc.init().update(type);
    for (let left = length; left > 0;) {
      const piece = await reader.take(Math.min(left, PIECE));
      left -= piece.length;
      crc.update(piece);
      if (name === 'IDAT') yield piece;
    }
    const sum = (await reader.take(4)).readUInt32BE(0);
    if (sum !== parseInt(crc.digest('hex'), 16))
      throw new FormatError('corrupt', `its pixels cannot be read (the ${name} chunk at byte ${at} does not match its sum). Export it again`, at);
    if (name === 'IEND') return;
    at += 12 + length;
  }
}

function rowsOf(reader: ByteReader, shape: RowsShape): PngRows {
  const { width, height, channels, depth } = shape;
  const bytesPerPixel = (channels * depth) / 8;
  const rowBytes = width * bytesPerPixel;
  const inflate = createInflate({ chunkSize: 1 << 19 });
  // Failures come out of the reading side; without a listener here they would end the process.
  pipeline(compressed(reader), inflate, () => undefined);
  const chunks = inflate[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  let chunk: Buffer = Buffer.alloc(0);
  let at = 0;
  let next = 0;
  let above: Uint8Array = new Uint8Array(rowBytes);
  const more = async (): Promise<boolean> => {
    try {
      const { value, done } = await chunks.next();
      if (done) return false;
      chunk = value;
      at = 0;
      return true;
    } catch (error) {
      throw asFormatError(error);
    }
  };
  /** Fills `out[from, to)`. */
  const fill = async (out: Uint8Array, from: number, to: number): Promise<void> => {
    while (from < to) {
      if (at === chunk.length && !(await more())) throw new FormatError('truncated', 'its pixels end before its last row. Copy or export it again');
      const count = Math.min(to - from, chunk.length - at);
      out.set(chunk.subarray(at, at + count), from);
      from += count;
      at += count;
    }
  };
  const filter = new Uint8Array(1);
  return {
    ...shape,
    async rows(first, end) {
      if (first !== next) throw new Error(`Row ${first} asked for, row ${next} is next`);
      const out = new Uint8Array((end - first) * rowBytes);
      for (let y = first, row = 0; y < end; y++, row += rowBytes) {
        // Most rows lie whole in the chunk at hand; waiting for a promise at every row would cost more than the row.
        if (chunk.length - at > rowBytes) {
          filter[0] = chunk[at++];
          out.set(chunk.subarray(at, at + rowBytes), row);
          at += rowBytes;
        } else {
          await fill(filter, 0, 1);
          await fill(out, row, row + rowBytes);
        }
        unfilter(filter[0], out, row, rowBytes, bytesPerPixel, above);
        above = out.subarray(row, row + rowBytes);
      }
      next = end;
      above = above.slice();
      // The last sums are checked only when the end is read.
      if (next === height) while (await more());
      if (depth === 8) return out;
      return new Uint16Array(Buffer.from(out.buffer).swap16().buffer);
    },
    async close() {
      inflate.destroy();
      await reader.close();
    },
  };
}

/** Undoes the filter of one row in place; `above` is the row before it, undone. */
function unfilter(filter: number, out: Uint8Array, row: number, rowBytes: number, step: number, above: Uint8Array): void {
  const end = row + rowBytes;
  if (filter === 0) return;
  if (filter === 1) for (let i = row + step; i < end; i++) out[i] += out[i - step];
  else if (filter === 2) for (let i = row, j = 0; i < end; i++, j++) out[i] += above[j];
  else if (filter === 3) {
    for (let j = 0; j < step; j++) out[row + j] += above[j] >> 1;
    for (let i = row + step, j = step; i < end; i++, j++) out[i] += (out[i - step] + above[j]) >> 1;
  } else if (filter === 4) {
    for (let j = 0; j < step; j++) out[row + j] += above[j];
    for (let i = row + step, j = step; i < end; i++, j++) {
      const a = out[i - step];
      const b = above[j];
      const c = above[j - step];
      const pa = Math.abs(b - c);
      const pb = Math.abs(a - c);
      const pc = Math.abs(a + b - 2 * c);
      out[i] += pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
    }
  } else throw new FormatError('corrupt', `its pixels cannot be read (there is no row filter ${filter}). Export it again`);
}

function asFormatError(error: unknown): Error {
  const code = (error as NodeJS.ErrnoException).code;
  if (code === 'Z_BUF_ERROR') return new FormatError('truncated', 'its pixels end before its last row. Copy or export it again');
  if (code?.startsWith('Z_')) return new FormatError('corrupt', `its pixels cannot be read (${(error as Error).message}). Export it again`);
  return error as Error;
}
