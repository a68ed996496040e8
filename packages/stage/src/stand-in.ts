// What a page that shows the target stand-in and the stand-in say to each other.
import type { DeviceWord } from '@pebble/core';
import type { StageLook } from './look';

/** What a page around it says. */
export type ToStandIn =
  | { show: { manifest: string; device: string; asset: string } }
  | { look: StageLook; sky: string }
  | { picture: number; width: number; height: number };
/** What became of an asset on its device. */
export interface OnDevice {
  words: DeviceWord[];
  /** Bytes of its textures, of what the device has for one material. */
  bytes: number;
  budget: number;
}
/** What it answers. */
export type FromStandIn =
  | { target: 'ready' }
  | { target: 'progress'; progress: number; note: string }
  | ({ target: 'loaded' } & OnDevice)
  | { target: 'failed'; message: string }
  | { target: 'picture'; picture: number; image: ImageData };
