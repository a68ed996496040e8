import type { ColourSpace, Image, RowImage } from '@pebble/core';

export type FormatErrorCode = 'empty' | 'unknown-format' | 'truncated' | 'corrupt' | 'too-large' | 'unsupported';

/** A file that cannot be read. The message says what is wrong and what to do; it does not name the file. */
export class FormatError extends Error {
  constructor(
    readonly code: FormatErrorCode,
    message: string,
    /** Offset in the file, where it is known. */
    readonly byte?: number,
  ) {
    super(message);
    this.name = 'FormatError';
  }
}

/** What a picture that is written is like. */
export interface RowsShape {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  depth: 8 | 16;
  /** Colours of sRGB are marked as such in the file; what is data is not marked. */
  colourSpace?: ColourSpace;
}

/** Gives the samples of rows `[first, end)`: interleaved, 16-bit ones as the processor has them. Asked in order. */
export type RowSource = (first: number, end: number) => Promise<Uint8Array | Uint16Array>;

/** Writes one kind of image file. */
export interface ImageEncoder {
  mediaType: string;
  /** Bits a channel that it can hold. */
  depths: readonly RowsShape['depth'][];
  /** The file in pieces, from rows that are asked for as they are needed: neither picture nor file exists as a whole. The same samples give the same bytes. */
  encode(shape: RowsShape, rows: RowSource): AsyncIterable<Uint8Array>;
}

/** Kinds of file that are written. */
export type OutputFormat = 'png';

/** Reads images; what a place of its own, Node or a browser, has to bring. */
export interface ImageReader {
  /** Exact samples of 8- and 16-bit files; palettes become colours, grey stays one channel. @throws FormatError */
  decode(bytes: Uint8Array, colourSpace: ColourSpace): Promise<Image>;
  /**
   * The same samples a few rows at a time, from a stream of the file's bytes. Kinds of file that cannot be read so are
   * decoded whole first. Whoever opens it closes it. @throws FormatError here, or while rows are read
   */
  openRows(bytes: AsyncIterable<Uint8Array>, colourSpace: ColourSpace): Promise<RowImage>;
}

/** Reads and writes images; the same interface on Node and in the browser, held to one conformance suite. */
export interface ImageCodec extends ImageReader {
  readonly encoders: Readonly<Record<OutputFormat, ImageEncoder>>;
  /** A file with the depth and channels of the image; PNG unless stated. @throws FormatError for a depth that it cannot hold */
  encode(image: Image, format?: OutputFormat): Promise<Uint8Array>;
}

export const makeCodec = (reader: ImageReader, encoders: ImageCodec['encoders']): ImageCodec => ({
  ...reader,
  encoders,
  async encode(image, format = 'png') {
    const { data, width, channels, depth } = image;
    const encoder = encoders[format];
    if (depth === 32 || !encoder.depths.includes(depth))
      throw new FormatError(
        'unsupported',
        `${format.toUpperCase()} holds ${encoder.depths.join(' or ')} bits, not ${depth === 32 ? 'float' : depth}`,
      );
    const rows: RowSource = async (first, end) => data.subarray(first * width * channels, end * width * channels) as Uint8Array;
    const pieces: Uint8Array[] = [];
    let length = 0;
    for await (const piece of encoder.encode({ ...image, depth }, rows)) length += pieces[pieces.push(piece) - 1].length;
    const out = new Uint8Array(length);
    pieces.reduce((at, piece) => (out.set(piece, at), at + piece.length), 0);
    return out;
  },
});
