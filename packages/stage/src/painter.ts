import type { DrawnAs, MaterialGraph, Span, Values } from '@pebble/core';
import { clipMatrix, eyeOf, frameValues } from '@pebble/core';
import type { Ahead } from './ahead';
import { WARM_UP } from './ahead';
import type { Drawing } from './draw';
import { draw, isSeenThrough } from './draw';
import { flatMatrix } from './flat';
import type { Geometry } from './geometry';
import { colourBy } from './geometry';
import type { Uniforms } from './gl';
import type { Lighting } from './lighting';
import type { Pane, StageLook } from './look';
import type { StageMaterial } from './material';
import type { StageMeshes } from './meshes';
import type { Others } from './others';
import { CHANNELS } from './shaders';
import type { Sight, Size } from './sight';
import type { Smooth } from './smooth';
import { AROUND } from './smooth';
import { DrawTarget } from './target';
import type { TriedUses } from './tried';

/** What is to be drawn. */
export interface Painted {
  readonly look: StageLook | null;
  readonly panes: { specimen: Pane; flat: Pane };
  /** Where the own blend lies on the specimen; null all over. */
  readonly spans: readonly Span[] | null;
  /** Numbers that stand in for those of every material for now. */
  readonly now: Values;
  /** Whether it moves texture coordinates along the line of sight. */
  readonly parallax: boolean;
  /** What the wanted program shows, to be worked out until it is built; null when that cannot be. */
  graph: MaterialGraph['outputs'] | null;
}
interface Parts {
  own: StageMaterial;
  others: Others;
  meshes: StageMeshes;
  ahead: Ahead;
  lighting: Lighting;
  smooth: Smooth;
  tried: TriedUses;
}

/** Draws one picture: how, not when. */
export class Painter {
  private readonly target: DrawTarget;
  /** Pixels by which the picture that is drawn is moved. */
  private shift: readonly [number, number] = [0, 0];

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly canvas: HTMLCanvasElement | OffscreenCanvas,
    private readonly of: Painted,
    private readonly parts: Parts,
  ) {
    this.target = new DrawTarget(gl);
  }

  sizeAt(scale: number): Size {
    const { width, height } = this.canvas;
    return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
  }
  get aheadSize(): Size {
    return this.sizeAt(this.aheadScale);
  }
  get aheadScale(): number {
    return this.parts.ahead.scaleFor(this.canvas.width * this.canvas.height, this.of.parallax ? 'shifted' : 'plain');
  }

  /** @param into number of the picture in the mean that is shown instead of it */
  render(scale: number, ahead = false, into: number | null = null): void {
    this.shift = into === null ? [0, 0] : AROUND[into];
    const { gl, canvas } = this;
    const { specimen } = this.parts.meshes;
    if (specimen && this.of.look?.shadow && this.of.look.channel === 'lit') this.parts.lighting.throwShadow(specimen, this.of.look);
    const framebuffer = this.target.of(canvas.width, canvas.height);
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.disable(gl.SCISSOR_TEST);
    const grey = 0.4627;
    gl.clearColor(grey, grey, grey, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.enable(gl.DEPTH_TEST);
    gl.enable(gl.CULL_FACE);
    gl.enable(gl.SCISSOR_TEST);
    const look = this.of.look as StageLook;
    const size = this.sizeAt(scale);
    // What shows what is behind it comes after all that may be.
    const later = (material: StageMaterial) => isSeenThrough(material.current?.drawn);
    const others = (seenThrough: boolean) => {
      for (const { material, of, colours } of this.parts.others.ready) {
        if (!specimen || later(material) !== seenThrough) continue;
        // What was painted for another mesh came too late.
        const fits = of.colours?.length === (specimen.position.length / 3) * 4;
        colourBy(gl, specimen, fits ? colours : null);
        const uniforms = this.use(material, look);
        uniforms.numbers('u_per_metre', [of.perMetre]);
        this.showOn(uniforms, look, size, of.spans, material.current?.drawn.as);
        colourBy(gl, specimen, null);
      }
    };
    const own = () => {
      if (ahead) this.workOut(look, size);
      this.showOwn(ahead ? this.useAhead(look) : this.use(this.parts.own, look), look, size, ahead);
    };
    others(false);
    const last = !ahead && later(this.parts.own);
    if (!last) own();
    others(true);
    if (last) own();
    if (!ahead && specimen) this.parts.tried.draw(specimen, look, { pane: this.of.panes.specimen, size, shift: this.shift });
    gl.bindVertexArray(null);
    gl.disable(gl.SCISSOR_TEST);
    if (into !== null) return this.parts.smooth.take(framebuffer, size.width, size.height, into === 0);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, framebuffer);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, null);
    gl.blitFramebuffer(0, 0, size.width, size.height, 0, 0, canvas.width, canvas.height, gl.COLOR_BUFFER_BIT, gl.LINEAR);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  }

  /** Draws triangles of the specimen into its pane; null fills it with what is seen of them. */
  private showOn(uniforms: Uniforms, { orbit }: StageLook, size: Size, spans: readonly Span[] | null, as?: DrawnAs): void {
    const matrix = (aspect: number) => clipMatrix(orbit, aspect) as Float32Array;
    this.show({
      uniforms,
      pane: this.of.panes.specimen,
      size,
      geometry: this.parts.meshes.specimen,
      spans,
      matrix,
      eye: [...eyeOf(orbit)],
      level: 0,
      as,
    });
  }
  /** Draws the own blend into both panes. @param ahead what is seen of the meshes is known already */
  private showOwn(uniforms: Uniforms, look: StageLook, size: Size, ahead: boolean): void {
    const { specimen, flat } = this.parts.meshes;
    const whole = (of: Geometry | null) => (ahead ? null : of ? ([[0, of.count]] as const) : []);
    const { flat: level } = look;
    uniforms.numbers('u_per_metre', [look.perMetre]);
    const spans = ahead ? null : (this.of.spans ?? whole(specimen));
    const as = ahead ? undefined : this.parts.own.current?.drawn.as;
    this.showOn(uniforms, look, size, spans, as);
    // Seen from straight above nothing shifts.
    uniforms.numbers('u_per_metre', [0]);
    const above = (aspect: number) => flatMatrix(level, aspect) as Float32Array;
    this.show({
      uniforms,
      pane: this.of.panes.flat,
      size,
      geometry: flat,
      spans: whole(flat),
      matrix: above,
      eye: [level.u, 40, level.v],
      level: 1,
      as,
    });
  }

  /** Takes a material into use. Gives where its program is told things. */
  private use({ current, values, slots }: StageMaterial, look: StageLook): Uniforms {
    const { uniforms, program, glsl, hoisted } = current as NonNullable<StageMaterial['current']>;
    this.gl.useProgram(program);
    const numbers = frameValues(hoisted, { ...values, ...this.of.now });
    for (const { name } of glsl.values) if (numbers[name]) uniforms.numbers(`u_${name}`, numbers[name]);
    uniforms.numbers('u_cut', [(current as NonNullable<typeof current>).drawn.cut]);
    this.useLook(uniforms, look, slots?.bind(glsl, (n) => uniforms.at(n), 0) ?? 0);
    return uniforms;
  }
  /** The same for what was worked out ahead. */
  private useAhead(look: StageLook): Uniforms {
    const uniforms = this.parts.ahead.use(0);
    this.useLook(uniforms, look, 2);
    return uniforms;
  }
  private useLook(uniforms: Uniforms, look: StageLook, unit: number): void {
    this.parts.lighting.bind(uniforms, look, unit);
    this.gl.uniform1i(uniforms.at('u_channel'), CHANNELS.indexOf(look.channel));
    uniforms.numbers('u_bounds', look.bounds);
  }

  /** Works out what is seen of the own blend in both panes. */
  private workOut(look: StageLook, size: Size): void {
    const { graph } = this.of;
    const { own } = this.parts;
    if (!graph || !own.wanted) return;
    const { values, slots } = own.wanted;
    this.parts.ahead.workOut({ graph, values, slots, perMetre: this.of.parallax ? look.perMetre : 0 }, ...this.sight(size, look));
  }
  sight(size: Size, { orbit, flat }: StageLook): Sight {
    return [size, { orbit, flat }, this.of.panes, this.of.spans];
  }

  /** Has the driver finish the program that lights what is worked out ahead, by drawing a few pixels with it. */
  warmUp(): void {
    const { look } = this.of;
    if (!this.parts.meshes.specimen || !look) return;
    this.parts.ahead.warm = true;
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.target.of(this.canvas.width, this.canvas.height));
    gl.enable(gl.DEPTH_TEST);
    gl.enable(gl.CULL_FACE);
    gl.enable(gl.SCISSOR_TEST);
    // The code that works pictures out is quick only once it has run a few times.
    for (let i = 0; i < WARM_UP.times && this.of.graph && this.parts.own.wanted; i++) {
      // Another object, for which everything is made anew.
      this.of.graph = { ...this.of.graph };
      this.workOut(look, WARM_UP.size);
    }
    this.showOwn(this.useAhead(look), look, WARM_UP.size, true);
    gl.bindVertexArray(null);
    gl.disable(gl.SCISSOR_TEST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    // Now, not along with the first picture that counts.
    gl.flush();
  }

  /** Draws a mesh into its pane, in the light. */
  private show(drawing: Omit<Drawing, 'geometry'> & { geometry: Geometry | null }): void {
    const { geometry } = drawing;
    const throws = (this.of.look?.shadow ?? false) && geometry === this.parts.meshes.specimen;
    if (geometry) draw(this.gl, { ...drawing, geometry, shift: this.shift }, (uniforms) => this.parts.lighting.shade(uniforms, geometry, throws));
  }

  drop = (): void => this.target.drop();
}
