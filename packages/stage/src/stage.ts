import type { ColourRun, LightData, MaterialGraph, Mesh, PackedSet, Span, Values } from '@pebble/core';
import { Ahead, WARM_UP } from './ahead';
import type { FrameReport, ProgramRequest } from './frames';
import { passed } from './gl';
import { Lighting } from './lighting';
import type { Pane, StageLook } from './look';
import type { Other } from './material';
import { Programs, StageMaterial } from './material';
import { StageMeshes } from './meshes';
import { Others } from './others';
import { Pace } from './pace';
import type { Painted } from './painter';
import { Painter } from './painter';
import type { Size } from './sight';
import { AROUND, Smooth } from './smooth';
import type { Tried, TriedPicture } from './tried';
import { TriedUses } from './tried';

/** Milliseconds for which a program waits for the picture ahead of it. */
const AHEAD_MS = 400;

/** Where a picture takes longer, the mean of several would hold up what is done next. */
const SMOOTH_MS = 500;

/**
 * Draws a material on a specimen and on the flat, side by side in one canvas. It draws only when asked, one frame at a time,
 * never reads back, and keeps the last good program while another is built.
 */
export class Stage implements Painted {
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
  spans: readonly Span[] | null = null;
  private readonly meshes: StageMeshes;
  private readonly ahead: Ahead;
  /** What the wanted program shows, to be worked out until it is built; null when that cannot be. */
  graph: MaterialGraph['outputs'] | null = null;
  /** Whether it moves texture coordinates along the line of sight. */
  parallax = false;
  private aheadShown: () => void = () => undefined;
  /** When the wanted program may be built. */
  private begin = Promise.resolve();
  private readonly lighting: Lighting;
  private readonly painter: Painter;
  private readonly smooth: Smooth;
  private readonly tried: TriedUses;
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
    this.smooth = new Smooth(gl);
    this.programs = new Programs(gl);
    this.meshes = new StageMeshes(gl);
    this.ahead = new Ahead(gl);
    this.own = this.material();
    this.others = new Others(gl, () => this.material());
    this.tried = new TriedUses(
      gl,
      this.lighting,
      () => this.draw(),
      (message) => this.onError(message),
    );
    const { own, others, meshes, ahead, lighting, smooth, tried } = this;
    this.painter = new Painter(gl, canvas, this, { own, others, meshes, ahead, lighting, smooth, tried });
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
      this.graph !== null &&
      this.look !== null &&
      this.ahead.able &&
      this.own.ready &&
      this.ahead.knows(...this.painter.sight(this.painter.aheadSize, this.look))
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
  now: Values = {};

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
    this.tried.around(mesh);
    this.draw();
  }

  /** Tries another use of a texture on what is there; null ends it. */
  setTried(tried: Tried | null): void {
    this.tried.set(tried);
    this.draw();
  }
  /** The picture that is tried from now on. */
  setTriedPicture(key: string, picture: TriedPicture): void {
    this.tried.take(key, picture);
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
    const scale = ahead ? this.painter.aheadScale : this.pace.next;
    try {
      this.painter.render(scale, ahead);
    } catch (error) {
      if (!ahead) throw error;
      // What cannot be worked out comes with its program.
      this.graph = null;
      this.busy = false;
      return this.aheadShown();
    }
    const ms = await passed(this.gl);
    if (this.disposed) return;
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
    this.painter.render(1, false, k);
    await passed(this.gl);
    if (this.disposed) return;
    this.busy = false;
    if (this.dirty) this.draw();
    else this.smoothNext(k + 1);
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
    if (!this.ahead.lookOn(...this.painter.sight(warm ? this.painter.aheadSize : WARM_UP.size, look))) {
      return void setTimeout(() => this.atRest && this.prepareAhead());
    }
    if (warm) return this.smoothNext(0);
    this.painter.warmUp();
    this.prepareAhead();
  }

  /** Does nothing any more; what it made is gone already, or goes with it. */
  end(): void {
    this.disposed = true;
    this.pace.end();
  }
  dispose(): void {
    this.end();
    this.own.dispose();
    this.ahead.dispose();
    this.others.drop();
    this.meshes.drop();
    this.painter.drop();
    this.smooth.drop();
    this.tried.dispose();
    this.lighting.dispose();
    this.gl.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
