import type { EyeView } from '@pebble/core';

/** The picture of the specimen under the pointer. */
export interface OnPicture {
  /** Where an event was, in shares of the picture. */
  place(e: PointerEvent): { x: number; y: number };
  sight(): EyeView;
  turn(dx: number, dy: number): void;
}

/** What presses on the picture of the specimen, in place of turning it. */
export interface PictureBrush {
  waiting(): boolean;
  press(event: PointerEvent, on: OnPicture): void;
  hover(point: { x: number; y: number }, sight: EyeView): void;
  leave(): void;
  /** Presses once in the middle of the picture. */
  dab(sight: EyeView): void;
  /** Metres from the eye to what is under the pointer, null beside the mesh; and how wide it reaches there. */
  away(): number | null;
  radiusM(): number;
}

/** Pixels that metres take up on a picture so high, so far from the eye. @param field of view in radians */
export const pixelsOf = (metres: number, away: number, field: number, height: number): number => (metres / (2 * away * Math.tan(field / 2))) * height;
