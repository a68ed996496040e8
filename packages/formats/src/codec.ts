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

export interface PngShape {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  depth: 8 | 16;
}

/** Gives the samples of rows `[first, end)`: interleaved, 16-bit ones as the processor has them. Asked in order. */
export type RowSource = (first: number, end: number) => Promise<Uint8Array | Uint16Array>;

/** Reads and writes images; the same interface on Node and in the browser, held to one conformance suite. */
export interface ImageCodec {
  /** Exact samples of 8- and 16-bit files; palettes become colours, grey stays one channel. @throws FormatError */
  decode(bytes: Uint8Array, colourSpace: ColourSpace): Promise<Image>;
  /**
   * The same samples a few rows at a time, from a stream of the file's bytes. Kinds of file that cannot be read so are
   * decoded whole first. Whoever opens it closes it. @throws FormatError here, or while rows are read
   */
  openRows(bytes: AsyncIterable<Uint8Array>, colourSpace: ColourSpace): Promise<RowImage>;
  /** PNG with the depth and channels of the image (8 or 16 bit). The same image gives the same bytes. */
  encodePng(image: Image): Promise<Uint8Array>;
  /** The same PNG in pieces, from rows that are asked for as they are needed: neither picture nor file exists as a whole. */
  encodePngRows(shape: PngShape, rows: RowSource): AsyncIterable<Uint8Array>;
}
