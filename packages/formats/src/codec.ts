import type { ColourSpace, Image } from '@pebble/core';

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

/** Reads and writes images; the same interface on Node and in the browser, held to one conformance suite. */
export interface ImageCodec {
  /** Exact samples of 8- and 16-bit files; palettes become colours, grey stays one channel. @throws FormatError */
  decode(bytes: Uint8Array, colourSpace: ColourSpace): Promise<Image>;
  /** PNG with the depth and channels of the image (8 or 16 bit). The same image gives the same bytes. */
  encodePng(image: Image): Promise<Uint8Array>;
}
