import type {
  BlendDocument,
  BlendRole,
  IdShare,
  Image,
  Layer,
  LightData,
  MeshPlace,
  PackedPicture,
  PackedSurface,
  PictureWeight,
  RecipeFile,
  Repetition,
  Role,
  Section,
  SpecimenDocument,
  StagePixels,
  SurfaceDocument,
  SurfaceFacts,
  SurfaceOrder,
} from '@pebble/core';
import type { TriedPicture } from '@pebble/stage';
import type { SectionScale, SectionStyle } from './section-drawing';

/** Stage pixels of a surface's maps, by role. */
export type StageMaps = Partial<Record<Role, StagePixels>>;

export interface PreviewChannel {
  name: 'r' | 'g' | 'b' | 'a';
  picture: ImageBitmap | null;
}
export interface FilePreview {
  picture: ImageBitmap;
  channels: PreviewChannel[];
  /** What the full file is estimated from. */
  weight: PictureWeight;
}

/** A map as screen pixels and as numbers. */
export interface ShownMap {
  picture: ImageBitmap;
  /** Halved again and again. */
  smaller: readonly ImageBitmap[];
  image: Image;
  /** Histogram of each channel, as shares. */
  spread: number[][];
}

export interface LitTile {
  lit: ImageBitmap;
  /** Null without a base colour. */
  repetition: Repetition | null;
}

/** A picture as the stage shows it, and how large it is itself. */
export type SizedPicture = PackedPicture & { width: number; height: number };

export interface ComputeRequests {
  /** Texture levels for the stage. */
  pack: { args: { maps: StageMaps; size: number }; result: PackedSurface };
  /** A picture that cues read: a channel of a map, all of an ID map (`channel` null), or a painted mask, as fine as the finest of it and those beside it, up to `most`. */
  mask: {
    args: { size: number } & (
      { role: Role; stage: StagePixels; channel: number | null } | { painted: string; beside: readonly string[]; most: number }
    );
    result: SizedPicture;
  };
  /** How much the eye finds that the surface of a layer repeats as it lies, by itself and seen from a distance in metres. */
  repeats: {
    args: { layer: Pick<Layer, 'shows' | 'look' | 'laying'>; surfaces: Record<string, SurfaceDocument>; distanceM: number };
    result: Repetition;
  };
  /** Colours of an ID map with their shares. */
  ids: { args: { stage: StagePixels; tolerance: number }; result: IdShare[] };
  /** A map as a texture that is tried in another use, with the opacity of its surface where that has one. */
  tried: { args: { role: Role; stage: StagePixels; opacity: StagePixels | null }; result: TriedPicture };
  /** A map as the light from all around. */
  sky: { args: { role: Role; stage: StagePixels }; result: LightData };
  /** A map as it is shown and as numbers. `full` decodes the original file instead of the stage's pixels. */
  show: { args: { role: Role; stage: StagePixels; full: string | null; normalDirection: 'y+' | 'y-' | null }; result: ShownMap };
  /** A surface seen from straight above, lit by the overcast sky: one repetition, `size` pixels wide. */
  lit: { args: { maps: StageMaps; facts: SurfaceFacts; size: number }; result: LitTile };
  /** One output file of a recipe for one source, small. */
  preview: {
    args: {
      file: RecipeFile;
      source: SurfaceDocument | BlendDocument;
      /** Those that the source is made of. */
      surfaces: Record<string, SurfaceDocument>;
      blends: Record<string, BlendDocument>;
      /** The one that it lies on, if it was brought in. */
      specimens: Record<string, SpecimenDocument>;
      /** The place of it that is shown; null over the extent. */
      place: MeshPlace | null;
      exportNormal: 'y+' | 'y-';
      size: number;
    };
    result: FilePreview;
  };
  /** The same, for its weight alone: at a size at which a preview would take too long. */
  weigh: { args: ComputeRequests['preview']['args']; result: PictureWeight };
}

/** What the section's canvas shall show: nothing, or a section at a scale. */
export interface SectionPicture {
  width: number;
  height: number;
  /** Device pixels a pixel. */
  ratio: number;
  drawing: { section: Section; scale: SectionScale; style: SectionStyle } | null;
}
export type SectionMessage = { canvas: OffscreenCanvas } | SectionPicture;

/** A surface to be drawn small: all its maps and the lit picture, or the lit picture alone. */
export interface DrawRequest {
  order: SurfaceOrder;
  parts: 'maps' | 'lit';
}
export interface DrawnSurface extends LitTile {
  maps: Partial<Record<BlendRole, ShownMap>>;
  size: number;
}
export type DrawReply = { id: number } & ({ progress: number } | { ended: true } | { error: string } | { result: DrawnSurface });
