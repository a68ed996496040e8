import type { Span } from '@pebble/core';
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
  /** Which of the pictures that were worked out ahead is shown: 0 the specimen, 1 the flat. */
  level: 0 | 1;
}

/** @param light tells the program how the mesh is lit, once the pane is known to have pixels */
export function draw(
  gl: WebGL2RenderingContext,
  { uniforms, pane, size, geometry, spans, matrix, eye, level }: Drawing,
  light: (uniforms: Uniforms) => void,
): void {
  const { x, y, width, height } = pixelsOf(pane, size);
  if (width < 1 || height < 1) return;
  light(uniforms);
  gl.viewport(x, y, width, height);
  gl.scissor(x, y, width, height);
  gl.uniformMatrix4fv(uniforms.at('u_clip'), false, matrix(width / height));
  uniforms.numbers('u_eye', eye);
  gl.uniform1i(uniforms.at('u_level'), level);
  gl.bindVertexArray(spans ? geometry.array : null);
  if (!spans) gl.drawArrays(gl.TRIANGLES, 0, 3);
  for (const [first, count] of spans ?? []) if (first + count <= geometry.count) gl.drawElements(gl.TRIANGLES, count, gl.UNSIGNED_INT, first * 4);
}
