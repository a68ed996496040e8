import type { ColourRun, Mesh } from '@pebble/core';
import type { Geometry } from './geometry';
import { COLOURS, PLACES, dropMesh, uploadMesh } from './geometry';

/** The specimen and its flat, as the graphics processor has them. */
export class StageMeshes {
  specimen: Geometry | null = null;
  flat: Geometry | null = null;
  private made = 0;

  constructor(private readonly gl: WebGL2RenderingContext) {}

  set(specimen: Mesh, flat: Mesh): void {
    this.drop();
    this.specimen = uploadMesh(this.gl, specimen, ++this.made);
    this.flat = uploadMesh(this.gl, flat, ++this.made);
  }

  /** Moves the vertices of the specimen; null brings them back. Gives where they are now; null without a specimen. */
  setRelief(position: Float32Array | null): Float32Array | null {
    const { gl, specimen } = this;
    if (!specimen) return null;
    const now = position ?? specimen.position;
    gl.bindVertexArray(null);
    gl.bindBuffer(gl.ARRAY_BUFFER, specimen.buffers[PLACES]);
    gl.bufferData(gl.ARRAY_BUFFER, now, gl.STATIC_DRAW);
    specimen.id = ++this.made;
    return now;
  }

  /** Other vertex colours, of runs of vertices. Gives those that fit: what was meant for another mesh came too late. */
  setColours(of: 'specimen' | 'flat', runs: readonly ColourRun[]): readonly ColourRun[] {
    const { gl } = this;
    const geometry = this[of];
    if (!geometry) return [];
    gl.bindVertexArray(null);
    gl.bindBuffer(gl.ARRAY_BUFFER, geometry.buffers[COLOURS]);
    const vertices = geometry.position.length / 3;
    const fitting = runs.filter(({ first, colours }) => first + colours.length / 4 <= vertices);
    for (const { first, colours } of fitting) gl.bufferSubData(gl.ARRAY_BUFFER, first * 16, colours);
    return fitting;
  }

  drop(): void {
    for (const geometry of [this.specimen, this.flat]) if (geometry) dropMesh(this.gl, geometry);
    this.specimen = this.flat = null;
  }
}
