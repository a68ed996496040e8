// What the page and its loader tell each other.
import type { BundleManifest, Mesh, PackedPicture, PackedSurface, Role, Span } from '@pebble/core';
import type { DeviceMaterial, DeviceTerrain } from '@pebble/formats/bundle';
import type { OnDevice } from '@pebble/stage';

/** Where a bundle is: in a ZIP, or behind addresses by the hash of its manifest. */
export type BundlePlace = { zip: ArrayBuffer } | { manifest: string };

/** A slot that is dressed, ready for the stage. */
export interface LoadedSlot extends DeviceMaterial {
  roles: Role[];
  packed: PackedSurface;
  /** What programs read as masks: opacity and what else only some materials have. */
  masks: Partial<Record<Role, PackedPicture>>;
}
export interface LoadedAsset extends OnDevice {
  asset: string;
  mesh: Mesh;
  spans: Record<string, Span[]>;
  slots: LoadedSlot[];
}

export type ToLoader = { open: BundlePlace } | { load: { device: string; asset: string } };
export type FromLoader =
  | { opened: BundleManifest; beside: string[] }
  | { progress: number; note: string }
  | { loaded: LoadedAsset }
  | { terrains: DeviceTerrain[] }
  | { failed: string };
