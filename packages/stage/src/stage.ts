import type { ColourRun, DrawnAs, LightData, MaterialGraph, Mesh, PackedSet, Span, Values } from '@pebble/core';
import { clipMatrix, eyeOf, frameValues } from '@pebble/core';
import { Ahead, WARM_UP } from './ahead';
import type { Drawing } from './draw';
import { draw, isSeenThrough } from './draw';
import { flatMatrix } from './flat';
import type { FrameReport, ProgramRequest } from './frames';
import type { Geometry } from './geometry';
import { colourBy } from './geometry';
import type { Uniforms } from './gl';
import { passed } from './gl';
import { Lighting } from './lighting';
import type { Pane, StageLook } from './look';
import type { Other } from './material';
import { Programs, StageMaterial } from './material';
import { StageMeshes } from './meshes';
import { Others } from './others';
import { Pace } from './pace';
import { CHANNELS } from './shaders';
import type { Sight, Size } from './sight';
import { AROUND, Smooth } from './smooth';
import { DrawTarget } from './target';

/** Milliseconds for which a program waits for the picture ahead of it. */
const AHEAD_MS = 400;

/** Where a picture takes longer, the mean of several would hold up what is done next. */
const SMOOTH_MS = 500;

/**
 * Draws a material on a specimen and on the flat, side by side in one canvas. It draws only when asked, one frame at a time,
 * never reads back, and keeps the last good program while another is built.
 */
export class Stage {
  readonly gl: WebGL2RenderingContext;
  look: StageLook | null = null;
  panes: { specimen: Pane; flat: Pane } = { specimen: { x: 0, y: 0, width: 0.6, height: 1 }, flat: { x: 0.6, y: 0, width: 0.4, height: 1 } };
  /** Number of the last thing that was asked of it; frames carry it. */
  tag = 0;
  onFrame: (report: FrameReport) => void = () => undefined;
  onError: (message: string) => void = () => undefined;
  private readonly programs: Programs;
  /** The material that is worked on, and those on the rest of the specimen. */
  private readonly own: StageMaterial;
  private readonly others: Others;
  /** Where the own blend lies on the specimen; null all over. */
  private spans: readonly Span[] | null = null;
  private readonly meshes: StageMeshes;
  private readonly ahead: Ahead;
  /** What the wanted program shows, to be worked out until it is built; null when that cannot be. */
  private graph: MaterialGraph['outputs'] | null = null;
  /** Whether it moves texture coordinates along the line of sight. */
  private parallax = false;
  private aheadShown: () => void = () => undefined;
  /** When the wanted program may be built. */
  private begin = Promise.resolve();
  private readonly lighting: Lighting;
  private readonly target: DrawTarget;
  private readonly smooth: Smooth;
  /** Pixels by which the picture that is drawn is moved. */
  private shift: readonly [number, number] = [0, 0];
  private busy = false;
  private dirty = false;
  private readonly pace = new Pace(() => this.draw());
  /** Whether there is a picture. */
  private drawn = false;
  private disposed = false;

  constructor(
    private readonly canvas: HTMLCanvasElement | OffscreenCanvas,
    light: LightData,
  ) {
    const gl = (canvas as HTMLCanvasElement).getContext('webgl2', {
      antialias: false,
      depth: false,
      alpha: false,
      powerPreference: 'high-performance',
      preserveDrawingBuffer: true,
    });
    if (!gl) throw new Error('This browser has no WebGL 2, which the stage needs. Turn on hardware acceleration or use another browser');
    this.gl = gl;
    gl.getExtension('EXT_color_buffer_float');
    this.lighting = new Lighting(gl, light);
    this.target = new DrawTarget(gl);
    this.smooth = new Smooth(gl);
    this.programs = new Programs(gl);
    this.meshes = new StageMeshes(gl);
    this.ahead = new Ahead(gl);
    this.own = this.material();
    this.others = new Others(gl, () => this.material());
  }

  private material(): StageMaterial {
    return new StageMaterial(
      this.gl,
      this.programs,
      // Soon and coarse, then in full: a change of structure is to be seen, not waited for.
      () => this.moved(),
      (message) => this.onError(message),
    );
  }

  /** Programs linked so far: dragging a value must not raise it. */
  get compiles(): number {
    return this.programs.linked;
  }

  /** Another sky. */
  setLight(light: LightData): void {
    this.lighting.set(light);
    this.draw();
  }

  /**
   * Takes a program into use with its numbers and textures as soon as it is built; until then its picture is worked out
   * coarsely from its graph where that is given, and else the last good one goes on drawing.
   */
  setProgram({ program, values, slots, parallax = false, whole = true }: ProgramRequest<PackedSet>): void {
    this.graph = program.graph;
    this.parallax = parallax;
    // One that was announced is worked out already.
    const announced = whole && this.own.announced(program, parallax);
    if (!announced) {
      // A compiler at work would hold up the picture that is to come before it.
      const shown = this.canAhead ? new Promise<void>((resolve) => (this.aheadShown = resolve)) : Promise.resolve();
      this.begin = Promise.race([shown, new Promise<void>((resolve) => setTimeout(resolve, AHEAD_MS))]);
    }
    this.own.set({ program, values, slots, parallax, begin: this.begin, whole });
    if (this.isAhead && !announced) this.draw();
  }

  private get canAhead(): boolean {
    return (
      this.graph !== null && this.look !== null && this.ahead.able && this.own.ready && this.ahead.knows(...this.sight(this.aheadSize, this.look))
    );
  }

  /** Whether the next picture is worked out ahead of its program. */
  private get isAhead(): boolean {
    return this.own.pending && this.canAhead;
  }

  /** New numbers for the program that is wanted: uniforms only. */
  setValues(values: Values): void {
    if (this.own.setValues(values)) this.moved();
    else if (this.isAhead) this.draw();
  }

  /** Numbers that stand in for those of every material for now, as time and what is tried out do. Nothing is compiled. */
  setNow(values: Values): void {
    this.now = values;
    this.moved();
  }
  private now: Values = {};

  /** Other blends on parts of the specimen; `spans` says where the own one lies then. */
  setOthers(spans: readonly Span[] | null, others: readonly Other[]): void {
    this.spans = spans;
    this.others.set(others);
    this.draw();
  }

  /** @param flat drawn by its texture coordinates; whatever else it carries is what coverages look at */
  setSpecimen(mesh: Mesh, flat: Mesh): void {
    this.meshes.set(mesh, flat);
    this.ahead.setMeshes(mesh, flat);
    this.draw();
  }

  /** Moves the vertices of the specimen; null brings them back. */
  setRelief(position: Float32Array | null): void {
    const now = this.meshes.setRelief(position);
    if (!now) return;
    this.ahead.setRelief(now);
    this.draw();
  }

  /** Other vertex colours, of runs of vertices of the specimen or of the flat. */
  setColours(of: 'specimen' | 'flat', runs: readonly ColourRun[], moving = false): void {
    if (!this.meshes[of]) return;
    for (const { first, colours } of this.meshes.setColours(of, runs)) this.ahead.setColours(of, first, colours);
    if (moving) this.moved();
    else this.draw();
  }

  /** Whether a program is in use. */
  get ready(): boolean {
    return this.own.ready;
  }

  /** Another size of the picture, from the next frame on: until then the last one stays, stretched. */
  setSize(width: number, height: number): void {
    this.wanted = { width, height };
    this.draw();
  }
  private wanted: Size | null = null;
  /** A canvas is cleared when its size changes, so that happens only right before it is drawn. */
  private takeSize(): void {
    const { wanted, canvas } = this;
    this.wanted = null;
    if (wanted && (wanted.width !== canvas.width || wanted.height !== canvas.height)) Object.assign(canvas, wanted);
  }

  /** Something moves: coarse frames until it rests. */
  moved(): void {
    this.pace.move();
    this.draw();
  }

  /** Asks for a frame. Calls while one is under way become one frame after it. */
  draw(): void {
    this.dirty = true;
    if (!this.busy && !this.disposed) requestAnimationFrame(() => void this.frame());
  }

  private async frame(): Promise<void> {
    if (this.busy || !this.dirty || this.disposed || !this.own.ready || !this.look || !this.meshes.specimen || (this.wanted ?? this.canvas).width < 2)
      return;
    // What is about to be replaced holds nothing up: when it is, a frame is asked for.
    const pending = this.own.pending || this.others.pending;
    const ahead = this.isAhead;
    if (pending && !ahead && !this.pace.moving && this.drawn) return;
    this.busy = true;
    this.dirty = false;
    this.takeSize();
    const { tag } = this;
    const scale = ahead ? this.aheadScale : this.pace.next;
    try {
      this.render(scale, ahead);
    } catch (error) {
      if (!ahead) throw error;
      // What cannot be worked out comes with its program.
      this.graph = null;
      this.busy = false;
      return this.aheadShown();
    }
    const ms = await passed(this.gl);
    // Those worked out ahead are measured by themselves.
    if (!ahead) this.pace.took(ms);
    this.busy = false;
    this.drawn = true;
    if (ahead) this.aheadShown();
    this.onFrame({ ms, scale, tag, pending, ahead });
    if (this.dirty) this.draw();
    else if (scale === 1 && !pending) {
      this.restMs = ms;
      this.prepareAhead();
    }
  }

  /** How long the last picture took that rests. */
  private restMs = 0;
  private get atRest(): boolean {
    return !this.disposed && !this.busy && !this.dirty && !this.own.pending && !this.pace.moving;
  }
  /** While nothing else is to be done: takes one picture after the other into the mean that is shown. */
  private smoothNext(k: number): void {
    if (this.look?.smooth && this.restMs < SMOOTH_MS && k < AROUND.length) setTimeout(() => this.atRest && void this.smoothWith(k));
  }
  private async smoothWith(k: number): Promise<void> {
    if (!this.smooth.ready(() => this.atRest && this.smoothNext(0))) return;
    this.busy = true;
    this.shift = AROUND[k];
    this.render(1, false, k);
    this.shift = [0, 0];
    await passed(this.gl);
    this.busy = false;
    if (this.dirty) this.draw();
    else this.smoothNext(k + 1);
  }

  private sizeAt(scale: number): Size {
    const { width, height } = this.canvas;
    return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
  }
  private get aheadSize(): Size {
    return this.sizeAt(this.aheadScale);
  }
  private get aheadScale(): number {
    return this.ahead.scaleFor(this.canvas.width * this.canvas.height, this.parallax ? 'shifted' : 'plain');
  }

  /** @param into number of the picture in the mean that is shown instead of it */
  private render(scale: number, ahead = false, into: number | null = null): void {
    const { gl, canvas } = this;
    const { specimen } = this.meshes;
    if (specimen && this.look?.shadow && this.look.channel === 'lit') this.lighting.throwShadow(specimen, this.look);
    const framebuffer = this.target.of(canvas.width, canvas.height);
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.disable(gl.SCISSOR_TEST);
    const grey = 0.4627;
    gl.clearColor(grey, grey, grey, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.enable(gl.DEPTH_TEST);
    gl.enable(gl.CULL_FACE);
    gl.enable(gl.SCISSOR_TEST);
    const look = this.look as StageLook;
    const size = this.sizeAt(scale);
    // What shows what is behind it comes after all that may be.
    const later = (material: StageMaterial) => isSeenThrough(material.current?.drawn);
    const others = (seenThrough: boolean) => {
      for (const { material, of, colours } of this.others.ready) {
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
      this.showOwn(ahead ? this.useAhead(look) : this.use(this.own, look), look, size, ahead);
    };
    others(false);
    const last = !ahead && later(this.own);
    if (!last) own();
    others(true);
    if (last) own();
    gl.bindVertexArray(null);
    gl.disable(gl.SCISSOR_TEST);
    if (into !== null) return this.smooth.take(framebuffer, size.width, size.height, into === 0);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, framebuffer);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, null);
    gl.blitFramebuffer(0, 0, size.width, size.height, 0, 0, canvas.width, canvas.height, gl.COLOR_BUFFER_BIT, gl.LINEAR);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  }

  /** Draws triangles of the specimen into its pane; null fills it with what is seen of them. */
  private showOn(uniforms: Uniforms, { orbit }: StageLook, size: Size, spans: readonly Span[] | null, as?: DrawnAs): void {
    const matrix = (aspect: number) => clipMatrix(orbit, aspect) as Float32Array;
    this.show({ uniforms, pane: this.panes.specimen, size, geometry: this.meshes.specimen, spans, matrix, eye: [...eyeOf(orbit)], level: 0, as });
  }
  /** Draws the own blend into both panes. @param ahead what is seen of the meshes is known already */
  private showOwn(uniforms: Uniforms, look: StageLook, size: Size, ahead: boolean): void {
    const { specimen, flat } = this.meshes;
    const whole = (of: Geometry | null) => (ahead ? null : of ? ([[0, of.count]] as const) : []);
    const { flat: level } = look;
    uniforms.numbers('u_per_metre', [look.perMetre]);
    const spans = ahead ? null : (this.spans ?? whole(specimen));
    const as = ahead ? undefined : this.own.current?.drawn.as;
    this.showOn(uniforms, look, size, spans, as);
    // Seen from straight above nothing shifts.
    uniforms.numbers('u_per_metre', [0]);
    const above = (aspect: number) => flatMatrix(level, aspect) as Float32Array;
    this.show({
      uniforms,
      pane: this.panes.flat,
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
    const numbers = frameValues(hoisted, { ...values, ...this.now });
    for (const { name } of glsl.values) if (numbers[name]) uniforms.numbers(`u_${name}`, numbers[name]);
    uniforms.numbers('u_cut', [(current as NonNullable<typeof current>).drawn.cut]);
    this.useLook(uniforms, look, slots?.bind(glsl, (n) => uniforms.at(n), 0) ?? 0);
    return uniforms;
  }
  /** The same for what was worked out ahead. */
  private useAhead(look: StageLook): Uniforms {
    const uniforms = this.ahead.use(0);
    this.useLook(uniforms, look, 2);
    return uniforms;
  }
  private useLook(uniforms: Uniforms, look: StageLook, unit: number): void {
    this.lighting.bind(uniforms, look, unit);
    this.gl.uniform1i(uniforms.at('u_channel'), CHANNELS.indexOf(look.channel));
    uniforms.numbers('u_bounds', look.bounds);
  }

  /** Works out what is seen of the own blend in both panes. */
  private workOut(look: StageLook, size: Size): void {
    const { graph, own } = this;
    if (!graph || !own.wanted) return;
    const { values, slots } = own.wanted;
    this.ahead.workOut({ graph, values, slots, perMetre: this.parallax ? look.perMetre : 0 }, ...this.sight(size, look));
  }
  private sight(size: Size, { orbit, flat }: StageLook): Sight {
    return [size, { orbit, flat }, this.panes, this.spans];
  }

  /**
   * While nothing else is to be done: builds what lights pictures ahead of their programs, runs it for the first time, looks at
   * what the next such picture will show, and then smooths what is shown.
   */
  private prepareAhead(): void {
    if (!this.ahead.ready) return this.ahead.build(() => !this.disposed && this.draw());
    const { look } = this;
    if (!look) return;
    const { warm } = this.ahead;
    if (!this.ahead.lookOn(...this.sight(warm ? this.aheadSize : WARM_UP.size, look))) {
      return void setTimeout(() => this.atRest && this.prepareAhead());
    }
    if (warm) return this.smoothNext(0);
    this.warmUp();
    this.prepareAhead();
  }

  /** Has the driver finish the program that lights what is worked out ahead, by drawing a few pixels with it. */
  private warmUp(): void {
    const { look } = this;
    if (!this.meshes.specimen || !look) return;
    this.ahead.warm = true;
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.target.of(this.canvas.width, this.canvas.height));
    gl.enable(gl.DEPTH_TEST);
    gl.enable(gl.CULL_FACE);
    gl.enable(gl.SCISSOR_TEST);
    // The code that works pictures out is quick only once it has run a few times.
    for (let i = 0; i < WARM_UP.times && this.graph && this.own.wanted; i++) {
      // Another object, for which everything is made anew.
      this.graph = { ...this.graph };
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
    const throws = (this.look?.shadow ?? false) && geometry === this.meshes.specimen;
    if (geometry) draw(this.gl, { ...drawing, geometry, shift: this.shift }, (uniforms) => this.lighting.shade(uniforms, geometry, throws));
  }

  dispose(): void {
    this.disposed = true;
    this.pace.end();
    this.own.dispose();
    this.ahead.dispose();
    this.others.drop();
    this.meshes.drop();
    this.target.drop();
    this.smooth.drop();
    this.lighting.dispose();
    this.gl.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
