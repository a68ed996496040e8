import type { Brush, BrushPoint, ColourRun, Component, Mesh, EyeView, StrokeAim } from '@pebble/core';

/** Colours that were changed and are to be shown. */
export interface Changed {
  runs: ColourRun[];
}
/** What is done to all vertices at once. */
export type WholeChange =
  | { what: 'fill'; channel: Component; value: number }
  | { what: 'invert'; channel: Component }
  | { what: 'swap'; channel: Component; other: Component };

export interface PaintRequests {
  /** Takes a mesh up, as far as it is painted, with the bytes of tiles that were painted on it; tells how many vertices making it finer would add. */
  open: {
    args: { mesh: Pick<Mesh, 'position' | 'index' | 'geomcolor'>; whole: Uint32Array; tiles: readonly (readonly [number, Uint8Array])[] };
    result: { edges: number };
  };
  /** @param limit share of every vertex that may be painted */
  begin: { args: { brush: Brush; channel: Component; aim: StrokeAim; limit: Float32Array | null }; result: null };
  /** Goes on along points; `reached` is null where none of them lay on the mesh. */
  stroke: { args: { points: readonly BrushPoint[]; sight: EyeView }; result: Changed & { reached: number | null } };
  end: { args: null; result: Changed };
  lost: { args: null; result: Changed };
  whole: { args: WholeChange; result: Changed };
  /** Sends what ended strokes changed to the server, that of the one under way as well if so asked; gives hashes by tile. */
  keep: { args: { underWay: boolean }; result: Record<string, string> };
  /** Takes over tiles that came from elsewhere; null where one is as the specimen came. */
  take: { args: { tiles: readonly (readonly [number, Uint8Array | null])[] }; result: Changed };
  /** How far from the eye the mesh lies there, in metres; null beside it. */
  away: { args: { x: number; y: number; sight: EyeView }; result: number | null };
}
