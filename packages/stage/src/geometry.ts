import type { Mesh } from '@pebble/core';
import { MESH_INPUTS, PIXEL_INPUTS, boundsOf, flatPlane, inputWidth } from '@pebble/core';
import type { Ball } from './shadow';

/** Place of vertex colours among the buffers of a mesh. */
export const COLOURS = MESH_INPUTS.indexOf('geomcolor');
/** The same for what relief moves. */
export const PLACES = MESH_INPUTS.indexOf('position');

/** A mesh in buffers of the graphics card. */
export interface Geometry {
  /** Tells one mesh from another. */
  id: number;
  ball: Ball;
  /** Where its vertices are without relief. */
  position: Float32Array;
  array: WebGLVertexArrayObject;
  buffers: WebGLBuffer[];
  count: number;
}
/** Puts a mesh into buffers. @param id tells it from others */
export function uploadMesh(gl: WebGL2RenderingContext, mesh: Mesh, id: number): Geometry {
  const array = gl.createVertexArray() as WebGLVertexArrayObject;
  gl.bindVertexArray(array);
  const buffers = MESH_INPUTS.map((name) => {
    const { location } = PIXEL_INPUTS[name];
    const buffer = gl.createBuffer() as WebGLBuffer;
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, mesh[name] ?? flatPlane(name, mesh.texcoord), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(location);
    gl.vertexAttribPointer(location, inputWidth(name), gl.FLOAT, false, 0, 0);
    return buffer;
  });
  const index = gl.createBuffer() as WebGLBuffer;
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, index);
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, mesh.index, gl.STATIC_DRAW);
  gl.bindVertexArray(null);
  return { id, ball: ballOf(mesh), position: mesh.position, array, buffers: [...buffers, index], count: mesh.index.length };
}

/** Draws a mesh with the vertex colours of a buffer, its own if that is null, until the next time. */
export function colourBy(gl: WebGL2RenderingContext, { array, buffers }: Geometry, colours: WebGLBuffer | null): void {
  gl.bindVertexArray(array);
  gl.bindBuffer(gl.ARRAY_BUFFER, colours ?? buffers[COLOURS]);
  gl.vertexAttribPointer(PIXEL_INPUTS.geomcolor.location, inputWidth('geomcolor'), gl.FLOAT, false, 0, 0);
}

/** Frees the buffers of a mesh. */
export function dropMesh(gl: WebGL2RenderingContext, { array, buffers }: Geometry): void {
  gl.deleteVertexArray(array);
  buffers.forEach((b) => gl.deleteBuffer(b));
}

/** A ball around the box of a mesh. */
function ballOf(mesh: Mesh): Ball {
  const { lo, hi } = boundsOf(mesh);
  return {
    centre: [(lo[0] + hi[0]) / 2, (lo[1] + hi[1]) / 2, (lo[2] + hi[2]) / 2],
    radius: Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]) / 2 || 1,
  };
}
