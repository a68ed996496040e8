import { DestroyRef, Injectable, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import type { BrushPoint, Coverage, CuePath, EyeView, MaskDepth, MaskPoint, Mesh, PaintedCue, UvSet } from '@pebble/core';
import { MASK_SIDE, NO_CORRECTION, maskWells, paintedCueAt } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { WorkerClient } from '../../../services/worker-client';
import { follow } from '../../../ui/follow';
import { Newest } from '../../../ui/latest';
import type { Kept, MaskPieces, MaskRequests, Shown, WholeMask } from '../../../workers/mask-protocol';
import { BlendModel } from '../blend-model';
import { StagePixels } from '../../../stage/stage-pixels';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { maskGround, pageArea, sameForm } from './mask-ground';
import type { OnPicture } from '../../../stage/on-picture';
import { pressOnMesh, pressureOf, samplesOf, stays } from './on-mesh';
import { KEEP_MS, OpenStroke } from './open-stroke';
import { PaintRules, maskCoordinates } from './paint-rules';
import { Painting } from './painting';
import type { Stroke } from './stroke';
import { Strokes } from './stroke';

/** Milliseconds between looks at whether the brush has its mask. */
const READY_MS = 15;
/** Pixels in a dab below which its edge cannot be seen. */
const FEW_PIXELS = 12;
const keyOf = ({ of, id, cue }: CuePath): string => `${of}/${id}/${cue}`;
const STROKE_WORDS = { add: 'paint its mask', erase: 'erase from its mask', set: 'set its mask', smooth: 'smooth its mask' } as const;

/** A mask that the brush has: of which cue, under which hash, on what. */
interface OpenMask {
  key: string;
  hash: string;
  width: number;
  height: number;
  depth: MaskDepth;
  /** Null over the extent. */
  mesh: Mesh | null;
}
/** What was painted on a mask in a stroke that is no step yet. */
interface OpenPieces extends MaskPieces {
  blend: string;
  path: CuePath;
  what: string;
}

/** The brush on painted masks of the open blend, over the extent or on the mesh, a stroke a step. It is the brush that paints vertices as well. */
@Injectable()
export class MaskPainting {
  private readonly model = inject(BlendModel);
  private readonly pixels = inject(StagePixels);
  private readonly painting = inject(Painting);
  private readonly notices = inject(NoticesService);
  private readonly specimen = inject(StageSpecimen);
  private readonly rules = inject(PaintRules);
  private readonly scene = inject(StageScene);
  private readonly worker = new WorkerClient<MaskRequests>(
    () => new Worker(new URL('../../../workers/mask.worker', import.meta.url), { type: 'module' }),
  );
  /** The cue whose picture is painted on; null while vertices are. Another blend has other masks. */
  readonly path = linkedSignal<string | null, CuePath | null>({ source: this.model.id, computation: () => null });
  /** The picture that the brush has, and of which cue. */
  private readonly opened = signal<OpenMask | null>(null);
  private readonly opening = signal('');
  private readonly openings = new Newest();
  /** Strokes that are on their way to the server. */
  private readonly sending = signal(0);
  private stepping: Promise<void> = Promise.resolve();
  readonly keeping = computed(() => this.sending() > 0);
  readonly brush = this.painting.brush;

  /** Painted masks of the blend: whom they feed, how much of the extent they cover. */
  readonly wells = computed(() => {
    const blend = this.model.blend();
    return blend
      ? maskWells(blend).map((w) => ({ ...w, key: keyOf(w.path), share: w.cue.picture === null ? 0 : this.pixels.mean(w.cue.picture) }))
      : [];
  });
  readonly well = computed(() => {
    const path = this.path();
    return (path && this.wells().find((w) => w.key === keyOf(path))) ?? null;
  });
  /** Whether the brush paints on a mask. */
  readonly active = computed(() => this.painting.on() && this.well() !== null);
  /** Set of coordinates of the mesh that it lies in; undefined over the extent. */
  readonly set = computed<UvSet | undefined>(() => this.well()?.cue.set);
  /** Whether it is painted on the picture of the mesh. */
  readonly onMesh = computed(() => this.active() && this.set() !== undefined);
  /** Whether it is painted on the flat. */
  readonly onFlat = computed(() => this.active() && this.set() === undefined);
  /** The mesh that the mask lies on; null over the extent. */
  private readonly mesh = computed(() => (this.set() === undefined ? null : this.specimen.ownMesh()));
  /** Whether something is seen, and it is what the mask lies on. */
  private readonly there = computed(() => this.scene.seen() && (this.set() === undefined || this.specimen.itself()));
  /** Whether a press would do nothing yet. */
  readonly waiting = computed(() => {
    const [well, opened] = [this.well(), this.opened()];
    return !well || !this.there() || opened?.key !== well.key || opened.hash !== well.cue.picture || !sameForm(opened.mesh, this.mesh());
  });
  /** Whether a press paints: where the brush had the mask before, as after an undo, once it has it again. */
  readonly takes = computed(() => this.active() && (!this.waiting() || this.opened()?.key === this.well()?.key));
  /** Metres from the eye to where the pointer is; null beside the mesh. */
  readonly away = signal<number | null>(null);
  /** Sides and depth of the mask that the brush has. */
  readonly size = computed(() => {
    const opened = this.opened();
    return opened && { width: opened.width, height: opened.height, depth: opened.depth };
  });
  /** Square metres that the picture lies over once. */
  private readonly areaM2 = computed(() => {
    const mesh = this.opened()?.mesh;
    return mesh ? pageArea(mesh, this.set()) : (this.model.blend()?.extentM ?? 1) ** 2;
  });
  /** What a dab reaches. */
  readonly density = computed(() => {
    const [opened, blend] = [this.opened(), this.model.blend()];
    if (!opened || !blend) return { enough: true, say: '' };
    const pixels = (Math.PI * this.brush().radiusM ** 2 * opened.width * opened.height) / this.areaM2();
    const enough = pixels >= FEW_PIXELS;
    const over = opened.mesh ? `by UV set ${this.set()}` : `over ${blend.extentM.toFixed(2)} m`;
    const size = `${opened.width} × ${opened.height} pixels of ${opened.depth} bits ${over}`;
    const reach = pixels < 1 ? 'less than one' : `about ${Math.round(pixels).toLocaleString('en')}`;
    return { enough, say: `${size}, ${reach} in a dab${enough ? '' : ': too few, use a wider brush or more pixels'}` };
  });

  constructor() {
    effect(() => this.painting.onMask.set(this.well() !== null));
    // What a reload cut off comes before anything is taken up.
    effect(() => {
      const [id, blend] = [this.model.id(), this.model.blend()];
      if (id && blend) untracked(() => void this.recover(id));
    });
    effect(() => {
      const lacks = this.active() && this.there() && this.waiting() ? this.well() : null;
      const busy = this.keeping() || this.recovering() || this.strokesOpen() > 0;
      if (lacks && !busy) untracked(() => void this.open(lacks.key, lacks.path, lacks.cue));
    });
    // A stroke that is still on its way to the server gets there.
    inject(DestroyRef).onDestroy(() => void this.stepping.catch(() => undefined).then(() => this.worker.end()));
  }

  /** Takes the brush out for a mask. */
  take(path: CuePath): void {
    this.path.set(path);
    this.painting.on.set(true);
  }

  private readonly groundOf = (mesh: Mesh | null, set: UvSet | undefined) =>
    maskGround(mesh, set, this.model.blend()?.extentM ?? 1, this.specimen.terrain());
  private form = { mesh: null as Mesh | null, set: undefined as UvSet | undefined, extentM: 0, heights: '', number: 0 };
  /** A number that stays while masks lie on the same. */
  private formOf(mesh: Mesh | null, set: UvSet | undefined): number {
    const { form } = this;
    const extentM = mesh ? 0 : (this.model.blend()?.extentM ?? 1);
    const heights = this.specimen.terrain()?.heights ?? '';
    const same = sameForm(form.mesh, mesh) && form.set === set && form.extentM === extentM && form.heights === heights;
    if (!same) this.form = { mesh, set, extentM, heights, number: form.number + 1 };
    return this.form.number;
  }
  private async open(
    key: string,
    path: CuePath,
    { picture, set, join }: PaintedCue & { join: string },
    size: { side?: number; depth?: MaskDepth } = {},
  ): Promise<void> {
    const mesh = this.mesh();
    const asked = `${key}:${picture}:${mesh?.position.length ?? ''}:${JSON.stringify(size)}`;
    if (this.opening() === asked) return;
    this.opening.set(asked);
    const going = this.openings.begin();
    try {
      const shown = size.side === undefined ? this.pixels.maskSide : this.pixels.maskSideWith(size.side, size.side);
      const ground = this.groundOf(mesh, set);
      const { hash, packed, ...sides } = await this.worker.run('open', { picture, ground, form: this.formOf(mesh, set), shown, ...size });
      if (!going()) return;
      this.opened.set({ key, hash, ...sides, mesh });
      if (hash === picture) return;
      // What corrects begins where nothing is corrected.
      if (picture === null && join === 'corrected')
        return void (await this.step('an even mask', this.worker.run('whole', { change: { what: 'fill', value: NO_CORRECTION } })));
      this.pixels.take(hash, packed);
      this.name(picture === null ? 'an empty mask' : `a mask of ${sides.width} × ${sides.height} pixels, ${sides.depth} bits`, path, hash);
    } catch (error) {
      if (!going()) return;
      this.notices.error(error);
      // What cannot be read is not asked for again and again.
      this.path.set(null);
    } finally {
      if (going()) this.opening.set('');
    }
  }
  /** The mask at another size or depth; what was painted goes along. */
  async resize(size: { side?: number; depth?: MaskDepth }): Promise<void> {
    const well = this.well();
    if (well && !this.waiting()) await this.open(well.key, well.path, well.cue, size);
  }

  /** The cue names another picture from now on. */
  private name(what: string, path: CuePath, picture: string): void {
    this.model.draft((d) => {
      const cue = paintedCueAt(d, path);
      if (cue) cue.picture = picture;
    });
    const feeds = this.wells()
      .find((w) => w.key === keyOf(path))
      ?.feeds.join(', ');
    this.model.commit(`${feeds || 'Mask'}: ${what}`, true);
  }

  private show(shown: Shown): void {
    const opened = this.opened();
    if (!opened) return;
    if ('regions' in shown) this.pixels.patchFor(opened.hash, shown.regions, shown.side);
    else this.pixels.showFor(opened.hash, shown.packed);
  }

  /** What was painted becomes the picture of the cue, one stroke after the other. */
  private step(what: string, run: Promise<Kept>): Promise<void> {
    const path = this.path();
    this.sending.update((n) => n + 1);
    const before = this.stepping.catch(() => undefined);
    this.stepping = before.then(() => this.becomeStep(what, path, run)).finally(() => this.sending.update((n) => n - 1));
    return this.stepping;
  }
  private async becomeStep(what: string, path: CuePath | null, run: Promise<Kept>): Promise<void> {
    const before = this.opened();
    try {
      const { packed, hash } = await run;
      if (!path || !before) return;
      this.pixels.take(hash, packed);
      this.opened.set({ ...before, hash });
      if (hash !== before.hash) this.name(what, path, hash);
      this.openStroke.forget();
    } catch (error) {
      // The brush has what nobody kept: it begins again from what there is.
      this.opened.set(null);
      throw error;
    } finally {
      if (before) this.pixels.showFor(before.hash, null);
    }
  }
  private readonly strokes = new Strokes<MaskPoint & BrushPoint>();
  /** Strokes that are under way: what another window does meanwhile waits. */
  private readonly strokesOpen = signal(0);
  private readonly openStroke = new OpenStroke<OpenPieces>('pebble-open-mask');

  /** A stroke on the flat, or where points lie on the picture of the mesh. @param heard is told whether anything was reached */
  private begin(
    sight: (() => EyeView) | null,
    heard: (reached: number | null) => void = () => undefined,
    kept: () => boolean = () => true,
  ): Stroke<MaskPoint & BrushPoint> {
    const aim = this.painting.aimed();
    let [shown, path] = [this.opened(), this.path()];
    const asked = { brush: this.brush(), aim };
    let last = performance.now();
    let pieces: Record<number, string> = {};
    let open = false;
    const close = () => {
      if (open) this.strokesOpen.update((n) => n - 1);
      open = false;
    };
    const stroke: Stroke<MaskPoint & BrushPoint> = this.strokes.begin({
      begin: async () => {
        await this.ready();
        [shown, path] = [this.opened(), this.path()];
        this.strokesOpen.update((n) => n + 1);
        open = true;
        const limit = await this.rules.limits(shown && !shown.mesh ? this.coordinates(shown) : null);
        return this.worker.run('begin', { ...asked, limit, shown: this.pixels.maskSide });
      },
      send: async (points) => {
        const { shown: changed, reached } = await this.worker.run('stroke', sight ? { points, sight: sight() } : { points });
        heard(reached);
        this.show(changed);
        if (!kept() || performance.now() - last <= KEEP_MS || !shown || !path) return;
        last = performance.now();
        const more = await this.worker.run('keep', null).catch(() => ({}));
        pieces = { ...pieces, ...more };
        const blend = this.model.id();
        if (blend && stroke.open) this.openStroke.remember({ blend, path, picture: shown.hash, what: STROKE_WORDS[aim], pieces });
      },
      end: async (whole) => {
        // Another window may have put its own picture there meanwhile.
        const blend = this.model.blend();
        const there = blend && path ? (paintedCueAt(blend, path)?.picture ?? null) : null;
        const onto = there !== this.opened()?.hash ? there : null;
        try {
          await (whole && kept() ? this.step(STROKE_WORDS[aim], this.worker.run('end', { onto })) : this.lost());
        } finally {
          close();
        }
      },
      fail: (error) => {
        close();
        this.notices.error(error);
        this.openStroke.forget();
        // The brush has what nobody kept: it begins again from what there is.
        if (shown) this.pixels.showFor(shown.hash, null);
        this.opened.set(null);
      },
    });
    return stroke;
  }
  /** Once the brush has the mask. @throws AbortError where it was put away meanwhile, or cannot be taken up */
  private async ready(): Promise<void> {
    while (this.waiting()) {
      if (!this.active()) throw new DOMException('The brush was put away', 'AbortError');
      await new Promise((resolve) => setTimeout(resolve, READY_MS));
    }
  }
  private known: { width: number; height: number; of: Float32Array } | null = null;
  private coordinates({ width, height }: OpenMask): Float32Array {
    if (this.known?.width !== width || this.known.height !== height) this.known = { width, height, of: maskCoordinates(width, height) };
    return this.known.of;
  }

  /** A stroke from a press on the flat. @param place of an event, in extents */
  press(event: PointerEvent, place: (e: PointerEvent) => Omit<MaskPoint, 'pressure'>): void {
    event.preventDefault();
    // One hand at a time: another finger would end the stroke.
    if (!this.takes() || this.stroking) return;
    this.stroking = true;
    const stroke = this.begin(null);
    const point = (e: PointerEvent) => ({ ...place(e), x: 0, y: 0, pressure: pressureOf(e) });
    stroke.add(point(event));
    follow(
      event,
      (_, __, e) => stroke.add(...samplesOf(e).map(point)),
      (kept) => {
        this.stroking = false;
        stroke.end(stays(event, kept));
      },
    );
  }
  private stroking = false;
  /** A press on the picture of the specimen. */
  pressOnMesh(event: PointerEvent, on: OnPicture): void {
    if (!this.takes()) return;
    pressOnMesh(event, on, (press) => {
      const stroke = this.begin(
        () => on.sight(),
        (reached) => press.heard(reached),
        () => press.paints,
      );
      return { add: (...points: BrushPoint[]) => stroke.add(...points.map((p) => ({ ...p, u: 0, v: 0 }))), end: (kept: boolean) => stroke.end(kept) };
    });
  }
  /** The pointer hovers over the picture of the mesh. */
  async hover(point: { x: number; y: number }, sight: EyeView): Promise<void> {
    if (this.asking || this.waiting() || !this.onMesh()) return;
    this.asking = true;
    this.away.set(await this.worker.run('away', { ...point, sight }).catch(() => null));
    this.asking = false;
  }
  private asking = false;
  private async lost(): Promise<void> {
    // A stroke before it may become a step meanwhile: it was shown under either name.
    const before = this.opened();
    this.openStroke.forget();
    await this.worker.run('lost', null);
    for (const shown of [before, this.opened()]) if (shown) this.pixels.showFor(shown.hash, null);
  }
  /** A stroke in the middle of which the page was left becomes a step, as far as it was kept. */
  private async recover(id: string): Promise<void> {
    if (this.opened() || this.opening() || this.recovering()) return;
    const kept = this.openStroke.take(id);
    const [blend, at] = [this.model.blend(), kept?.path];
    if (!kept || !at || !blend || paintedCueAt(blend, at)?.picture !== kept.picture) return;
    this.recovering.set(true);
    try {
      const ground = { extentM: blend.extentM };
      await this.worker.run('open', { picture: kept.picture, ground, form: this.formOf(null, undefined), shown: this.pixels.maskSide });
      const { hash, packed } = await this.worker.run('restore', { pieces: kept.pieces });
      this.pixels.take(hash, packed);
      this.name(`${kept.what}, as far as it was kept`, at, hash);
    } catch (error) {
      this.notices.error(error);
    } finally {
      this.recovering.set(false);
    }
  }
  private readonly recovering = signal(false);

  /** One dab, for the keyboard. */
  async dab(at: Omit<MaskPoint, 'pressure'> | EyeView): Promise<void> {
    if (!this.takes()) return;
    const stroke = 'eye' in at ? this.begin(() => at) : this.begin(null);
    stroke.add({ ...('eye' in at ? { u: 0, v: 0 } : at), x: 0.5, y: 0.5, pressure: 1 });
    stroke.end(true);
    await stroke.done;
  }

  /** Does something to all of it. */
  async whole(change: WholeMask, what = change.what === 'fill' ? `fill its mask with ${change.value.toFixed(2)}` : 'invert its mask'): Promise<void> {
    if (!this.waiting()) await this.step(what, this.worker.run('whole', { change }));
  }

  /** Keeps values as a picture over a set of a mesh, or over the extent where there is none. Gives its hash. */
  async picture(values: Float32Array | number, mesh: Mesh | null, set: UvSet | undefined): Promise<string> {
    return (await this.worker.run('picture', { values, ground: this.groundOf(mesh, set), side: MASK_SIDE })).hash;
  }

  /** What a coverage gives where the mask lies that the brush has. @throws Error where that cannot be told */
  async shares(coverage: Coverage, layer: string | null): Promise<Float32Array> {
    const opened = this.opened();
    return this.rules.shares(coverage, layer, opened && !opened.mesh ? this.coordinates(opened) : null);
  }
}
