/** What is drawn into before it is shown: colours and depth, of the canvas's size. */
export class DrawTarget {
  private made: { framebuffer: WebGLFramebuffer; buffers: WebGLRenderbuffer[]; width: number; height: number } | null = null;

  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** The framebuffer at a size, made anew when it is another than last time. */
  of(width: number, height: number): WebGLFramebuffer {
    const { gl, made } = this;
    if (made?.width === width && made.height === height) return made.framebuffer;
    this.drop();
    const framebuffer = gl.createFramebuffer() as WebGLFramebuffer;
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    const buffer = (format: number, attachment: number) => {
      const one = gl.createRenderbuffer() as WebGLRenderbuffer;
      gl.bindRenderbuffer(gl.RENDERBUFFER, one);
      gl.renderbufferStorage(gl.RENDERBUFFER, format, width, height);
      gl.framebufferRenderbuffer(gl.FRAMEBUFFER, attachment, gl.RENDERBUFFER, one);
      return one;
    };
    const buffers = [buffer(gl.RGBA8, gl.COLOR_ATTACHMENT0), buffer(gl.DEPTH_COMPONENT24, gl.DEPTH_ATTACHMENT)];
    this.made = { framebuffer, buffers, width, height };
    return framebuffer;
  }

  drop(): void {
    if (!this.made) return;
    this.gl.deleteFramebuffer(this.made.framebuffer);
    this.made.buffers.forEach((b) => this.gl.deleteRenderbuffer(b));
    this.made = null;
  }
}
