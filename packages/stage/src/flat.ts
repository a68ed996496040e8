import { mat4 } from 'gl-matrix';

/** What the flat view shows: its centre in texture coordinates and the width of the pane in extents. */
export interface FlatView {
  u: number;
  v: number;
  span: number;
}

/** Texture coordinate at a place of the flat pane, x and y from 0 to 1 from the top-left. */
export const flatAt = (view: FlatView, aspect: number, x: number, y: number): [number, number] => [
  view.u + (x - 0.5) * view.span,
  view.v + ((y - 0.5) * view.span) / aspect,
];
/** Place of the pane at which a texture coordinate is seen: the inverse of `flatAt`. */
export const flatTo = (view: FlatView, aspect: number, u: number, v: number): [number, number] => [
  (u - view.u) / view.span + 0.5,
  ((v - view.v) / view.span) * aspect + 0.5,
];

/** Clip matrix for a mesh whose positions are (u, 0, v). */
export function flatMatrix(view: FlatView, aspect: number): mat4 {
  const sx = 2 / view.span;
  const sy = (2 / view.span) * aspect;
  return mat4.fromValues(sx, 0, 0, 0, 0, 0, 0.5, 0, 0, -sy, 0, 0, -view.u * sx, view.v * sy, 0, 1);
}
