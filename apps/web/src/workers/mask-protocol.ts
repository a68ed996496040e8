import type { Brush, BrushPoint, EyeView, MaskDepth, MaskPoint, Mesh, StrokeAim } from '@pebble/core';
import type { MaskRegion } from '@pebble/stage';
import type { SizedPicture } from './protocol';
import type { GroundOn } from './terrain-protocol';

/** What changed of a mask on the stage: regions of what it shows already, or all of it where the sizes do not fit. */
export type Shown = { regions: MaskRegion[]; side: number } | { packed: SizedPicture };
/** Kept on the server under its hash; as the stage shows it, at its side. */
export interface Kept {
  packed: SizedPicture;
  hash: string;
}
/** What is done to all of a mask at once: a value, its opposite, or what a rule gives at vertices, or pixels of the extent. */
export type WholeMask = { what: 'fill'; value: number } | { what: 'invert' } | { what: 'values'; values: Float32Array };

/** What of a mask was painted beside a picture: squares by number, kept on the server. */
export interface MaskPieces {
  picture: string;
  pieces: Readonly<Record<number, string>>;
}

/** On what a mask lies: a mesh with a set of coordinates, 0–1 over the picture, that of a terrain with its heights; or the extent. */
export type MaskGround =
  { mesh: Pick<Mesh, 'position' | 'index'> & { uv: Float32Array }; terrain: Pick<GroundOn, 'terrain' | 'heights'> | null } | { extentM: number };

export interface MaskRequests {
  /**
   * Takes a picture up; one begun here is empty, and kept at once. `side` and `depth` bring it to another size. The stage shows it
   * with `shown` pixels a side. What was made ready on a ground stays for pictures of the same size on one of the same `form`.
   * @throws when it cannot be fetched or read
   */
  open: {
    args: { picture: string | null; ground: MaskGround; form: number; side?: number; depth?: MaskDepth; shown: number };
    result: Kept & { width: number; height: number; depth: MaskDepth };
  };
  /** @param limit share of every vertex, or pixel of the extent, that may be painted @param shown as of `open`, by now */
  begin: { args: { brush: Brush; aim: StrokeAim; limit: Float32Array | null; shown: number }; result: null };
  /** Goes on along points of the flat, or of the picture of the mesh; `reached` is null where none of them lay on that. */
  stroke: {
    args: { points: readonly MaskPoint[] } | { points: readonly BrushPoint[]; sight: EyeView };
    result: { shown: Shown; reached: number | null };
  };
  /** @param onto a picture that another window put in its place meanwhile: what the stroke changed is put on that */
  end: { args: { onto: string | null }; result: Kept };
  lost: { args: null; result: null };
  whole: { args: { change: WholeMask }; result: Kept };
  /** Sends squares that changed since they were last asked for to the server; gives their hashes. */
  keep: { args: null; result: Record<number, string> };
  /** Puts squares that were kept on the picture that was taken up. */
  restore: { args: { pieces: Readonly<Record<number, string>> }; result: Kept };
  /** Keeps values at vertices, at pixels of the extent, or one that is everywhere, as a picture; what is taken up stays. */
  picture: { args: { values: Float32Array | number; ground: MaskGround; side: number }; result: { hash: string } };
  /** How far from the eye the mesh lies there, in metres; null beside it. */
  away: { args: { x: number; y: number; sight: EyeView }; result: number | null };
}
