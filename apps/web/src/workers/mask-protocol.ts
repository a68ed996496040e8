import type { Brush, MaskPoint, StrokeAim } from '@pebble/core';
import type { SizedPicture } from './protocol';

/** A mask as the stage shows it, at its side. */
export interface Shown {
  packed: SizedPicture;
}
/** Kept on the server under its hash. */
export type Kept = Shown & { hash: string };
/** What is done to all of a mask at once. */
export type WholeMask = { what: 'fill'; value: number } | { what: 'invert' };

export interface MaskRequests {
  /** Takes a picture up; null begins an empty one, which is kept at once. @throws when it cannot be fetched or read */
  open: { args: { picture: string | null }; result: { width: number; height: number; hash: string } };
  begin: { args: { brush: Brush; aim: StrokeAim; extentM: number }; result: null };
  stroke: { args: { points: readonly MaskPoint[]; side: number }; result: Shown };
  end: { args: { side: number }; result: Kept };
  lost: { args: { side: number }; result: Shown };
  whole: { args: { change: WholeMask; side: number }; result: Kept };
}
