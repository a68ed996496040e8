// Other uses of a texture, tried on what is on the stage: a decal, cards of particles, a cookie of the light; and a figure for scale.
import type { Mesh, Orbit } from '@pebble/core';
import { PIXEL_INPUTS, besideBox, boundsOf, clipMatrix, eyeOf, figure, movedBy, plume } from '@pebble/core';
import type { Drawing } from './draw';
import { draw } from './draw';
import type { Geometry } from './geometry';
import { dropMesh, uploadMesh } from './geometry';
import { PendingProgram, Uniforms } from './gl';
import type { Lighting } from './lighting';
import type { StageLook } from './look';
import { LIGHT, LIGHT_UNITS } from './shaders';
import { SHADOW_GLSL } from './shadow';

/** Ways in which a texture is tried that are drawn with the specimen; a sky is a light. */
export const TRIED_WAYS = ['decal', 'card', 'cookie'] as const;
export type TriedWay = (typeof TRIED_WAYS)[number];

/** A texture as RGBA bytes, from the top down. */
export interface TriedPicture {
  width: number;
  height: number;
  data: Uint8Array;
  /** Colours of sRGB; else numbers as they are. */
  srgb: boolean;
}
/** How it is tried. */
export interface Tried {
  /** Tells one picture from another: it goes over and is uploaded once. */
  key: string;
  way: TriedWay;
  /** A decal is thrown from where the eye was. */
  from: Orbit;
  /** Side of a decal in metres; repetitions across the light of a cookie. */
  size: number;
  /** Cards add their light; else they cover by alpha. */
  additive: boolean;
  /** How often each pixel is drawn instead of what cards show. */
  heat: boolean;
}

/** What of a box a decal is thrown through, past its middle and before it. */
const DEPTH = 4;
/** A card shows so much of a full step of heat: eight over each other are all of it. */
const HEAT = 'vec3(0.125, 0.05, 0.0125)';

const VERTEX = `#version 300 es
layout(location = ${PIXEL_INPUTS.position.location}) in vec3 a_position; layout(location = ${PIXEL_INPUTS.normal.location}) in vec3 a_normal; layout(location = ${PIXEL_INPUTS.texcoord.location}) in vec2 a_texcoord;
uniform mat4 u_clip; out vec3 v_place; out vec3 v_normal; out vec2 v_uv;
void main() { v_place = a_position; v_normal = a_normal; v_uv = a_texcoord; gl_Position = u_clip * vec4(a_position, 1.0); }
`;
const KINDS = ['figure', 'decal', 'card', 'added', 'heat'] as const;
type Kind = (typeof KINDS)[number];
const kind = (name: Kind): string => String(KINDS.indexOf(name));
/** Dull and of one grey: a figure, and what a decal is beside its colour. */
const FRAGMENT = `#version 300 es
precision highp float; precision highp int; precision highp sampler2DArray; precision highp sampler2D;
in vec3 v_place; in vec3 v_normal; in vec2 v_uv; out vec4 colour;
uniform bool u_level; uniform vec3 u_eye; uniform int u_kind; uniform bool u_lit; uniform sampler2D t_tried; uniform mat4 u_thrown; uniform vec3 u_from;
${LIGHT}
${SHADOW_GLSL}
vec4 shown(vec3 base, float alpha, float rough) {
  vec3 n = normalize(v_normal); vec3 seen = base;
  if (u_lit) { seen = lit(base, n, rough, 0.0, 1.0, 0.0, normalize(u_eye - v_place), arrives(v_place, n)) * u_exposure; if (u_mapped) seen = tone(seen); }
  return vec4(encode(seen), alpha); }
void main() {
  if (u_kind == ${kind('heat')}) { colour = vec4(${HEAT}, 1.0); return; }
  if (u_kind == ${kind('figure')}) { colour = shown(vec3(0.32), 1.0, 0.8); return; }
  if (u_kind == ${kind('decal')}) {
    vec3 at = (u_thrown * vec4(v_place, 1.0)).xyz; float facing = dot(normalize(v_normal), u_from);
    // What turns away from where it was thrown from would only smear it.
    if (any(greaterThan(abs(at), vec3(1.0))) || facing < 0.1) discard;
    vec4 texel = texture(t_tried, vec2(at.x, -at.y) * 0.5 + 0.5); colour = shown(texel.rgb, texel.a * smoothstep(0.1, 0.35, facing), 0.6); return; }
  vec4 texel = texture(t_tried, v_uv);
  // Cards give light of their own: round ones, so that no edge of a square is seen.
  float round = 1.0 - smoothstep(0.55, 1.0, length(v_uv * 2.0 - 1.0)); float alpha = texel.a * round;
  vec3 seen = u_mapped ? tone(texel.rgb * u_exposure) : texel.rgb * u_exposure;
  colour = u_kind == ${kind('added')} ? vec4(encode(seen) * alpha, 1.0) : vec4(encode(seen), alpha); }
`;

type Direction = readonly [number, number, number];
/** The matrix that takes a place to where it lies on a decal, −1 to 1 each way, and the direction that it is thrown from. */
export function thrown({ yaw, pitch, target }: Orbit, side: number): { matrix: Float32Array; from: Direction } {
  const [cy, sy, cp, sp] = [Math.cos(yaw), Math.sin(yaw), Math.cos(pitch), Math.sin(pitch)];
  const from: Direction = [cp * sy, sp, cp * cy];
  const axes: readonly Direction[] = [[cy, 0, -sy], [-sp * sy, cp, -sp * cy], from];
  const scale = [2 / side, 2 / side, 2 / (side * DEPTH)];
  const matrix = new Float32Array(16);
  axes.forEach((axis, row) => {
    for (let c = 0; c < 3; c++) matrix[c * 4 + row] = axis[c] * scale[row];
    matrix[12 + row] = -scale[row] * (axis[0] * target[0] + axis[1] * target[1] + axis[2] * target[2]);
  });
  matrix[15] = 1;
  return { matrix, from };
}

type Shown = Pick<Drawing, 'pane' | 'size' | 'shift'>;

/** Draws what is tried over what is there already. Its program is built the first time that something is tried. */
export class TriedUses {
  private program: WebGLProgram | null = null;
  private uniforms: Uniforms | null = null;
  private building = false;
  private tried: Tried | null = null;
  private texture: WebGLTexture | null = null;
  private uploaded = '';
  private box = { lo: [-1, -1, -1] as number[], hi: [1, 1, 1] as number[] };
  private figure: Geometry | null = null;
  private cards: { geometry: Geometry; key: string } | null = null;
  private made = 0;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly lighting: Lighting,
    private readonly changed: () => void,
    private readonly failed: (message: string) => void,
  ) {}

  /** What is tried, with the picture of its key; null ends it. */
  set(tried: Tried | null): void {
    this.tried = tried?.key === this.uploaded ? tried : null;
    const cookie = this.tried?.way === 'cookie' ? this.tried : null;
    this.lighting.cookie(cookie && this.texture, cookie?.size ?? 1);
  }
  /** Another specimen: what stands beside it moves. */
  around(mesh: Mesh): void {
    this.box = boundsOf(mesh);
    if (this.figure) dropMesh(this.gl, this.figure);
    this.figure = null;
    this.forgetCards();
  }

  /** Another picture. */
  take(key: string, { width, height, data, srgb }: TriedPicture): void {
    const { gl } = this;
    gl.deleteTexture(this.texture);
    this.uploaded = key;
    this.texture = gl.createTexture() as WebGLTexture;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.texStorage2D(gl.TEXTURE_2D, 1 + Math.floor(Math.log2(Math.max(width, height))), srgb ? gl.SRGB8_ALPHA8 : gl.RGBA8, width, height);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, data);
    gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
  }

  private build(): boolean {
    if (this.program || this.building) return this.program !== null;
    this.building = true;
    new PendingProgram(this.gl, VERTEX, FRAGMENT).finish().then(
      (program) => {
        this.program = program;
        this.uniforms = new Uniforms(this.gl, program);
        this.changed();
      },
      (error: Error) => this.failed(error.message),
    );
    return false;
  }

  /** Draws over the specimen's pane. */
  draw(specimen: Geometry, look: StageLook, on: Shown): void {
    const { tried } = this;
    const [decal, card] = [tried?.way === 'decal', tried?.way === 'card'];
    if (!(look.figure || decal || card) || !['lit', 'baseColor'].includes(look.channel) || !this.build()) return;
    const { gl } = this;
    if (look.figure) {
      this.figure ??= uploadMesh(gl, movedBy(figure(), besideBox(this.box)), --this.made);
      this.show('figure', this.figure, look, on);
    }
    if (decal) {
      gl.depthFunc(gl.LEQUAL);
      gl.enable(gl.POLYGON_OFFSET_FILL);
      gl.polygonOffset(-1, -1);
      this.show('decal', specimen, look, on);
      gl.disable(gl.POLYGON_OFFSET_FILL);
      gl.depthFunc(gl.LESS);
    }
    if (tried && card) this.show(tried.heat ? 'heat' : tried.additive ? 'added' : 'card', this.cardsFor(look.orbit), look, on);
  }
  private cardsFor(orbit: Orbit): Geometry {
    const key = JSON.stringify([this.box, orbit]);
    if (this.cards?.key !== key) {
      this.forgetCards();
      this.cards = { key, geometry: uploadMesh(this.gl, plume(this.box, orbit), --this.made) };
    }
    return (this.cards as NonNullable<typeof this.cards>).geometry;
  }
  private forgetCards(): void {
    if (this.cards) dropMesh(this.gl, this.cards.geometry);
    this.cards = null;
  }

  private show(name: Kind, geometry: Geometry, look: StageLook, on: Shown): void {
    const { gl, uniforms } = this;
    if (!uniforms) return;
    gl.useProgram(this.program);
    this.lighting.bind(uniforms, look, 0);
    gl.activeTexture(gl.TEXTURE0 + LIGHT_UNITS);
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.uniform1i(uniforms.at('t_tried'), LIGHT_UNITS);
    gl.uniform1i(uniforms.at('u_kind'), KINDS.indexOf(name));
    gl.uniform1i(uniforms.at('u_lit'), look.channel === 'lit' ? 1 : 0);
    if (this.tried) {
      const { matrix, from } = thrown(this.tried.from, this.tried.size);
      gl.uniformMatrix4fv(uniforms.at('u_thrown'), false, matrix);
      uniforms.numbers('u_from', [...from]);
    }
    const drawing: Drawing = {
      ...on,
      uniforms,
      geometry,
      spans: [[0, geometry.count]],
      matrix: (aspect) => clipMatrix(look.orbit, aspect) as Float32Array,
      eye: [...eyeOf(look.orbit)],
      level: 0,
      as: name === 'figure' ? 'solid' : name === 'added' || name === 'heat' ? 'additive' : 'glass',
    };
    draw(gl, drawing, () => this.lighting.shade(uniforms, geometry, look.shadow && name === 'decal'));
  }

  dispose(): void {
    this.gl.deleteTexture(this.texture);
    this.gl.deleteProgram(this.program);
    if (this.figure) dropMesh(this.gl, this.figure);
    this.forgetCards();
  }
}
