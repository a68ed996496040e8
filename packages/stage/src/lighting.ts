import type { LightData } from '@pebble/core';
import { TABLE_NUMBERS, TABLE_SIZE } from '@pebble/core';
import type { Geometry } from './geometry';
import type { Uniforms } from './gl';
import type { StageLook } from './look';
import { KEY_SHARE } from './shaders';
import { SHADOW_SIZE, ShadowMap, nearBall } from './shadow';
import { floatArray } from './textures';

/** Widest edge of a shadow from near, as a share of the map. */
const WIDEST_EDGE = 0.02;

/** The light on the stage: a sky with its key light, and the shadow that this throws. */
export class Lighting {
  private map: WebGLTexture | null = null;
  private table: WebGLTexture | null = null;
  private readonly shadow: ShadowMap;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private data: LightData,
  ) {
    this.shadow = new ShadowMap(gl);
    this.set(data);
  }

  /** Another sky. */
  set(data: LightData): void {
    const { gl } = this;
    this.drop();
    this.data = data;
    const { width, height, levels, map, table } = data;
    const rgba = new Float32Array((map.length / 3) * 4);
    for (let i = 0; i < map.length / 3; i++) rgba.set(map.subarray(i * 3, i * 3 + 3), i * 4);
    this.map = floatArray(gl, rgba, { width, height, layers: levels.length, wrap: gl.REPEAT });
    this.table = floatArray(gl, table, { width: TABLE_SIZE, height: TABLE_SIZE, layers: TABLE_NUMBERS / 4 });
  }

  /** Where the key light is seen from, turned as the sky is. */
  private toward({ turn }: StageLook): number[] {
    const [x, y, z] = this.data.key.direction;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    return [c * x - s * z, y, c * z + s * x];
  }

  /** A texture that the key light shines through, so many times across it; null takes it away. It is printed into the shadow. */
  cookie(texture: WebGLTexture | null, times: number): void {
    this.shadow.cookie(texture, times);
  }

  /** Throws the shadow anew if what is in its way, or the light, has changed. */
  throwShadow({ id, array, count, ball }: Geometry, look: StageLook): void {
    this.shadow.update(id, array, count, this.toward(look), ball, nearBall(ball, look.orbit));
  }

  /** Tells a program how shadows fall on a mesh. @param throws whether they do */
  shade(uniforms: Uniforms, { ball: { radius } }: Geometry, throws: boolean): void {
    // Things that throw shadows stand about a quarter of the whole from where they fall: so many metres wide is the edge.
    const soft = this.data.key.spread * 0.25 * radius;
    const of = (width: number) => [soft / (2 * width) + 0.7 / SHADOW_SIZE, width * 0.006];
    const { near } = this.shadow;
    uniforms.numbers('u_shade', [...of(radius), throws ? 1 : 0]);
    const [edge, push] = of(near?.radius ?? radius);
    uniforms.numbers('u_shade_near', [Math.min(edge, WIDEST_EDGE), push, near ? 1 : 0]);
  }

  /** Tells a program of the light. @param unit the first of the texture units that it takes */
  bind(uniforms: Uniforms, look: StageLook, unit: number): void {
    const { gl, data } = this;
    const texture = (name: string, kind: number, of: WebGLTexture | null, at: number) => {
      gl.activeTexture(gl.TEXTURE0 + at);
      gl.bindTexture(kind, of);
      gl.uniform1i(uniforms.at(name), at);
    };
    texture('t_light', gl.TEXTURE_2D_ARRAY, this.map, unit);
    texture('t_table', gl.TEXTURE_2D_ARRAY, this.table, unit + 1);
    texture('t_shadow', gl.TEXTURE_2D, this.shadow.texture, unit + 2);
    gl.uniform3fv(uniforms.at('u_harmonics[0]'), data.harmonics);
    uniforms.numbers('u_turn', [Math.cos(look.turn), Math.sin(look.turn)]);
    uniforms.numbers('u_exposure', [look.exposure]);
    uniforms.numbers('u_levels', [data.levels.length]);
    uniforms.numbers(
      'u_key',
      data.key.radiance.map((v) => v * KEY_SHARE),
    );
    uniforms.numbers('u_toward', this.toward(look));
    gl.uniform1i(uniforms.at('u_mapped'), look.mapped ? 1 : 0);
    gl.uniformMatrix4fv(uniforms.at('u_shadow'), false, this.shadow.matrix as Float32Array);
    if (this.shadow.near) gl.uniformMatrix4fv(uniforms.at('u_shadow_near'), false, this.shadow.near.matrix as Float32Array);
  }

  private drop(): void {
    this.gl.deleteTexture(this.map);
    this.gl.deleteTexture(this.table);
  }
  dispose(): void {
    this.shadow.dispose();
    this.drop();
  }
}
