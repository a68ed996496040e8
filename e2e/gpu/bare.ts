// A page of somebody else's: plain WebGL 2, given two texts, a table of uniforms and texture arrays. Runs in the browser, alone.
import type { EffectCase } from './effect-cases';

/** Draws one output of written shaders over a square. @returns three numbers a pixel, rows from the top */
export function drawnBare({ shader, textures, output, width }: Pick<EffectCase<unknown>, 'shader' | 'textures' | 'output' | 'width'>): number[] {
  const canvas = document.createElement('canvas');
  const gl = canvas.getContext('webgl2')!;
  gl.getExtension('EXT_color_buffer_float');
  gl.getExtension('OES_texture_float_linear');
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, shader.vertex],
    [gl.FRAGMENT_SHADER, shader.fragment],
  ] as const) {
    const part = gl.createShader(type)!;
    gl.shaderSource(part, text);
    gl.compileShader(part);
    if (!gl.getShaderParameter(part, gl.COMPILE_STATUS)) throw new Error(`${gl.getShaderInfoLog(part)}`);
    gl.attachShader(program, part);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(`${gl.getProgramInfoLog(program)}`);
  gl.useProgram(program);
  // A square metre that lies level and is looked at from above: u right, v down.
  const corners = [0, 0, 1, 0, 0, 1, 1, 1];
  const attribute = (name: string, wide: number, of: (u: number, v: number) => number[]) => {
    const at = gl.getAttribLocation(program, name);
    if (at < 0) return;
    const data: number[] = [];
    for (let i = 0; i < 8; i += 2) data.push(...of(corners[i], corners[i + 1]));
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(data), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(at);
    gl.vertexAttribPointer(at, wide, gl.FLOAT, false, 0, 0);
  };
  attribute('a_position', 3, (u, v) => [u - 0.5, 0, v - 0.5]);
  attribute('a_texcoord', 2, (u, v) => [u, v]);
  attribute('a_normal', 3, () => [0, 1, 0]);
  attribute('a_tangent', 4, () => [1, 0, 0, 1]);
  // x to the right, z up on the target, whose rows are read from the bottom: the first row read is the top of the picture.
  gl.uniformMatrix4fv(gl.getUniformLocation(program, 'pb_clip'), false, [2, 0, 0, 0, 0, 0, 0, 0, 0, 2, 0, 0, 0, 0, 0, 1]);
  gl.uniform3f(gl.getUniformLocation(program, 'pb_eye'), 0, 1, 0);
  gl.uniform1i(gl.getUniformLocation(program, 'pb_output'), output);
  for (const { name, initial } of shader.uniforms) {
    const at = gl.getUniformLocation(program, name);
    if (initial.length === 1) gl.uniform1fv(at, initial);
    else if (initial.length === 2) gl.uniform2fv(at, initial);
    else if (initial.length === 3) gl.uniform3fv(at, initial);
    else gl.uniform4fv(at, initial);
  }
  textures.forEach(({ name, kind, size, levels }, unit) => {
    const [internal, format, type] = {
      srgb: [gl.SRGB8_ALPHA8, gl.RGBA, gl.UNSIGNED_BYTE],
      rgba: [gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE],
      rg32f: [gl.RG32F, gl.RG, gl.FLOAT],
      r: [gl.R8, gl.RED, gl.UNSIGNED_BYTE],
    }[kind];
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, gl.createTexture());
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.texStorage3D(gl.TEXTURE_2D_ARRAY, levels.length, internal, size, size, 1);
    levels.forEach((level, l) => {
      const side = Math.max(1, size >> l);
      const data = kind === 'rg32f' ? new Float32Array(level) : new Uint8Array(level);
      gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, l, 0, 0, 0, side, side, 1, format, type, data);
    });
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MAG_FILTER, gl.LINEAR);
    gl.uniform1i(gl.getUniformLocation(program, name), unit);
  });
  const target = gl.createTexture();
  gl.activeTexture(gl.TEXTURE15);
  gl.bindTexture(gl.TEXTURE_2D, target);
  gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, width, width);
  gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
  gl.viewport(0, 0, width, width);
  gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
  const read = new Float32Array(width * width * 4);
  gl.readPixels(0, 0, width, width, gl.RGBA, gl.FLOAT, read);
  gl.getExtension('WEBGL_lose_context')?.loseContext();
  return Array.from({ length: width * width * 3 }, (_, k) => read[Math.floor(k / 3) * 4 + (k % 3)]);
}
