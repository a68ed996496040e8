import { DestroyRef, Injectable, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import type { LightData, Material, Mesh, Orbit, ViewFrom } from '@pebble/core';
import { clipMatrix, frameOrbit, frameWithin, makeFlat, moved, onGround, viewOf, withFigure, withPlume } from '@pebble/core';
import { vec4 } from 'gl-matrix';
import type { FlatView, StageChannel, StageLook } from '@pebble/stage';
import { RemoteStage, flatAt } from '@pebble/stage';
import { LightService } from '../services/light.service';
import { Accounts } from './accounts';
import { WHOLE, arrowOf, dragMoved, dragTurned, flatKeyMoved, flatMoved, flatNearer, held, keyTurned, nearer } from './moves';
import { Neighbours } from './neighbours';
import { PaintedColours } from './painted-colours';
import { pngOf, stagePicture } from './stage-picture';
import type { Bars } from './bars';
import { NO_BARS } from './bars';
import { StagePixels } from './stage-pixels';
import { StageRelief } from './stage-relief';
import { StageSource } from './stage-source';
import { StageSpecimen } from './stage-specimen';
import { TerrainDetails } from './terrain-detail';

const RADIANS = Math.PI / 180;
/** How often a stage is started again that dies. */
const RESTARTS = { most: 3, withinMs: 120_000 };
/** Vertices farther apart than this carry no relief worth its name. */
const FINE_M = 0.03;
/** Share of the stage's width that the specimen takes. */
export const SPLIT = 0.594;
/** Share of the height that is left to bars at most. */
const UNDER_BARS = 0.3;

/**
 * A source on a specimen and on the flat, drawn by a worker on one canvas: what it is told, and when. Views put their own
 * tools and words over it.
 */
@Injectable()
export class StageScene {
  private readonly source = inject(StageSource);
  private readonly on = inject(StageSpecimen);
  private readonly painted = inject(PaintedColours);
  private readonly pixels = inject(StagePixels);
  private readonly neighbours = inject(Neighbours);
  private readonly accounts = inject(Accounts);
  private readonly light = inject(LightService);
  private readonly details = inject(TerrainDetails);
  private readonly destroyed = inject(DestroyRef);
  readonly stage = signal<RemoteStage | null>(null);
  /** Counts canvases: one that was given to a worker that died is of no more use. */
  readonly generation = signal(0);
  private restarts: number[] = [];
  /** Changes when colours have to be told again. */
  private readonly again = signal(0);
  readonly size = signal({ width: 1, height: 1 });
  readonly frame = signal<{ ms: number; scale: number } | null>(null);
  readonly failed = signal<string | null>(null);
  /** What is looked at. A view may put another channel in its place for a while. */
  readonly channel = signal<StageChannel>('lit');
  readonly instead = signal<StageChannel | null>(null);
  readonly flat = signal(WHOLE);
  /** A sky of one's own, in place of those that are offered, and whether somebody stands beside the specimen. */
  readonly skyInstead = signal<LightData | null>(null);
  readonly figure = signal(false);
  /** Room for what floats over it. */
  readonly plume = signal(false);
  /** Pictures are compared number by number: no edges are smoothed meanwhile. */
  readonly plain = signal(false);
  /** Colours of the vertices, rgba, that are shown in place of their own; null for these. */
  readonly heat = signal<Float32Array | null>(null);
  /** Share of the width that the specimen takes, set before it opens. */
  private readonly shares = signal(SPLIT);
  get split(): number {
    return this.shares();
  }
  set split(share: number) {
    this.shares.set(share);
  }
  /** Another share of the picture for the specimen; a stage that is open begins again with it. */
  divide(share: number): void {
    if (share === this.split) return;
    this.split = share;
    if (this.stage()) this.anew();
  }
  private anew(): void {
    this.close();
    [this.coloured, this.recoloured] = [null, false];
    this.pixels.again();
    this.generation.update((n) => n + 1);
  }
  /** Pixels of the specimen's pane, from each of its edges, that bars lie over. */
  bars = (): Bars => NO_BARS;
  private readonly orbit = signal(frameOrbit(2.4));
  /** Whether something is seen, or never will be: what can wait is worked out from then on. */
  readonly seen = computed(() => this.frame() !== null || this.failed() !== null);
  /** Somebody looked from elsewhere since it was framed: another size of the stage does not frame it anew. */
  private moved = false;
  /** Whether the specimen has vertices close enough to carry relief. */
  readonly fine = computed(() => this.on.vertices().spacingM <= FINE_M);
  /** Whether everything that is looked up is there, if only coarsely. */
  private readonly there = computed(() => this.source.shown() !== null);
  /** How far what is on the stage goes: one that waits for its pixels is not there yet. */
  private readonly spread = linkedSignal<{ material: Material | null; there: boolean }, Pick<StageLook, 'perMetre' | 'bounds'>>({
    source: () => ({ material: this.source.material(), there: this.there() }),
    computation: ({ material, there }, before) => {
      if (before && !there) return before.value;
      return material ? { perMetre: 1 / material.extentM, bounds: [material.bounds.lo, material.bounds.hi] } : { perMetre: 1, bounds: [0, 1] };
    },
  });
  /** The mesh whose colours the stage was last told, and whether they were others than it came with. */
  private coloured: unknown = null;
  private recoloured = false;
  /** Called with a stage once it stands, and whenever what it shows is no longer what was seen. */
  onOpened: (stage: RemoteStage, canvas: HTMLCanvasElement) => void = () => undefined;
  onStale: () => void = () => undefined;
  /** Hears how the stage looks, whenever that changes. */
  onLook: (look: StageLook) => void = () => undefined;

  constructor() {
    this.destroyed.onDestroy(() => this.close());
    effect(() => {
      const program = this.source.program();
      const shown = this.source.shown();
      if (!program || !shown) return;
      // Numbers have an effect of their own: a drag must not come through here.
      const [values, parallax] = [untracked(this.source.values), untracked(this.source.parallax)];
      this.stage()?.setProgram({ program, values, slots: shown.slots, parallax, whole: shown.whole });
    });
    // What another program was refused for says nothing of this one.
    effect(() => {
      this.source.program();
      untracked(() => this.failed.set(null));
    });
    // Numbers of a program that waits for pixels mean nothing to the one before it.
    effect(() => this.there() && this.stage()?.setValues(this.source.values()));
    this.followRelief();
    this.followMesh();
    this.followDetail();
    effect(() => this.stage()?.setOthers(this.on.ownSpans(), this.neighbours.shown()));
    effect(() => {
      this.on.bounds();
      untracked(() => this.frameSpecimen());
    });
    effect(() => {
      const more = this.figure() || this.plume();
      this.framed();
      untracked(() => this.makeRoom(more));
    });
    effect(() => {
      this.size();
      untracked(() => this.moved || this.frameSpecimen());
    });
    const sky = computed(() => this.light.look().sky);
    effect(() => {
      const [stage, name, instead] = [this.stage(), sky(), this.skyInstead()];
      if (instead) return stage?.setLight(instead);
      this.light
        .data(name)
        // A sky that comes late does not replace the one chosen since.
        .then((data) => name === this.light.look().sky && !untracked(this.skyInstead) && stage?.setLight(data))
        .catch((error: Error) => this.failed.set(error.message));
    });
    effect(() => {
      const { width, height } = this.size();
      const ratio = Math.min(2, devicePixelRatio);
      this.stage()?.setSize(Math.max(2, Math.round(width * ratio)), Math.max(2, Math.round(height * ratio)));
    });
    effect(() => this.look(false));
  }

  /** Takes a canvas over. */
  open(canvas: HTMLCanvasElement): void {
    this.canvas = canvas;
    let gone = false;
    let stage: RemoteStage | null = null;
    this.light
      .data(this.light.look().sky)
      .then((light) => {
        if (gone) return;
        const worker = new Worker(new URL('../workers/stage.worker', import.meta.url), { type: 'module' });
        const { split } = this;
        const panes = { specimen: { x: 0, y: 0, width: split, height: 1 }, flat: { x: split, y: 0, width: 1 - split, height: 1 } };
        stage = new RemoteStage(worker, canvas, light, panes);
        stage.onFrame = (report) => {
          // The first picture of a stage that was started again.
          if (this.generation() && !this.frame()) this.failed.set(null);
          this.frame.set(report);
        };
        this.frame.set(null);
        stage.onError = (message) => this.failed.set(message);
        stage.onDead = () => this.restart(stage);
        stage.onRestored = () => {
          [this.coloured, this.recoloured] = [null, true];
          this.again.update((n) => n + 1);
        };
        // For tests and the bench: how many programs were linked, how long frames took.
        (canvas as HTMLCanvasElement & { pebbleStage?: RemoteStage }).pebbleStage = stage;
        this.stage.set(stage);
        this.accounts.stage.set(stage);
        this.onOpened(stage, canvas);
      })
      .catch((error: Error) => this.failed.set(error.message));
    const observer = new ResizeObserver(([entry]) => this.size.set({ width: entry.contentRect.width, height: entry.contentRect.height }));
    observer.observe(canvas);
    this.close = () => {
      gone = true;
      observer.disconnect();
      stage?.dispose();
      if (this.stage() === stage) this.stage.set(null);
    };
  }
  private close: () => void = () => undefined;

  /** Another canvas and another worker for those that died; whoever dies again and again stays down. */
  private restart(dead: RemoteStage | null): void {
    if (dead !== this.stage()) return;
    const now = Date.now();
    this.restarts = [...this.restarts.filter((t) => now - t < RESTARTS.withinMs), now];
    const stays = this.restarts.length > RESTARTS.most;
    this.failed.set(stays ? 'The stage stops again and again. Reload the page; what you edited is kept' : 'The stage stopped, and is started again');
    if (!stays) this.anew();
  }

  private followRelief(): void {
    const relief = new StageRelief(this.source.programs, (position) => this.stage()?.setRelief(position));
    const moves = computed(() => this.light.look().relief === 'displaced' && this.fine());
    effect(() => {
      // Only while vertices are moved do heights come through here.
      const [material, sources] = moves() && this.stage() ? [this.source.material(), this.source.sources()] : [null, null];
      if (material && sources)
        relief.follow({ material, sources, mesh: this.on.mesh(), spacingM: this.on.vertices().spacingM }, this.on.ownVertices());
      else untracked(() => relief.stop());
    });
  }

  /** The form of the specimen, or a terrain as fine as it is seen. */
  private readonly formShown = computed<Mesh>(() => {
    const [form, fine] = [this.on.form(), this.details.shown()];
    return fine?.of === form && !this.heat() && this.light.look().relief !== 'displaced' ? fine.mesh : form;
  });
  private followDetail(): void {
    effect((onCleanup) => {
      const [form, on, stage] = [this.on.form(), this.on.terrain(), this.stage()];
      // The picture of all of it comes first.
      if (!on || !stage || !this.seen()) return untracked(() => this.details.end());
      onCleanup(this.details.look(form, on, this.on.extentM(), this.eye(), Math.max(1, this.size().height * Math.min(2, devicePixelRatio))));
    });
  }
  private followMesh(): void {
    const flat = makeFlat();
    effect(() => {
      // Another place is other ground, on the same specimen; colours have an effect of their own.
      this.on.placeText();
      this.stage()?.setSpecimen(this.formShown(), onGround(flat, untracked(this.on.ground)));
    });
    effect(() => {
      this.again();
      const [stage, form, colours] = [this.stage(), this.on.form(), this.heat() ?? this.painted.colours()];
      // What it came with went over with the mesh, unless other colours lay on it since.
      const fresh = this.coloured !== form;
      if (!stage || (colours === form.geomcolor && (fresh || !this.recoloured))) return;
      this.coloured = form;
      this.recoloured = colours !== form.geomcolor;
      // A stroke of one's own is shown while it is made.
      if (fresh || colours !== this.painted.own) stage.setColours('specimen', [{ first: 0, colours }]);
      stage.setColours('flat', [{ first: 0, colours: this.on.ground().alongOne('geomcolor', flat.texcoord) }]);
    });
  }

  /**
   * The specimen by itself, of any size, without what lies over it: PNG. The stage is as large meanwhile.
   * @returns null where there is no stage
   */
  async picture(width: number, height: number): Promise<Uint8Array<ArrayBuffer> | null> {
    const [stage, canvas] = [this.stage(), this.canvas];
    if (!stage || !canvas) return null;
    // Its pane is a part of the stage, and as wide as is asked.
    const whole = Math.round(width / this.split);
    stage.setSize(whole, height);
    try {
      const picture = await stagePicture(stage, canvas, { width: whole, height });
      return picture && (await pngOf(picture, width));
    } finally {
      const ratio = Math.min(2, devicePixelRatio);
      stage.setSize(Math.max(2, Math.round(this.size().width * ratio)), Math.max(2, Math.round(this.size().height * ratio)));
    }
  }
  private canvas: HTMLCanvasElement | null = null;

  /** Where the eye is. */
  readonly eye = (): Orbit => ({ ...this.orbit(), field: this.light.look().field * RADIANS, reach: this.reach() });
  /** All of the specimen is in the picture, however near one stands. */
  private readonly reach = computed(() => {
    const { lo, hi } = this.on.bounds();
    return 1.5 * Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]);
  });

  /** Where the middle of the specimen is seen, as a share of the stage's width. */
  middle(): number {
    const { width, height } = this.size();
    const { lo, hi } = this.on.bounds();
    const at = vec4.fromValues((lo[0] + hi[0]) / 2, (lo[1] + hi[1]) / 2, (lo[2] + hi[2]) / 2, 1);
    vec4.transformMat4(at, at, clipMatrix(this.eye(), (width * this.split) / Math.max(1, height)));
    return at[3] > 0 ? held((this.split * (at[0] / at[3] + 1)) / 2, [0, this.split]) : this.split / 2;
  }

  /** Tells the stage how it looks. @param moving coarse pictures do until it rests */
  look(moving: boolean): void {
    const stage = this.stage();
    if (!stage) return;
    const { perMetre, bounds } = this.spread();
    const { turn, exposure, mapped, shadow, smooth } = this.light.look();
    const channel = this.instead() ?? this.channel();
    const look: StageLook = {
      orbit: this.eye(),
      flat: this.flat(),
      channel,
      turn,
      exposure: 2 ** exposure,
      mapped,
      shadow,
      smooth: smooth && !this.plain(),
      perMetre,
      bounds,
      figure: this.figure(),
    };
    stage.setLook(look, moving);
    untracked(() => {
      this.onLook(look);
      this.onStale();
    });
  }

  /** What is to be in the picture. */
  private readonly framed = computed(() => {
    const box = this.plume() ? withPlume(this.on.bounds()) : this.on.bounds();
    return this.figure() ? withFigure(box) : box;
  });
  /** Looks at what one looks at from near, from some way off, or at all of it. */
  lookFrom(from: ViewFrom): void {
    if (from === 'far') return this.frameSpecimen();
    this.moved = true;
    this.orbit.update((o) => viewOf(this.on.form(), o, from));
    this.look(true);
  }
  /** Frames the specimen and all of the flat. */
  reframe(): void {
    this.frameSpecimen();
    this.flat.set(WHOLE);
  }
  /** As large as it can be where no bar lies over it. */
  private frameSpecimen(): void {
    const { width, height } = this.size();
    const [w, h] = [Math.max(1, width * this.split), Math.max(1, height)];
    const { top, bottom, left, right } = this.bars();
    // On a low stage a small specimen would be worse than one that reaches under its bars.
    const share = Math.min(1, (UNDER_BARS * h) / (top + bottom));
    const window = {
      left: -1 + (2 * left) / w,
      right: 1 - (2 * right) / w,
      bottom: -1 + (2 * bottom * share) / h,
      top: 1 - (2 * top * share) / h,
      aspect: w / h,
    };
    this.moved = false;
    this.orbit.set(frameWithin(this.framed(), window, this.light.look().field * RADIANS));
  }
  /** Frames what stands beside the specimen as well; without it one looks again as one did, unless one has moved since. */
  private makeRoom(more: boolean): void {
    const { before } = this;
    if (more) {
      const { orbit, moved, on } = before ?? { orbit: this.orbit(), moved: this.moved, on: this.on.bounds() };
      this.frameSpecimen();
      this.before = { orbit, moved, on, framed: this.orbit() };
    } else if (before) {
      this.before = null;
      if (this.orbit() !== before.framed) return;
      // Another specimen is there meanwhile: how one looked at the one before says nothing of it.
      if (this.on.bounds() !== before.on) return this.frameSpecimen();
      this.orbit.set(before.orbit);
      this.moved = before.moved;
    }
  }
  private before: { orbit: Orbit; moved: boolean; on: unknown; framed: Orbit } | null = null;
  private turn(how: (orbit: Orbit) => Orbit): void {
    this.moved = true;
    const [form, bounds] = [this.on.form(), this.on.bounds()];
    this.orbit.update((o) => moved(form, bounds, o, how(o)));
    this.look(true);
  }
  private shift(how: (flat: FlatView) => FlatView): void {
    this.flat.update(how);
    this.look(true);
  }
  /** A drag over the specimen, in pixels. @param aside moves it instead of turning it */
  dragBy(dx: number, dy: number, aside: boolean): void {
    this.turn((o) => (aside ? dragMoved : dragTurned)(o, dx, dy));
  }
  /** Arrow keys turn the specimen. @returns whether it was one */
  turnKey(event: KeyboardEvent): boolean {
    const by = arrowOf(event);
    if (by) this.turn((o) => keyTurned(o, by));
    return by !== null;
  }
  /** Goes nearer, or away, by what a wheel turned. */
  wheel(event: WheelEvent): void {
    event.preventDefault();
    const { lo, hi } = this.on.bounds();
    this.turn((o) => nearer(o, event.deltaY, Math.hypot(...hi.map((v, c) => v - lo[c]))));
  }
  /** Moves the flat by shares of the extent. */
  moveFlat(du: number, dv: number): void {
    this.shift((f) => flatMoved(f, du, dv));
  }
  /** Arrow keys move the flat. @returns whether it was one */
  flatKey(event: KeyboardEvent): boolean {
    const by = arrowOf(event);
    if (by) this.shift((f) => flatKeyMoved(f, by));
    return by !== null;
  }
  /** Where on the flat a pointer over its pane is, as a share of the extent. */
  flatPlace(event: MouseEvent, box = (event.currentTarget as HTMLElement).getBoundingClientRect()): [u: number, v: number] {
    return flatAt(this.flat(), box.width / Math.max(1, box.height), (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  }
  /** Goes nearer to what the pointer is at on the flat, or away from it. */
  flatWheel(event: WheelEvent): void {
    event.preventDefault();
    const place = this.flatPlace(event);
    this.shift((f) => flatNearer(f, event.deltaY, place));
  }
}
