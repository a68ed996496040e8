import { mat4 } from 'gl-matrix';

/** Side in texels of what the map holds of all, and beside that of what is looked at from near. */
export const SHADOW_SIZE = 1024;
/** Distances of the eye that it reaches around what is looked at, and share of the whole from which on that is worth it. */
const NEAR = { distances: 3, share: 0.4 };

const VERTEX = `#version 300 es
layout(location = 0) in vec3 a_position; uniform mat4 u_shadow;
void main() { gl_Position = u_shadow * vec4(a_position, 1.0); }`;
const FRAGMENT = `#version 300 es
precision highp float; void main() {}`;

/**
 * What the light shines through, printed into the map: texels that let less through than a threshold stand in the way of all. The
 * thresholds of four by four texels are spread evenly, so that the places of a soft edge see every grey as it is.
 */
const COOKIE = `#version 300 es
precision highp float; uniform sampler2D t_cookie; uniform float u_times;
const float steps[16] = float[](0.0, 8.0, 2.0, 10.0, 12.0, 4.0, 14.0, 6.0, 3.0, 11.0, 1.0, 9.0, 15.0, 7.0, 13.0, 5.0);
void main() {
  vec2 uv = gl_FragCoord.xy / ${SHADOW_SIZE}.0; vec4 texel = texture(t_cookie, vec2(uv.x, 1.0 - uv.y) * u_times);
  ivec2 at = ivec2(gl_FragCoord.xy) & 3; float through = dot(texel.rgb, vec3(0.2126, 0.7152, 0.0722));
  if (through > (steps[at.y * 4 + at.x] + 0.5) / 16.0) discard;
  gl_FragDepth = 0.0; }`;
const PANE = `#version 300 es
void main() { gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }`;

/** A ball around what throws and receives shadows. */
export interface Ball {
  centre: readonly [number, number, number];
  radius: number;
}

/**
 * Clip matrix of the light: parallel, just around the ball. `toward` is the unit vector to the light.
 * @param thrown radius of the ball in which whatever throws shadows is, where that is larger
 */
export function lightMatrix(toward: readonly number[], { centre, radius }: Ball, thrown = radius): mat4 {
  const eye = [0, 1, 2].map((c) => centre[c] + toward[c] * thrown * 2) as [number, number, number];
  const up: [number, number, number] = Math.abs(toward[1]) > 0.95 ? [1, 0, 0] : [0, 1, 0];
  const view = mat4.lookAt(mat4.create(), eye, [...centre], up);
  return mat4.multiply(mat4.create(), mat4.ortho(mat4.create(), -radius, radius, -radius, radius, thrown * 0.5, thrown * 3.5), view);
}

/** What the map shows finer: the surroundings of what is looked at from near; null where all of it is as fine. */
export function nearBall({ radius }: Ball, { target, distance }: { target: readonly [number, number, number]; distance: number }): Ball | null {
  const near = NEAR.distances * distance;
  return near < NEAR.share * radius ? { centre: target, radius: near } : null;
}

/** Depths of a mesh as its key light sees them; drawn anew only when the light or the mesh moved. */
export class ShadowMap {
  readonly texture: WebGLTexture;
  matrix: mat4 = mat4.create();
  /** Of what is looked at from near, and its radius; null where there is none. */
  near: { matrix: mat4; radius: number } | null = null;
  private readonly framebuffer: WebGLFramebuffer;
  private readonly program: WebGLProgram;
  private printing: WebGLProgram | null = null;
  private through: { texture: WebGLTexture; times: number } | null = null;
  private prints = 0;
  private key = '';

  constructor(private readonly gl: WebGL2RenderingContext) {
    this.texture = gl.createTexture() as WebGLTexture;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.DEPTH_COMPONENT24, 2 * SHADOW_SIZE, SHADOW_SIZE);
    for (const [k, v] of [
      [gl.TEXTURE_COMPARE_MODE, gl.COMPARE_REF_TO_TEXTURE],
      [gl.TEXTURE_COMPARE_FUNC, gl.LEQUAL],
      [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
      [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
      [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
      [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    ])
      gl.texParameteri(gl.TEXTURE_2D, k, v);
    this.framebuffer = gl.createFramebuffer() as WebGLFramebuffer;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.framebuffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.TEXTURE_2D, this.texture, 0);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    this.program = this.build(VERTEX, FRAGMENT);
  }

  private build(vertex: string, fragment: string): WebGLProgram {
    const { gl } = this;
    const program = gl.createProgram() as WebGLProgram;
    for (const [type, source] of [
      [gl.VERTEX_SHADER, vertex],
      [gl.FRAGMENT_SHADER, fragment],
    ] as const) {
      const shader = gl.createShader(type) as WebGLShader;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
      gl.deleteShader(shader);
    }
    gl.linkProgram(program);
    return program;
  }

  /** A texture that the light shines through, so many times across the map; null for none. */
  cookie(texture: WebGLTexture | null, times: number): void {
    if (!texture && !this.through) return;
    this.through = texture && { texture, times };
    this.prints++;
  }
  private print({ texture, times }: NonNullable<ShadowMap['through']>): void {
    const { gl } = this;
    this.printing ??= this.build(PANE, COOKIE);
    gl.useProgram(this.printing);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.uniform1i(gl.getUniformLocation(this.printing, 't_cookie'), 0);
    gl.uniform1f(gl.getUniformLocation(this.printing, 'u_times'), times);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Brings the map up to date. `mesh` names what is drawn, so that nothing is drawn twice. @param near looked at from near */
  update(mesh: number, array: WebGLVertexArrayObject, count: number, toward: readonly number[], ball: Ball, near: Ball | null): void {
    // What shines through is spread over all of it alike.
    const finer = this.through ? null : near;
    const key = `${mesh} ${toward.join()} ${this.prints} ${finer ? `${finer.centre.join()} ${finer.radius}` : ''}`;
    if (key === this.key) return;
    this.key = key;
    const { gl } = this;
    this.matrix = lightMatrix(toward, ball);
    this.near = finer && { matrix: lightMatrix(toward, finer, ball.radius), radius: finer.radius };
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.framebuffer);
    gl.disable(gl.SCISSOR_TEST);
    gl.enable(gl.DEPTH_TEST);
    gl.disable(gl.CULL_FACE);
    gl.clear(gl.DEPTH_BUFFER_BIT);
    gl.useProgram(this.program);
    gl.bindVertexArray(array);
    for (const [i, matrix] of [this.matrix, ...(this.near ? [this.near.matrix] : [])].entries()) {
      gl.viewport(i * SHADOW_SIZE, 0, SHADOW_SIZE, SHADOW_SIZE);
      gl.uniformMatrix4fv(gl.getUniformLocation(this.program, 'u_shadow'), false, matrix as Float32Array);
      gl.drawElements(gl.TRIANGLES, count, gl.UNSIGNED_INT, 0);
    }
    gl.bindVertexArray(null);
    gl.viewport(0, 0, SHADOW_SIZE, SHADOW_SIZE);
    if (this.through) this.print(this.through);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  }

  dispose(): void {
    this.gl.deleteTexture(this.texture);
    this.gl.deleteFramebuffer(this.framebuffer);
    this.gl.deleteProgram(this.program);
    this.gl.deleteProgram(this.printing);
  }
}

/** Disc of eight places, turned by a number of the pixel: soft where one place would show steps. */
const TAPS = Array.from({ length: 8 }, (_, i) => {
  const r = Math.sqrt((i + 0.5) / 8);
  const a = i * 2.39996323;
  return [r * Math.cos(a), r * Math.sin(a)].map((v) => v.toFixed(5)).join(', ');
});

/**
 * How much of the key light arrives, 0–1. `u_shade`: width of the edge in the map, push along the normal in metres, on or off;
 * `u_shade_near`: the same of what is looked at from near, which lies in the right half of the map.
 */
export const SHADOW_GLSL = `
uniform highp sampler2DShadow t_shadow; uniform mat4 u_shadow; uniform mat4 u_shadow_near; uniform vec3 u_shade; uniform vec3 u_shade_near;
float arrives(vec3 p, vec3 n) {
  if (u_shade.z < 0.5) return 1.0;
  vec3 at = (u_shadow * vec4(p + n * u_shade.y, 1.0)).xyz * 0.5 + 0.5; float edge = u_shade.x; float half_ = 0.0;
  if (u_shade_near.z > 0.5) {
    vec3 near = (u_shadow_near * vec4(p + n * u_shade_near.y, 1.0)).xyz * 0.5 + 0.5;
    if (all(lessThan(abs(near.xy - 0.5), vec2(0.5 - 2.0 * u_shade_near.x)))) { at = near; edge = u_shade_near.x; half_ = 0.5; }
  }
  uint h = uint(gl_FragCoord.x) * 1664525u + uint(gl_FragCoord.y) * 1013904223u; h = (h ^ (h >> 16)) * 747796405u; h ^= h >> 13;
  float a = float(h >> 8) * (6.28318530718 / 16777216.0); mat2 turn = mat2(cos(a), sin(a), -sin(a), cos(a)) * edge;
  float sum = 0.0; vec2 tap;
  ${TAPS.map((tap) => `tap = clamp(at.xy + turn * vec2(${tap}), ${(0.5 / SHADOW_SIZE).toFixed(6)}, ${(1 - 0.5 / SHADOW_SIZE).toFixed(6)}); sum += texture(t_shadow, vec3(tap.x * 0.5 + half_, tap.y, at.z));`).join('\n  ')}
  return sum / ${TAPS.length}.0; }
`;
