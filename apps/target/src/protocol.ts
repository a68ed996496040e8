// What the page and its loader tell each other, and what a page around it may say.
import type { BundleManifest, DeviceWord, Mesh, PackedPicture, PackedSurface, Role, Span } from '@pebble/core';
import type { DeviceMaterial } from '@pebble/formats/bundle';
import type { StageLook } from '@pebble/stage';

/** Where a bundle is: in a ZIP, or behind addresses by the hash of its manifest. */
export type BundlePlace = { zip: ArrayBuffer } | { manifest: string };

/** A slot that is dressed, ready for the stage. */
export interface LoadedSlot extends DeviceMaterial {
  roles: Role[];
  packed: PackedSurface;
  /** What programs read as masks: opacity and what else only some materials have. */
  masks: Partial<Record<Role, PackedPicture>>;
}
export interface LoadedAsset {
  asset: string;
  mesh: Mesh;
  spans: Record<string, Span[]>;
  slots: LoadedSlot[];
  words: DeviceWord[];
  /** Bytes of its textures, of what the device has for one material. */
  bytes: number;
  budget: number;
}

export type ToLoader = { open: BundlePlace } | { load: { device: string; asset: string } };
export type FromLoader =
  { opened: BundleManifest; beside: string[] } | { progress: number; note: string } | { loaded: LoadedAsset } | { failed: string };

/** What a page around this one says to it. */
export type ToTarget =
  | { show: { manifest: string; device: string; asset: string } }
  | { look: StageLook; sky: string }
  | { picture: number; width: number; height: number };
/** What it answers. */
export type FromTarget =
  | { target: 'ready' }
  | { target: 'progress'; progress: number; note: string }
  | { target: 'loaded'; words: DeviceWord[]; bytes: number; budget: number; slots: string[] }
  | { target: 'failed'; message: string }
  | { target: 'picture'; picture: number; image: ImageData };
