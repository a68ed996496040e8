import { PendingProgram } from './gl';

/**
 * Where pictures of one that rests are taken, in pixels from its own place: a rotated grid of four around it, so that edges
 * of any slant have as many steps between two pixels as there are pictures.
 */
export const AROUND: readonly (readonly [number, number])[] = [
  [-0.375, -0.125],
  [0.125, -0.375],
  [-0.125, 0.375],
  [0.375, 0.125],
];

const VERTEX = `#version 300 es
void main() {
  vec2 at = vec2((gl_VertexID << 1) & 2, gl_VertexID & 2);
  gl_Position = vec4(at * 2.0 - 1.0, 0.0, 1.0);
}`;
const FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D u_picture;
out vec4 colour;
void main() {
  colour = texelFetch(u_picture, ivec2(gl_FragCoord.xy), 0);
}`;

/** The mean of several pictures of the same, each moved by a part of a pixel: edges that a picture cannot carry become smooth. */
export class Smooth {
  private program: WebGLProgram | null = null;
  private made: { width: number; height: number; picture: WebGLTexture; copy: WebGLFramebuffer; sum: WebGLTexture; total: WebGLFramebuffer } | null =
    null;
  /** Pictures in the mean. */
  count = 0;

  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** Whether means can be kept finely enough, and what takes them is built. @param built called once it is, where it is not yet */
  ready(built: () => void): boolean {
    if (!this.gl.getExtension('EXT_color_buffer_float')) return false;
    if (!this.program && !this.building) {
      this.building = true;
      new PendingProgram(this.gl, VERTEX, FRAGMENT).finish().then(
        (program) => {
          this.program = program;
          built();
        },
        // Edges stay as they are.
        () => undefined,
      );
    }
    return this.program !== null;
  }
  private building = false;

  private size(width: number, height: number): NonNullable<Smooth['made']> {
    const { gl, made } = this;
    if (made?.width === width && made.height === height) return made;
    this.drop();
    const texture = (format: number) => {
      const one = gl.createTexture() as WebGLTexture;
      gl.bindTexture(gl.TEXTURE_2D, one);
      gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      const framebuffer = gl.createFramebuffer() as WebGLFramebuffer;
      gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
      gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, one, 0);
      return [one, framebuffer] as const;
    };
    const [picture, copy] = texture(gl.RGBA8);
    const [sum, total] = texture(gl.RGBA16F);
    return (this.made = { width, height, picture, copy, sum, total });
  }

  /**
   * Takes a picture into the mean, as the first one or as one more, and shows the mean on the canvas.
   * @param from the framebuffer that it was drawn into
   */
  take(from: WebGLFramebuffer, width: number, height: number, first: boolean): void {
    const { gl } = this;
    const { picture, copy, total } = this.size(width, height);
    this.count = first ? 1 : this.count + 1;
    gl.disable(gl.SCISSOR_TEST);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, from);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, copy);
    gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, total);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.DEPTH_TEST);
    gl.disable(gl.CULL_FACE);
    gl.useProgram(this.program);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, picture);
    gl.uniform1i(gl.getUniformLocation(this.program as WebGLProgram, 'u_picture'), 0);
    gl.bindVertexArray(null);
    // Each counts as much as all before it do together, divided by how many they are.
    if (this.count > 1) {
      gl.enable(gl.BLEND);
      gl.blendColor(0, 0, 0, 1 / this.count);
      gl.blendFunc(gl.CONSTANT_ALPHA, gl.ONE_MINUS_CONSTANT_ALPHA);
    }
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.disable(gl.BLEND);
    gl.bindTexture(gl.TEXTURE_2D, null);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, total);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, null);
    gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  }

  drop(): void {
    const { gl, made } = this;
    if (!made) return;
    [made.picture, made.sum].forEach((t) => gl.deleteTexture(t));
    [made.copy, made.total].forEach((f) => gl.deleteFramebuffer(f));
    this.made = null;
  }
}
