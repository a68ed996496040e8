import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { CuePath, MaskPoint } from '@pebble/core';
import { maskWells, paintedCueAt } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { WorkerClient } from '../../../services/worker-client';
import { follow } from '../../../ui/follow';
import type { Stroke } from './stroke';
import { Strokes } from './stroke';
import type { Kept, MaskRequests, WholeMask } from '../../../workers/mask-protocol';
import { BlendModel } from '../blend-model';
import { StagePixels } from '../../../stage/stage-pixels';
import { Painting, pressureOf, samplesOf } from './painting';

/** Pixels in a dab below which its edge cannot be seen. */
const FEW_PIXELS = 12;
const keyOf = ({ of, id, cue }: CuePath): string => `${of}/${id}/${cue}`;

/** The brush on the flat: a painted mask of the open blend, a stroke a step. It is the brush that paints vertices as well. */
@Injectable()
export class MaskPainting {
  private readonly model = inject(BlendModel);
  private readonly pixels = inject(StagePixels);
  private readonly painting = inject(Painting);
  private readonly notices = inject(NoticesService);
  private readonly worker = new WorkerClient<MaskRequests>(
    () => new Worker(new URL('../../../workers/mask.worker', import.meta.url), { type: 'module' }),
  );
  /** The cue whose picture is painted on; null while vertices are. */
  readonly path = signal<CuePath | null>(null);
  /** The picture that the brush has, and of which cue. */
  private readonly opened = signal<{ key: string; hash: string; width: number; height: number } | null>(null);
  private readonly opening = signal('');
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
  /** Whether a press would do nothing yet. */
  readonly waiting = computed(() => {
    const [well, opened] = [this.well(), this.opened()];
    return !well || opened?.key !== well.key || opened.hash !== well.cue.picture;
  });
  /** What a dab reaches. */
  readonly density = computed(() => {
    const [opened, blend] = [this.opened(), this.model.blend()];
    if (!opened || !blend) return { enough: true, say: '' };
    const pixels = (Math.PI * this.brush().radiusM ** 2 * opened.width * opened.height) / blend.extentM ** 2;
    const enough = pixels >= FEW_PIXELS;
    const size = `${opened.width} × ${opened.height} pixels over ${blend.extentM.toFixed(2)} m`;
    const reach = pixels < 1 ? 'less than one' : `about ${Math.round(pixels).toLocaleString('en')}`;
    return { enough, say: `${size}, ${reach} in a dab${enough ? '' : ': too few, use a wider brush'}` };
  });

  constructor() {
    effect(() => {
      const [well, opened] = [this.active() ? this.well() : null, this.opened()];
      if (well && !this.keeping() && (opened?.key !== well.key || opened.hash !== well.cue.picture))
        untracked(() => void this.open(well.key, well.path, well.cue.picture));
    });
    // Another blend has other masks.
    effect(() => {
      this.model.id();
      untracked(() => this.path.set(null));
    });
    // A stroke that is still on its way to the server gets there.
    inject(DestroyRef).onDestroy(() => void this.stepping.catch(() => undefined).then(() => this.worker.end()));
  }

  /** Takes the brush out for a mask. */
  take(path: CuePath): void {
    this.path.set(path);
    this.painting.on.set(true);
  }

  private async open(key: string, path: CuePath, picture: string | null): Promise<void> {
    const asked = `${key}:${picture}`;
    if (this.opening() === asked) return;
    this.opening.set(asked);
    try {
      const { hash, width, height } = await this.worker.run('open', { picture });
      if (this.opening() !== asked) return;
      this.opened.set({ key, hash, width, height });
      if (picture === null) this.name('an empty mask', path, hash);
    } catch (error) {
      this.notices.error(error);
      // What cannot be read is not asked for again and again.
      this.path.set(null);
    } finally {
      if (this.opening() === asked) this.opening.set('');
    }
  }

  /** The cue names another picture from now on. */
  private name(what: string, path: CuePath, picture: string): void {
    this.model.draft((d) => {
      const cue = paintedCueAt(d, path);
      if (cue) cue.picture = picture;
    });
    this.model.commit(`${this.well()?.feeds.join(', ') || 'Mask'}: ${what}`, true);
  }

  private show = (packed: Kept['packed']): void => {
    const shown = this.opened();
    if (shown) this.pixels.showFor(shown.hash, packed);
  };

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
    } catch (error) {
      // The brush has what nobody kept: it begins again from what there is.
      this.opened.set(null);
      throw error;
    } finally {
      if (before) this.pixels.showFor(before.hash, null);
    }
  }
  private readonly side = () => this.pixels.side;

  private readonly strokes = new Strokes<MaskPoint>();
  private begin(): Stroke<MaskPoint> {
    const aim = this.painting.erasing() ? 'erase' : this.painting.aim();
    const what = aim === 'add' ? 'paint its mask' : aim === 'erase' ? 'erase from its mask' : 'smooth its mask';
    const brush = { brush: this.brush(), aim, extentM: this.model.blend()?.extentM ?? 1 } as const;
    const shown = this.opened();
    return this.strokes.begin({
      begin: () => this.worker.run('begin', brush),
      send: async (points) => this.show((await this.worker.run('stroke', { points, side: this.side() })).packed),
      end: (kept) => (kept ? this.step(what, this.worker.run('end', { side: this.side() })) : this.lost()),
      fail: (error) => {
        this.notices.error(error);
        // The brush has what nobody kept: it begins again from what there is.
        if (shown) this.pixels.showFor(shown.hash, null);
        this.opened.set(null);
      },
    });
  }

  /** A stroke from a press on the flat. @param place of an event, in extents */
  press(event: PointerEvent, place: (e: PointerEvent) => Omit<MaskPoint, 'pressure'>): void {
    event.preventDefault();
    // One hand at a time: another finger would end the stroke.
    if (this.waiting() || this.stroking) return;
    this.stroking = true;
    const stroke = this.begin();
    stroke.add({ ...place(event), pressure: pressureOf(event) });
    follow(
      event,
      (_, __, e) => stroke.add(...samplesOf(e).map((one) => ({ ...place(one), pressure: pressureOf(one) }))),
      (kept) => {
        this.stroking = false;
        stroke.end(kept);
      },
    );
  }
  private stroking = false;
  private async lost(): Promise<void> {
    // A stroke before it may become a step meanwhile: it was shown under either name.
    const before = this.opened();
    await this.worker.run('lost', { side: this.side() });
    for (const shown of [before, this.opened()]) if (shown) this.pixels.showFor(shown.hash, null);
  }

  /** One dab, for the keyboard. */
  async dab(at: Omit<MaskPoint, 'pressure'>): Promise<void> {
    if (this.waiting()) return;
    const stroke = this.begin();
    stroke.add({ ...at, pressure: 1 });
    stroke.end(true);
    await stroke.done;
  }

  /** Does something to all of it. */
  async whole(change: WholeMask): Promise<void> {
    if (this.waiting()) return;
    const what = change.what === 'fill' ? `fill its mask with ${change.value.toFixed(2)}` : 'invert its mask';
    await this.step(what, this.worker.run('whole', { change, side: this.side() }));
  }
}
