import type { BrushPoint, EyeView, Frame, PackedSurface, PressedStamp, SurfaceFacts } from '@pebble/core';
import type { StageMaps } from './protocol';

/** A surface as stamps know it, at the stage's size. */
export interface StagedSurface {
  maps: StageMaps;
  facts: Pick<SurfaceFacts, 'sizeM' | 'reliefM' | 'mid'>;
}

/** Where a stamp falls: on the mesh and on the picture, with what is up there, and how hard it was pressed. */
export interface StampPlace {
  point: BrushPoint;
  at: [number, number, number];
  up: [number, number, number];
}

export interface StampRequests {
  /** Takes up what slots of a mesh wear. @throws what cannot be stamped, and where */
  open: { args: { model: string; frame: Frame; called: string; set: number; slots: string[]; base: StagedSurface }; result: { texels: number } };
  /** Metres from the eye to what a point of the picture (shares of its sides) shows of the mesh; null beside it. */
  away: { args: { x: number; y: number; sight: EyeView }; result: number | null };
  /**
   * Where stamps fall along points of the picture, so many metres apart on the mesh, however far apart the points are; the first where
   * no point was before. `reached` is null where no point lay on the mesh.
   */
  along: {
    args: { points: BrushPoint[]; before: StampPlace | null; apartM: number; sight: EyeView };
    result: { places: StampPlace[]; reached: number | null };
  };
  /** What the mesh wears with these stamps: those that follow on what was shown are pressed upon it. */
  show: { args: { stamps: PressedStamp[]; surfaces: Record<string, StagedSurface>; size: number }; result: PackedSurface };
}
