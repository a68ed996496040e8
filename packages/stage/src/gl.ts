/** A program that is being built in the background: nothing asks for its state until the queue has passed it. */
export class PendingProgram {
  readonly program: WebGLProgram;
  private readonly shaders: WebGLShader[];
  private readonly fence: WebGLSync;
  private readonly parallel: { COMPLETION_STATUS_KHR: number } | null;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    vertex: string,
    private readonly fragment: string,
  ) {
    this.parallel = gl.getExtension('KHR_parallel_shader_compile');
    const compile = (type: number, source: string) => {
      const shader = gl.createShader(type) as WebGLShader;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      return shader;
    };
    this.program = gl.createProgram() as WebGLProgram;
    this.shaders = [compile(gl.VERTEX_SHADER, vertex), compile(gl.FRAGMENT_SHADER, fragment)];
    this.shaders.forEach((s) => gl.attachShader(this.program, s));
    gl.linkProgram(this.program);
    // Commands run in order: once this fence has passed, asking for the link status does not block.
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0) as WebGLSync;
    gl.flush();
  }

  get ready(): boolean {
    const { gl } = this;
    if (this.parallel && !gl.getProgramParameter(this.program, this.parallel.COMPLETION_STATUS_KHR)) return false;
    return gl.clientWaitSync(this.fence, 0, 0) !== gl.TIMEOUT_EXPIRED;
  }

  /** Waits without blocking, then checks. @throws Error with the compiler's words when the program is wrong. */
  async finish(): Promise<WebGLProgram> {
    while (!this.ready) await new Promise((resolve) => setTimeout(resolve, 8));
    const { gl, program } = this;
    gl.deleteSync(this.fence);
    const linked = gl.getProgramParameter(program, gl.LINK_STATUS) as boolean;
    const words = linked ? '' : [gl.getProgramInfoLog(program), ...this.shaders.map((s) => gl.getShaderInfoLog(s))].filter(Boolean).join('\n');
    this.shaders.forEach((s) => gl.deleteShader(s));
    if (linked) return program;
    gl.deleteProgram(program);
    // Lines by their numbers are for those who build it: people see what the driver says.
    const cause = this.fragment.split('\n').map((l, i) => `${i + 1} ${l}`);
    throw new Error(`The graphics driver refused the picture’s program: ${words.trim()}`, { cause: cause.join('\n') });
  }
}

/** Uniform locations by name, found once. */
export class Uniforms {
  private readonly found = new Map<string, WebGLUniformLocation | null>();

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly program: WebGLProgram,
  ) {}

  at(name: string): WebGLUniformLocation | null {
    if (!this.found.has(name)) this.found.set(name, this.gl.getUniformLocation(this.program, name));
    return this.found.get(name) as WebGLUniformLocation | null;
  }

  numbers(name: string, value: readonly number[] | Float32Array): void {
    const place = this.at(name);
    if (place)
      [this.gl.uniform1fv, this.gl.uniform2fv, this.gl.uniform3fv, this.gl.uniform4fv][value.length - 1].call(this.gl, place, value as number[]);
  }
}

/** Resolves when everything issued so far is done on the GPU; polls, never blocks. Gives the milliseconds it took. */
export async function passed(gl: WebGL2RenderingContext): Promise<number> {
  const began = performance.now();
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0) as WebGLSync;
  gl.flush();
  while (!gl.isContextLost() && gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await new Promise((resolve) => setTimeout(resolve, 4));
  gl.deleteSync(fence);
  return performance.now() - began;
}
