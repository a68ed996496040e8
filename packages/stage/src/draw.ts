import type { Drawn, DrawnAs, Span } from '@pebble/core';
import type { Geometry } from './geometry';
import type { Uniforms } from './gl';
import type { Pane } from './look';
import { pixelsOf } from './look';

/** A mesh in a pane, as one program draws it. */
export interface Drawing {
  uniforms: Uniforms;
  pane: Pane;
  /** Pixels of the whole picture. */
  size: { width: number; height: number };
  geometry: Geometry;
  /** Triangles that are drawn; null where what is seen of them is known already, so that the pane is filled. */
  spans: readonly Span[] | null;
  /** From the pane's aspect, what takes places of the mesh into it. */
  matrix: (aspect: number) => Float32Array;
  eye: readonly number[];
  /** Pixels by which the picture is moved, right and up. */
  shift?: readonly [number, number];
  /** How it goes over what is behind it; solid where it does not say. */
  as?: DrawnAs;
  /** Which of the pictures that were worked out ahead is shown: 0 the specimen, 1 the flat. */
  level: 0 | 1;
}

/** Whether what is behind it is seen too, so that it has to be there before. */
export const isSeenThrough = (drawn: Drawn | undefined): boolean => drawn?.as === 'glass' || drawn?.as === 'additive';

/** Draws triangles as they go over what is behind them: of glass, what is farther away first. */
function over(gl: WebGL2RenderingContext, as: DrawnAs, flat: boolean, triangles: () => void): void {
  const through = as === 'glass' || as === 'additive';
  const [blended, culled] = [through, !flat && as === 'solid'];
  (blended ? gl.enable : gl.disable).call(gl, gl.BLEND);
  (culled || (as === 'glass' && !flat) ? gl.enable : gl.disable).call(gl, gl.CULL_FACE);
  gl.depthMask(!through);
  if (as === 'glass') gl.blendFuncSeparate(gl.SRC_ALPHA, gl.ONE_MINUS_SRC_ALPHA, gl.ONE, gl.ONE);
  if (as === 'additive') gl.blendFuncSeparate(gl.ONE, gl.ONE, gl.ONE, gl.ONE);
  if (as === 'glass' && !flat) {
    gl.cullFace(gl.FRONT);
    triangles();
    gl.cullFace(gl.BACK);
  }
  triangles();
  gl.disable(gl.BLEND);
  gl.depthMask(true);
}

/** A clip matrix (column-major) whose picture is moved, in shares of half the picture. */
function moved(clip: Float32Array, x: number, y: number): Float32Array {
  const out = Float32Array.from(clip);
  for (let c = 0; c < 16; c += 4) {
    out[c] += x * clip[c + 3];
    out[c + 1] += y * clip[c + 3];
  }
  return out;
}

/** @param light tells the program how the mesh is lit, once the pane is known to have pixels */
export function draw(
  gl: WebGL2RenderingContext,
  { uniforms, pane, size, geometry, spans, matrix, eye, shift = [0, 0], level, as = 'solid' }: Drawing,
  light: (uniforms: Uniforms) => void,
): void {
  const { x, y, width, height } = pixelsOf(pane, size);
  if (width < 1 || height < 1) return;
  light(uniforms);
  gl.viewport(x, y, width, height);
  gl.scissor(x, y, width, height);
  gl.uniformMatrix4fv(uniforms.at('u_clip'), false, moved(matrix(width / height), (2 * shift[0]) / width, (2 * shift[1]) / height));
  uniforms.numbers('u_eye', eye);
  gl.uniform1i(uniforms.at('u_level'), level);
  gl.bindVertexArray(spans ? geometry.array : null);
  over(gl, as, level === 1 || !spans, () => {
    if (!spans) gl.drawArrays(gl.TRIANGLES, 0, 3);
    for (const [first, count] of spans ?? []) if (first + count <= geometry.count) gl.drawElements(gl.TRIANGLES, count, gl.UNSIGNED_INT, first * 4);
  });
}
