import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { BrushPoint, EyeView, PressedStamp, SurfaceDocument } from '@pebble/core';
import { MATERIAL_ROLES, inOrder, nextOrder, stampsAmiss } from '@pebble/core';
import type { StampPlan } from '@pebble/usecases/stamp-plan';
import { orphansOf, planStamps, stampedOf } from '@pebble/usecases/stamp-plan';
import { DocumentsService } from '../../../services/documents.service';
import { JobsService } from '../../../services/jobs.service';
import { NoticesService } from '../../../services/notices.service';
import { WorkerClient } from '../../../services/worker-client';
import { AssetModel } from '../../../stage/asset-model';
import { AssetSource } from '../../../stage/asset-source';
import type { OnPicture, PictureBrush } from '../../../stage/on-picture';
import { StagePixels, stageMaps } from '../../../stage/stage-pixels';
import { Latest } from '../../../ui/latest';
import { newKey } from '../../../ui/new';
import type { StagedSurface, StampPlace, StampRequests } from '../../../workers/stamp-protocol';
import { pressOnMesh } from '../../blend/brush/on-mesh';
import type { Stroke } from '../../blend/brush/stroke';
import { Strokes } from '../../blend/brush/stroke';
import { StampBrush } from './stamp-brush';

/** Milliseconds after which what was pressed goes to the server. */
const REST_MS = 1200;
/** Under which what the server does not have yet waits in this window, by the asset. */
const waitingOf = (asset: string): string => `pebble-open-stamps ${asset}`;
interface Waiting {
  add: Record<string, PressedStamp>;
  remove: string[];
}
const NOTHING: Waiting = { add: {}, remove: [] };

const staged = (body: SurfaceDocument): StagedSurface => ({
  maps: Object.fromEntries(Object.entries(stageMaps(body)).filter(([role]) => (MATERIAL_ROLES as readonly string[]).includes(role))),
  facts: { sizeM: body.sizeM, reliefM: body.reliefM, mid: body.mid },
});

/** Stamps on the asset that is open: shown as they are pressed, pressed at full size on the server when the hand rests. */
@Injectable()
export class Stamping implements PictureBrush {
  private readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly notices = inject(NoticesService);
  private readonly assets = inject(AssetModel);
  private readonly source = inject(AssetSource);
  private readonly pixels = inject(StagePixels);
  private readonly brush = inject(StampBrush);
  private readonly worker = new WorkerClient<StampRequests>(
    () => new Worker(new URL('../../../workers/stamp.worker', import.meta.url), { type: 'module' }),
  );
  private readonly find = {
    surface: (id: string): SurfaceDocument | undefined => this.documents.body(id, 'surface') ?? undefined,
    specimen: (id: string) => this.documents.body(id, 'specimen') ?? undefined,
  };
  /** What the server does not have yet. */
  private readonly waits = signal(NOTHING);
  private readonly jobId = signal<string | null>(null);
  readonly job = computed(() => this.jobs.open().find((j) => j.id === this.jobId()) ?? null);
  /** What the chosen slot wears, where that is a finished surface. */
  readonly worn = computed(() => {
    const id = this.source.chosen()?.blend;
    const body = id ? this.find.surface(id) : undefined;
    return id && body ? { id, body } : null;
  });
  /** Keys of stamps whose surface was deleted. */
  private readonly orphans = computed(() => orphansOf(this.worn()?.body.stamped, this.find.surface));
  /** How many of them are to go before anything can be pressed. */
  readonly lost = computed(() => this.orphans().filter((key) => !this.waits().remove.includes(key)).length);
  /** What would be stamped, or why nothing can be. */
  private readonly planned = computed<{ plan: StampPlan } | { refusal: string }>(() => {
    const [asset, worn] = [this.assets.body(), this.worn()];
    if (!asset) return { refusal: '' };
    if (!worn)
      return {
        refusal: `${this.source.chosen()?.slot ?? 'This slot'} wears no finished surface. Bake a blend onto the mesh, or hook up its textures, and let the slot wear that`,
      };
    try {
      return { plan: planStamps(asset, { surface: worn.id, add: {}, remove: this.orphans() }, this.find) };
    } catch (error) {
      return { refusal: (error as Error).message };
    }
  });
  readonly plan = computed(() => ('plan' in this.planned() ? (this.planned() as { plan: StampPlan }).plan : null));
  readonly refusal = computed(() => this.failed() ?? ('refusal' in this.planned() ? (this.planned() as { refusal: string }).refusal : null));
  /** Why its maps are not what its stamps say. */
  readonly amiss = computed(() => {
    const stamped = this.worn()?.body.stamped;
    return stamped && !this.busy() ? stampsAmiss(stamped, Object.fromEntries(stampedOf(stamped).map((id) => [id, this.find.surface(id)]))) : null;
  });
  /** All stamps as they are shown, the lowest first. */
  readonly list = computed(() => {
    const { add, remove } = this.waits();
    const all = { ...this.worn()?.body.stamped?.stamps, ...add };
    return inOrder(all).filter((s) => !remove.includes(s.id));
  });
  /** Stamps that are on their way to the server. */
  readonly open = computed(() => Object.keys(this.waits().add).length + this.waits().remove.length);
  readonly busy = computed(() => this.open() > 0 || this.job() !== null);

  /** What the worker has, and why it has nothing. */
  private readonly taken = signal('');
  private readonly failed = signal<string | null>(null);
  readonly away = signal<number | null>(null);
  readonly radiusM = computed(() => this.brush.values().radiusM);
  private readonly wanted = computed(
    () => {
      const plan = this.plan();
      if (!plan) return null;
      const { specimen, base, stamped } = plan;
      const { model, unitM, up, name } = specimen;
      return { model, frame: { unitM, up }, called: name, set: stamped.uvSet, slots: stamped.slots, base: staged(base.body) };
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  private readonly shown = new Latest<{ id: string; packed: Parameters<StagePixels['wear']>[1] } | null>(
    (made) => {
      // What was shown of it meanwhile may have been taken back, or pressed.
      if (!made || !untracked(this.open)) return;
      this.other = made.id;
      this.pixels.wear(made.id, made.packed);
    },
    (error) => this.notices.error(error),
  );
  /** The surface that is shown with other stamps than its document has. */
  private other: string | null = null;
  private rest: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    effect(() => {
      const wanted = this.wanted();
      this.failed.set(null);
      this.taken.set('');
      if (!wanted) return;
      const key = JSON.stringify(wanted);
      this.worker.run('open', wanted).then(
        () => JSON.stringify(untracked(this.wanted)) === key && this.taken.set(key),
        (error: Error) => JSON.stringify(untracked(this.wanted)) === key && this.failed.set(error.message),
      );
    });
    effect(() => {
      const [taken, list, open, worn] = [this.taken(), this.list(), this.open(), untracked(this.worn)];
      if (!open && this.other) this.pixels.wear(this.other, null);
      if (!open) this.other = null;
      if (!taken || !worn || !open) return;
      const surfaces = Object.fromEntries(
        [...new Set(list.map((s) => s.surface))].flatMap((id) => {
          const body = untracked(() => this.find.surface(id));
          return body ? [[id, staged(body)]] : [];
        }),
      );
      const stamps = list.filter((s) => surfaces[s.surface]).map(({ id: _, ...stamp }) => stamp);
      const size = this.pixels.side;
      this.shown.ask(async () =>
        untracked(this.taken) === taken ? { id: worn.id, packed: await this.worker.run('show', { stamps, surfaces, size }) } : null,
      );
    });
    // What the server has is waited for no longer.
    effect(() => {
      const there = this.worn()?.body.stamped?.stamps ?? {};
      const { add, remove } = this.waits();
      if (!this.plan()) return;
      const left = Object.fromEntries(Object.entries(add).filter(([key]) => !there[key]));
      const gone = remove.filter((key) => there[key]);
      if (Object.keys(left).length < Object.keys(add).length || gone.length < remove.length)
        untracked(() => this.waits.set({ add: left, remove: gone }));
    });
    // What a reload cut off goes on.
    const there = computed(() => (this.assets.body() ? this.assets.id() : null));
    effect(() => {
      const asset = there();
      if (!asset) return;
      untracked(() => {
        const kept = JSON.parse(sessionStorage.getItem(waitingOf(asset)) ?? 'null') as (Waiting & { job: string | null }) | null;
        this.waits.set(kept ? { add: kept.add, remove: kept.remove } : NOTHING);
        this.jobId.set(kept?.job ?? null);
      });
    });
    effect(() => {
      const [asset, waits, open] = [there(), this.waits(), this.open()];
      if (!asset) return;
      if (open) this.remember(asset, waits, this.jobId());
      else sessionStorage.removeItem(waitingOf(asset));
    });
    // What could not be pressed is not sent again and again: only what was pressed since, or onto something else.
    effect(() => {
      const [open, busy, waits, worn] = [this.open(), this.job() !== null, this.waits(), this.worn()?.id];
      clearTimeout(this.rest);
      if (open && !busy && (waits !== this.sent.waits || worn !== this.sent.worn)) this.rest = setTimeout(() => void this.keepNow(), REST_MS);
    });
    inject(DestroyRef).onDestroy(() => {
      clearTimeout(this.rest);
      this.worker.end();
      // Whoever leaves has rested their hand.
      void this.keepNow();
    });
  }
  private remember = (asset: string, waits: Waiting, job: string | null): void =>
    sessionStorage.setItem(waitingOf(asset), JSON.stringify({ ...waits, job }));
  private sent: { waits: Waiting; worn: string | undefined } = { waits: NOTHING, worn: undefined };

  /** Sends what waits; nothing is sent while something is on its way. @returns whether it was begun */
  async keepNow(again = false): Promise<boolean> {
    const [asset, worn, { add, remove }] = [this.assets.id(), this.worn(), this.waits()];
    if (!asset || !worn || !this.plan() || this.job() || (!this.open() && !again)) return false;
    this.sent = { waits: this.waits(), worn: worn.id };
    const request = { surface: worn.id, add, remove } as unknown as Parameters<typeof this.jobs.start<'stamp'>>[1];
    const job = await this.jobs.start('stamp', request, asset);
    if (!job) return false;
    this.jobId.set(job.id);
    // Where nobody looks any more, what is under way is known to whoever comes back.
    if (this.open()) this.remember(asset, this.waits(), job.id);
    return true;
  }
  cancel(): void {
    const job = this.job();
    if (job) void this.jobs.cancel(job.id);
    this.waits.set(NOTHING);
  }

  /** Takes the stamps away whose surface was deleted. */
  removeLost(): void {
    for (const key of this.orphans()) this.remove(key);
  }
  remove(key: string): void {
    this.waits.update(({ add: { [key]: own, ...add }, remove }) => ({ add, remove: own || remove.includes(key) ? remove : [...remove, key] }));
  }
  /** Takes the last stamp back that the server does not have yet. @returns false where there is none */
  takeBack(): boolean {
    const last = inOrder(this.waits().add).at(-1);
    if (!last || this.job()) return false;
    this.remove(last.id);
    return true;
  }

  /** Whether a press would do nothing yet. */
  readonly waiting = computed(() => !this.taken() || this.lost() > 0);
  leave = (): void => this.away.set(null);
  hover(point: { x: number; y: number }, sight: EyeView): void {
    this.hovered.ask(() => (this.waiting() ? Promise.resolve(null) : this.worker.run('away', { ...point, sight })));
  }
  private readonly hovered = new Latest<number | null>(
    (away) => this.away.set(away),
    () => this.away.set(null),
  );
  dab(sight: EyeView): void {
    const stroke = this.begin(() => sight);
    stroke.add({ x: 0.5, y: 0.5, pressure: 1 });
    stroke.end(true);
  }
  /** A press on the mesh stamps, and goes on stamping along a drag; beside the mesh it turns it. */
  press(event: PointerEvent, on: OnPicture): void {
    pressOnMesh(event, on, (press) =>
      this.begin(
        () => on.sight(),
        (reached) => press.heard(reached),
      ),
    );
  }
  private readonly strokes = new Strokes<BrushPoint>();
  private begin(sight: () => EyeView, heard: (reached: number | null) => void = () => undefined): Stroke<BrushPoint> {
    let before: StampPlace | null = null;
    return this.strokes.begin({
      send: async (points) => {
        const apartM = this.brush.values().spacing * this.radiusM();
        const { places, reached } = await this.worker.run('along', { points, before, apartM, sight: sight() });
        heard(reached);
        before = places.at(-1) ?? before;
        for (const place of places) this.put(place);
      },
      end: async () => undefined,
      fail: (error) => this.notices.error(error),
    });
  }
  private put({ at, up, point }: StampPlace): void {
    const all = Object.fromEntries(this.list().map((s) => [s.id, s]));
    const stamp = this.brush.stampAt(at, up, point.pressure, nextOrder(all));
    if (stamp) this.waits.update(({ add, remove }) => ({ add: { ...add, [newKey()]: stamp }, remove }));
  }
}
