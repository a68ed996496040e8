import type { Reader } from '../reader';

/** What an image is before its pixels are read. */
export interface ImageShape {
  width: number;
  height: number;
  /** As decoded: palettes count as their colours. */
  channels: 1 | 2 | 3 | 4;
  /** As decoded: half floats become floats. */
  depth: 8 | 16 | 32;
  /** How its pixels have to be turned to be seen as meant, 2–8 as Exif counts; not there where they stand upright. */
  turn?: number;
}

/** The shape as it is seen, of pixels that a file says to turn. */
export const turnedShape = (shape: ImageShape, orientation: number): ImageShape =>
  orientation <= 1 || orientation > 8
    ? shape
    : { ...shape, ...(orientation > 4 ? { width: shape.height, height: shape.width } : {}), turn: orientation };

/** What a file says beside its pixels: whether its kind of compression loses something, and of what sort its colours are. */
export interface FileMarks {
  lossy: boolean;
  marked: 'srgb' | 'linear' | null;
}

/** One kind of image file, as far as its first bytes tell of it. Whatever reads its pixels stands in `pixels/`. */
export interface ImageKind {
  /** As people call it. */
  name: string;
  /** Endings of file names, the usual one first; contents decide what a file is. */
  endings: readonly string[];
  is(bytes: Uint8Array): boolean;
  /** @throws FormatError where the header makes no sense, or says what is not read */
  probe(r: Reader): ImageShape;
  marks(r: Reader): FileMarks;
}

/** Whether bytes begin with a text or with numbers. */
export const starts = (bytes: Uint8Array, pattern: string | readonly number[]): boolean =>
  [...pattern].every((b, i) => bytes[i] === (typeof b === 'string' ? b.charCodeAt(0) : b));
/** Nothing is lost, nothing is said of colours. */
export const NO_MARKS: FileMarks = { lossy: false, marked: null };
