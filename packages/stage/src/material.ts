import type { Drawn, GlslProgram, Hoisted, LiveProgram, PackedSet, Span, Values } from '@pebble/core';
import { NO_SLOTS, Recent, SOLID, hoistedText, sameItems } from '@pebble/core';
import { PendingProgram, Uniforms } from './gl';
import { stageFragment, stageVertex } from './shaders';
import { SlotTextures, regionsSince, settlePicture } from './textures';

/** A program that is built, with what it is told in every frame. */
export interface Built {
  key: string;
  glsl: GlslProgram;
  program: WebGLProgram;
  uniforms: Uniforms;
}
/** What is told of a program in use. */
export type DrawnBy = Pick<LiveProgram, 'glsl' | 'hoisted' | 'drawn'>;

/** Another material on other triangles of the specimen. */
export interface Other {
  /** Tells one from another; it keeps what it was built with. */
  key: string;
  program: DrawnBy;
  values: Values;
  slots: PackedSet;
  spans: readonly Span[];
  /** Repetitions a metre. */
  perMetre: number;
  parallax: boolean;
  /** rgba of all vertices as they were painted for it; null when nothing was. */
  colours: Float32Array | null;
}
/** Programs that are remembered at most. */
const MAX_PROGRAMS = 16;

const keyOf = ({ glsl, drawn = SOLID }: Pick<DrawnBy, 'glsl' | 'drawn'>, parallax: boolean): string => `${parallax}${drawn.as}${glsl.source}`;
/** One text may be told numbers that are worked out otherwise: what is in use is told apart by both. */
const stateOf = (by: DrawnBy, parallax: boolean): string => `${keyOf(by, parallax)}\n${hoistedText(by.hoisted)}`;

/** Programs by what they say; each is linked once. */
export class Programs {
  /** Programs linked so far: dragging a value must not raise it. */
  linked = 0;
  private readonly known = new Recent<string, Promise<Built>>(MAX_PROGRAMS);

  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** @param begin building waits for this */
  get({ glsl, drawn = SOLID }: Pick<DrawnBy, 'glsl' | 'drawn'>, parallax: boolean, begin: Promise<void> = Promise.resolve()): Promise<Built> {
    const key = keyOf({ glsl, drawn }, parallax);
    return this.known.of(key, () => {
      this.linked++;
      return begin
        .then(() => new PendingProgram(this.gl, stageVertex(glsl), stageFragment(glsl, parallax, drawn.as)).finish())
        .then((program) => ({ key, glsl, program, uniforms: new Uniforms(this.gl, program) }));
    });
  }
}

/** What a material on the stage shows. */
export interface Shown {
  program: DrawnBy;
  values: Values;
  slots: PackedSet;
  parallax: boolean;
  begin?: Promise<void>;
  whole?: boolean;
}

/** A program with its numbers and textures. While another is built, the last good one goes on with its own. */
export class StageMaterial {
  current: (Built & { hoisted: readonly Hoisted[]; drawn: Drawn }) | null = null;
  values: Values = {};
  slots: SlotTextures | null = null;
  /** What it shall show: what it shows, or what is still being built. */
  wanted: { key: string; values: Values; slots: PackedSet; whole: boolean; drawn: Drawn } | null = null;
  /** What could not be built. */
  private refused = '';
  private uploaded: PackedSet = NO_SLOTS;
  private disposed = false;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly programs: Programs,
    private readonly changed: () => void,
    private readonly failed: (message: string) => void,
  ) {}

  /**
   * Takes a program into use as soon as it is built.
   * @param begin building it waits for this, and so do other surfaces that go over; at once by default
   * @param whole false for surfaces in place of others that are on their way: these are not taken into use; true by default
   */
  set({ program, values, slots, parallax, begin = Promise.resolve(), whole = true }: Shown): void {
    const { hoisted } = program;
    const key = stateOf(program, parallax);
    this.wanted = { key, values, slots, whole, drawn: program.drawn ?? SOLID };
    const built = this.programs.get(program, parallax, begin);
    const there = sameItems(slots.surfaces, this.uploaded.surfaces);
    (there ? built : begin.then(() => built)).then(
      (built) => {
        if (this.disposed || this.wanted?.key !== key || !this.wanted.whole) return;
        this.current = { ...built, key, hoisted, drawn: this.wanted.drawn };
        this.values = this.wanted.values;
        this.takeSlots(this.wanted.slots);
        this.changed();
      },
      (error: Error) => {
        this.refused = key;
        this.failed(error.message);
        // What has changed meanwhile is shown by the last good one.
        this.changed();
      },
    );
  }

  /** New numbers for the program that is wanted. False when that is not in use yet. */
  setValues(values: Values): boolean {
    if (!this.wanted) return false;
    this.wanted.values = values;
    if (this.current?.key !== this.wanted.key || this.pending) return false;
    this.values = values;
    return true;
  }

  /** Uploads what is not there yet: of masks alone only those that changed, as one does with every move of a brush. */
  private takeSlots(set: PackedSet): void {
    const { slots, uploaded } = this;
    this.uploaded = set;
    if (!slots || !sameItems(set.surfaces, uploaded.surfaces)) {
      slots?.dispose();
      this.slots = new SlotTextures(this.gl, set);
      return;
    }
    const fits = set.masks.length === uploaded.masks.length && set.masks.every((m, i) => m.size === uploaded.masks[i].size);
    if (!fits || !sameItems(set.ids, uploaded.ids)) return slots.takePictures(set);
    set.masks.forEach((mask, i) => {
      if (mask === uploaded.masks[i]) return;
      const regions = regionsSince(uploaded.masks[i], mask);
      if (regions) slots.patchMask(i, regions);
      else slots.replaceMask(i, mask);
    });
    set.masks.forEach(settlePicture);
  }

  /** Whether it can be drawn. */
  get ready(): boolean {
    return this.current !== null && (!this.current.glsl.units.length || this.slots !== null);
  }
  /** Whether another program is wanted, which is still being built, or other surfaces, which have not gone over. */
  get pending(): boolean {
    const { wanted, current, uploaded } = this;
    if (!wanted || wanted.key === this.refused) return false;
    return wanted.key !== current?.key || !sameItems(wanted.slots.surfaces, uploaded.surfaces);
  }
  /** Whether that program was announced before its surfaces are there. */
  announced(program: DrawnBy, parallax: boolean): boolean {
    return this.wanted?.whole === false && this.wanted.key === stateOf(program, parallax);
  }

  dispose(): void {
    this.disposed = true;
    this.slots?.dispose();
  }
}
