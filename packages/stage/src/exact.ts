import type { DagNode, Domain, PackedSet, PixelInput, Values } from '@pebble/core';
import { COMPONENTS, emitGlsl, footprintValues, inputType, inputWidth } from '@pebble/core';
import { PendingProgram, Uniforms } from './gl';
import { SlotTextures, floatTexture } from './textures';

/**
 * Evaluates outputs on the GPU in exact mode, into float pixels: one plane a component, as core's `evaluate` gives them.
 * Reads back synchronously: for tests and proofs, never for the stage.
 */
export async function evaluateExact(
  gl: WebGL2RenderingContext,
  outputs: Readonly<Record<string, DagNode>>,
  domain: Domain,
  values: Values,
  slots: PackedSet,
): Promise<Record<string, Float32Array[]>> {
  if (!gl.getExtension('EXT_color_buffer_float')) throw new Error('This machine cannot draw into float pictures');
  const { width, height } = domain;
  const program = emitGlsl(outputs, 'exact', 4);
  const inputs = program.inputs as PixelInput[];
  const choose = program.outputs.map((o, i) => `if (u_pick == ${i}) pixel = ${pad(`o${i}`, o.type)};`).join(' ');
  const fragment = `#version 300 es
precision highp float; precision highp int; precision highp sampler2DArray; precision highp sampler2D;
${inputs.map((n) => `uniform sampler2D g_${n}; ${inputType(n)} in_${n};`).join('\n')}
uniform int u_pick; out vec4 pixel;
${program.source}
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy);
  ${inputs.map((n) => `in_${n} = texelFetch(g_${n}, p, 0).${'xyzw'.slice(0, inputWidth(n))};`).join(' ')}
  ${program.outputs.map((o, i) => `${o.type} o${i};`).join(' ')}
  pb_evaluate(${program.outputs.map((_, i) => `o${i}`).join(', ')});
  pixel = vec4(0.0); ${choose}
}`;
  const vertex = `#version 300 es
void main() { gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }`;
  const linked = await new PendingProgram(gl, vertex, fragment).finish();
  const uniforms = new Uniforms(gl, linked);
  const target = gl.createTexture() as WebGLTexture;
  gl.bindTexture(gl.TEXTURE_2D, target);
  gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, width, height);
  const framebuffer = gl.createFramebuffer() as WebGLFramebuffer;
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
  gl.useProgram(linked);
  const textures = new SlotTextures(gl, slots, true);
  const made: WebGLTexture[] = [target];
  let unit = textures.bind(program, (n) => uniforms.at(n), 0);
  for (const name of inputs) {
    gl.activeTexture(gl.TEXTURE0 + unit);
    made.push(floatTexture(gl, width, height, gl.RGBA32F, gl.RGBA, inputPixels(name, domain)));
    gl.uniform1i(uniforms.at(`g_${name}`), unit++);
  }
  const all: Values = { ...footprintValues(domain), ...values };
  for (const { name } of program.values) uniforms.numbers(`u_${name}`, all[name]);
  gl.viewport(0, 0, width, height);
  gl.bindVertexArray(null);
  const result: Record<string, Float32Array[]> = {};
  const pixels = new Float32Array(width * height * 4);
  program.outputs.forEach(({ name, type }, i) => {
    gl.uniform1i(uniforms.at('u_pick'), i);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.FLOAT, pixels);
    result[name] = Array.from({ length: COMPONENTS[type] }, (_, c) => Float32Array.from({ length: width * height }, (__, p) => pixels[p * 4 + c]));
  });
  made.forEach((t) => gl.deleteTexture(t));
  textures.dispose();
  gl.deleteFramebuffer(framebuffer);
  gl.deleteProgram(linked);
  return result;
}

const pad = (name: string, type: string) => (type === 'vec4' ? name : `vec4(${name}${', 0.0'.repeat(4 - COMPONENTS[type as 'float'])})`);

function inputPixels(name: PixelInput, domain: Domain): Float32Array {
  const { width, height } = domain;
  const n = width * height;
  const k = inputWidth(name);
  const memory = new Float32Array(n * k);
  domain.fill(
    name,
    { x: 0, y: 0, width, height },
    memory,
    Array.from({ length: k }, (_, c) => c * n),
    n,
  );
  return Float32Array.from({ length: n * 4 }, (_, i) => (i % 4 < k ? memory[(i % 4) * n + (i >> 2)] : 0));
}
