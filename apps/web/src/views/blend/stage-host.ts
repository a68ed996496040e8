import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { SkyName, Stack } from '@pebble/core';
import { SKIES, frameBounds, frameOrbit, heightPrice, makeFlat, onGround, placeName } from '@pebble/core';
import type { StageChannel, StageLook } from '@pebble/stage';
import { PARALLAX_STEPS, RemoteStage } from '@pebble/stage';
import type { Relief } from '../../services/light.service';
import { LightService } from '../../services/light.service';
import { clicked, follow } from '../../ui/follow';
import { useKeys } from '../../ui/keys';
import { ScrubField } from '../../ui/scrub-field';
import { AccountCard } from './account-card';
import { Accounts } from './accounts';
import { BlendModel } from './blend-model';
import { Compare } from './compare';
import { CompareLayer } from './compare-layer';
import { FlatPane } from './flat-pane';
import { MaskPainting } from './mask-painting';
import { AssetCard } from './slot-card';
import { AssetModel } from './slot-model';
import { Neighbours } from './neighbours';
import { BrushCard } from './brush-card';
import { PaintedColours } from './painted-colours';
import { Painting } from './painting';
import { Pointing } from './pointing';
import { SpecimenPick } from './specimen-pick';
import { StageCut } from './stage-cut';
import { StageRelief } from './stage-relief';
import { EXTENT, StageSpecimen } from './stage-specimen';

const RADIANS = Math.PI / 180;
/** Vertices farther apart than this carry no relief worth its name. */
const FINE_M = 0.03;
/** Share of the stage's width that the specimen takes. */
const SPLIT = 0.594;
export const CHANNEL_NAMES: readonly { id: StageChannel; name: string }[] = [
  { id: 'lit', name: 'Lit' },
  { id: 'baseColor', name: 'Base colour' },
  { id: 'normal', name: 'Normal' },
  { id: 'roughness', name: 'Roughness' },
  { id: 'occlusion', name: 'Occlusion' },
  { id: 'metallic', name: 'Metallic' },
  { id: 'height', name: 'Height' },
  { id: 'weights', name: 'Layers' },
];

/** The blend on a specimen and on the flat with its cut line, in one canvas. */
@Component({
  selector: 'pb-stage-host',
  imports: [MatTooltipModule, ScrubField, AccountCard, AssetCard, BrushCard, CompareLayer, SpecimenPick],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './stage-host.html',
  styleUrl: './stage-host.scss',
})
export class StageHost {
  readonly model = inject(BlendModel);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly specimenPane = viewChild.required<ElementRef<HTMLElement>>('specimen');
  readonly hovered = output<number | null>();
  readonly channels = CHANNEL_NAMES;
  /** What flat and section can show, by name. */
  readonly placeNames = computed(() => [...this.on.places().map(placeName), EXTENT]);
  readonly on = inject(StageSpecimen);
  readonly accounts = inject(Accounts);
  readonly pointing = inject(Pointing);
  readonly compare = inject(Compare);
  readonly cut = inject(StageCut);
  readonly painting = inject(Painting);
  readonly masks = inject(MaskPainting);
  readonly flat = inject(FlatPane);
  readonly assets = inject(AssetModel);
  private readonly neighbours = inject(Neighbours);
  readonly painted = inject(PaintedColours);
  readonly skies = Object.entries(SKIES).map(([id, { title }]) => ({ id: id as SkyName, title }));
  readonly light = inject(LightService);
  readonly lightOpen = signal(false);
  private readonly vertices = this.on.vertices;
  /** Whether the specimen has vertices close enough to carry relief. */
  readonly fine = computed(() => this.vertices().spacingM <= FINE_M);
  readonly reliefs = computed<{ id: Relief; name: string; price: string; off: boolean }[]>(() => {
    const { material } = this.model.shaped();
    const again = material ? heightPrice(material) : { samples: 0, operations: 0 };
    const { count, spacingM } = this.vertices();
    return [
      { id: 'normal', name: 'Normals alone', price: 'free', off: false },
      {
        id: 'parallax',
        name: 'Parallax',
        price: `+${PARALLAX_STEPS * again.samples} samples, +${PARALLAX_STEPS * again.operations} operations`,
        off: false,
      },
      {
        id: 'displaced',
        name: 'Displaced',
        price: this.fine()
          ? `${count.toLocaleString('en')} vertices, every ${(spacingM * 1000).toFixed(0)} mm`
          : `too few vertices: every ${(spacingM * 1000).toFixed(0)} mm`,
        off: !this.fine(),
      },
    ];
  });
  readonly channel = signal<StageChannel>('lit');
  /** The channel that is looked at: while the brush is out it may be one of the vertex colours. */
  readonly shown = computed<StageChannel>(() => {
    const [painting, view] = [this.painting, this.painting.view()];
    if (!this.onVertices() || view === 'look') return this.channel();
    return view === 'all' ? 'vertices' : (`vertex${painting.channel().toUpperCase()}` as StageChannel);
  });
  /** Whether the brush paints vertices. */
  readonly onVertices = computed(() => this.painting.on() && !this.masks.active());
  /** Radius of the brush in pixels, where the pointer is; null beside the mesh. */
  readonly ring = computed(() => {
    const [away, at] = [this.painting.away(), this.pressed()];
    if (!this.onVertices() || away === null || !at) return null;
    return { ...at, r: (this.painting.brush().radiusM / (2 * away * Math.tan((this.light.look().field * RADIANS) / 2))) * this.size().height };
  });
  /** Where the pointer is over the specimen, in pixels. */
  private readonly pressed = signal<{ x: number; y: number } | null>(null);
  readonly size = signal({ width: 1, height: 1 });
  readonly frame = signal<{ ms: number; scale: number } | null>(null);
  readonly failed = signal<string | null>(null);
  private readonly bounds = this.on.bounds;
  private readonly orbit = signal(frameOrbit(2.4));
  /** Whether everything that the blend looks up is there, if only coarsely. */
  private readonly there = computed(() => this.model.shown() !== null);
  /** How far the blend on the stage goes: one that waits for its pixels is not there yet. */
  private readonly spread = linkedSignal<{ stack: Stack | null; there: boolean }, Pick<StageLook, 'perMetre' | 'bounds'>>({
    source: () => ({ stack: this.model.stack(), there: this.there() }),
    computation: ({ stack, there }, before) => {
      if (before && !there) return before.value;
      return stack ? { perMetre: 1 / stack.extentM, bounds: [stack.lo, stack.hi] } : { perMetre: 1, bounds: [0, 1] };
    },
  });
  private readonly stage = signal<RemoteStage | null>(null);
  private turning = false;
  /** The mesh whose colours the stage was last told, and whether they were others than it came with. */
  private coloured: unknown = null;
  private recoloured = false;
  readonly split = SPLIT;

  readonly reading = computed(() => {
    const at = this.model.pointer();
    const stack = this.model.stack();
    const point = at && this.model.probe(at.u, at.v);
    if (!at || !point || !stack) return null;
    const name = stack.layers[point.winner[0]].layer.name;
    return `x ${(at.u * stack.extentM).toFixed(2)} m  y ${(at.v * stack.extentM).toFixed(2)} m  ${(point.height[0] * 1000).toFixed(1)} mm  ${name} ${point.layers[point.winner[0]].share[0].toFixed(2)}`;
  });

  constructor() {
    effect((onCleanup) => {
      const canvas = this.canvas().nativeElement;
      let stage: RemoteStage | null = null;
      let gone = false;
      void this.light
        .data(untracked(this.light.look).sky)
        .then((light) => {
          if (gone) return;
          const worker = new Worker(new URL('../../workers/stage.worker', import.meta.url), { type: 'module' });
          const panes = { specimen: { x: 0, y: 0, width: SPLIT, height: 1 }, flat: { x: SPLIT, y: 0, width: 1 - SPLIT, height: 1 } };
          stage = new RemoteStage(worker, canvas, light, panes);
          stage.onFrame = (report) => this.frame.set(report);
          stage.onError = (message) => this.failed.set(message);
          // For tests and the bench: how many programs were linked, how long frames took.
          (canvas as HTMLCanvasElement & { pebbleStage?: RemoteStage }).pebbleStage = stage;
          this.stage.set(stage);
          this.accounts.stage.set(stage);
          this.painting.stage.set(stage);
          this.compare.use(stage, canvas);
        })
        .catch((error: Error) => this.failed.set(error.message));
      onCleanup(() => {
        gone = true;
        stage?.dispose();
      });
    });
    const observer = new ResizeObserver(([entry]) => this.resize(entry.contentRect.width, entry.contentRect.height));
    effect(() => observer.observe(this.canvas().nativeElement));
    inject(DestroyRef).onDestroy(() => observer.disconnect());
    effect(() => {
      const program = this.model.program();
      const shown = this.model.shown();
      if (!program || !shown) return;
      // Numbers have an effect of their own: a drag must not come through here.
      const [values, parallax] = [untracked(this.model.values), untracked(this.model.parallax)];
      this.stage()?.setProgram({ program, values, slots: shown.slots, parallax, whole: shown.whole });
    });
    // Numbers of a program that waits for pixels mean nothing to the one before it.
    effect(() => this.there() && this.stage()?.setValues(this.model.values()));
    const relief = new StageRelief(this.model.programs, (position) => this.stage()?.setRelief(position));
    const moves = computed(() => this.light.look().relief === 'displaced' && this.fine());
    effect(() => {
      // Only while vertices are moved do heights come through here.
      const [material, sources] = moves() && this.stage() ? [this.model.material(), this.model.sources()] : [null, null];
      if (material && sources) relief.follow(material, sources, this.on.mesh(), this.vertices().spacingM, this.on.ownVertices());
      else untracked(() => relief.stop());
    });
    this.accounts.elsewhere = (slot) => {
      const blend = this.assets.slots().find((s) => s.slot === slot)?.blend;
      if (blend) this.assets.show(blend, this.assets.id());
    };
    this.flat.onMoved = () => this.look(true);
    const flat = makeFlat();
    effect(() => {
      this.stage()?.setSpecimen(this.on.form(), onGround(flat, untracked(this.on.ground)));
    });
    effect(() => {
      const [stage, form, colours] = [this.stage(), this.on.form(), this.painted.colours()];
      // What it came with went over with the mesh, unless other colours lay on it since.
      const fresh = this.coloured !== form;
      if (!stage || (colours === form.geomcolor && (fresh || !this.recoloured))) return;
      this.coloured = form;
      this.recoloured = colours !== form.geomcolor;
      // A stroke of one's own is shown while it is made.
      if (fresh || colours !== this.painted.own) stage.setColours('specimen', [{ first: 0, colours }]);
      stage.setColours('flat', [{ first: 0, colours: this.on.ground().alongOne('geomcolor', flat.texcoord) }]);
    });
    effect(() => this.stage()?.setOthers(this.on.ownSpans(), this.neighbours.shown()));
    effect(() => this.orbit.set(frameBounds(this.bounds())));
    const sky = computed(() => this.light.look().sky);
    effect(() => {
      const [stage, name] = [this.stage(), sky()];
      this.light
        .data(name)
        // A sky that comes late does not replace the one chosen since.
        .then((data) => name === this.light.look().sky && stage?.setLight(data))
        .catch((error: Error) => this.failed.set(error.message));
    });
    effect(() => {
      const { width, height } = this.size();
      const ratio = Math.min(2, devicePixelRatio);
      this.stage()?.setSize(Math.max(2, Math.round(width * ratio)), Math.max(2, Math.round(height * ratio)));
    });
    effect(() => this.look(false));
    useKeys({
      KeyK: { down: () => this.nextChannel() },
      KeyF: { down: () => this.frameSpecimen() },
      KeyV: { down: () => this.model.without.set(true), up: () => this.model.without.set(false) },
      KeyB: { down: () => this.painting.on.update((on) => !on) },
      KeyE: { down: () => this.painting.erasing.set(true), up: () => this.painting.erasing.set(false) },
      Minus: { down: () => this.painting.resize(1 / 1.1) },
      Equal: { down: () => this.painting.resize(1.1) },
      KeyH: {
        down: () => {
          this.turning = true;
        },
        up: () => {
          this.turning = false;
        },
      },
    });
  }

  private readonly eye = () => ({ ...this.orbit(), field: this.light.look().field * RADIANS });

  private look(moving: boolean): void {
    const stage = this.stage();
    if (!stage) return;
    const { perMetre, bounds } = this.spread();
    const look: StageLook = {
      orbit: this.eye(),
      flat: this.flat.view(),
      channel: this.shown(),
      turn: this.light.look().turn,
      exposure: 2 ** this.light.look().exposure,
      mapped: this.light.look().mapped,
      shadow: this.light.look().shadow,
      perMetre,
      bounds,
    };
    stage.setLook(look, moving);
    untracked(() => this.compare.stale());
  }

  private resize(width: number, height: number): void {
    this.size.set({ width, height });
    this.flat.size.set({ width: width * (1 - SPLIT), height });
  }

  show(channel: StageChannel): void {
    this.painting.view.set('look');
    this.channel.set(channel);
  }
  nextChannel(): void {
    const at = CHANNEL_NAMES.findIndex((c) => c.id === this.channel());
    this.show(CHANNEL_NAMES[(at + 1) % CHANNEL_NAMES.length].id);
  }
  frameSpecimen(): void {
    this.orbit.set(frameBounds(this.bounds()));
    this.flat.whole();
  }

  orbitBy(event: PointerEvent): void {
    this.specimenPane().nativeElement.focus({ preventScroll: true });
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    if (this.onVertices() && !this.painting.waiting() && !this.pointing.active()) {
      const place = (e: PointerEvent) => ({ x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height });
      return this.painting.press(
        event,
        () => ({ eye: this.eye(), aspect: box.width / box.height }),
        place,
        (dx, dy) => this.turn(dx, dy, event.shiftKey),
      );
    }
    if (this.model.cutting()) {
      const at = (e: PointerEvent) =>
        this.accounts.coordinateAt(this.eye(), box.width / box.height, (e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
      // Beside the specimen a press turns it, as always.
      if (this.cut.draw(event, at)) return;
    }
    clicked(event, () =>
      this.accounts.onSpecimen(this.eye(), box.width / box.height, (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height),
    );
    follow(event, (dx, dy, e) => this.turn(dx, dy, e.shiftKey || event.button === 1));
  }
  /** Turns the specimen, or moves it aside. */
  private turn(dx: number, dy: number, aside: boolean): void {
    this.orbit.update((o) => {
      if (aside) {
        const k = o.distance / 700;
        return {
          ...o,
          target: [
            o.target[0] - dx * k * Math.cos(o.yaw) - dy * k * Math.sin(o.yaw),
            o.target[1],
            o.target[2] + dx * k * Math.sin(o.yaw) - dy * k * Math.cos(o.yaw),
          ],
        };
      }
      return { ...o, yaw: o.yaw - dx * 0.008, pitch: Math.min(1.5, Math.max(-0.3, o.pitch + dy * 0.008)) };
    });
    this.look(true);
  }
  hoverSpecimen(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    if (this.onVertices()) {
      const box = pane.getBoundingClientRect();
      const [x, y] = [event.clientX - box.left, event.clientY - box.top];
      this.pressed.set({ x, y });
      void this.painting.hover({ x: x / box.width, y: y / box.height }, { eye: this.eye(), aspect: box.width / box.height });
    }
    if (this.turning) {
      this.light.set({ turn: this.light.look().turn + event.movementX * 0.012 });
      this.look(true);
    }
  }
  zoomSpecimen(event: WheelEvent): void {
    event.preventDefault();
    const { lo, hi } = this.bounds();
    const least = 0.08 * Math.hypot(...hi.map((v, c) => v - lo[c]));
    this.orbit.update((o) => ({ ...o, distance: Math.min(least * 120, Math.max(least, o.distance * Math.exp(event.deltaY * 0.001))) }));
    this.look(true);
  }
  specimenKey(event: KeyboardEvent): void {
    if (event.key === 'Enter' && this.onVertices()) {
      event.preventDefault();
      const { width, height } = this.size();
      return void this.painting.dab({ eye: this.eye(), aspect: (width * SPLIT) / height });
    }
    const by = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, 0.08], ArrowDown: [0, -0.08] }[event.key];
    if (!by) return;
    event.preventDefault();
    this.orbit.update((o) => ({ ...o, yaw: o.yaw + by[0], pitch: Math.min(1.5, Math.max(-0.3, o.pitch + by[1])) }));
    this.look(true);
  }

  degrees = (radians: number): number => (((radians / RADIANS) % 360) + 360) % 360;
  readonly radians = RADIANS;
}
