import type { Orbit } from '@pebble/core';
import type { FlatView } from './flat';
import type { StageChannel } from './shaders';

/** A rectangle of the canvas, as shares of it from the top-left. */
export interface Pane {
  x: number;
  y: number;
  width: number;
  height: number;
}
export interface StageLook {
  orbit: Orbit;
  flat: FlatView;
  channel: StageChannel;
  /** Radians by which the sky is turned. */
  turn: number;
  exposure: number;
  /** Whether bright light is bent back into the range of the screen; false clips it. */
  mapped: boolean;
  /** Whether the key light throws shadows on the specimen. */
  shadow: boolean;
  /** Repetitions a metre: what parallax moves the texture coordinate by. */
  perMetre: number;
  /** Whether a picture that rests becomes the mean of several, so that edges are smooth. */
  smooth?: boolean;
  /** Whether somebody stands beside the specimen, for scale. */
  figure?: boolean;
  /** Bounds of height in metres, shown as black and white. */
  bounds: readonly [number, number];
}
/** A pane in pixels of the canvas, from its bottom-left. */
export const pixelsOf = (pane: Pane, { width, height }: { width: number; height: number }) => ({
  x: Math.round(pane.x * width),
  y: Math.round((1 - pane.y - pane.height) * height),
  width: Math.round(pane.width * width),
  height: Math.round(pane.height * height),
});
