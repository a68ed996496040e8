import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, output, signal, untracked, viewChild } from '@angular/core';
import type { SkyName, SpecimenName } from '@pebble/core';
import { SKIES, SPECIMENS, SPECIMEN_MODELS, boundsOf, makeFlat, makeSpecimen, vertexSpacing } from '@pebble/core';
import type { StageChannel, StageLook } from '@pebble/stage';
import { PARALLAX_STEPS, RemoteStage, flatAt, flatTo, frameBounds, frameOrbit } from '@pebble/stage';
import type { Relief } from '../../services/light.service';
import { LightService } from '../../services/light.service';
import { useKeys } from '../../ui/keys';
import { ScrubField } from '../../ui/scrub-field';
import { BlendModel } from './blend-model';
import { StageRelief } from './stage-relief';

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
  imports: [ScrubField],
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
  readonly specimens = SPECIMENS.map((id) => ({ id, name: SPECIMEN_MODELS[id](1).title }));
  readonly skies = Object.entries(SKIES).map(([id, { title }]) => ({ id: id as SkyName, title }));
  readonly light = inject(LightService);
  readonly lightOpen = signal(false);
  private readonly asked = computed(() => ({ name: this.model.blend()?.specimen ?? 'patch', extentM: this.model.blend()?.extentM ?? 1 }), {
    equal: (a, b) => a.name === b.name && a.extentM === b.extentM,
  });
  private readonly specimen = computed(() => makeSpecimen(this.asked().name, this.asked().extentM));
  private readonly vertices = computed(() => ({ count: this.specimen().position.length / 3, spacingM: vertexSpacing(this.specimen()) }));
  /** Whether the specimen has vertices close enough to carry relief. */
  readonly fine = computed(() => this.vertices().spacingM <= FINE_M);
  readonly reliefs = computed<{ id: Relief; name: string; price: string; off: boolean }[]>(() => {
    const again = this.model.program()?.heightPrice ?? { samples: 0, operations: 0 };
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
  readonly flat = signal({ u: 0.5, v: 0.5, span: 1.06 });
  readonly pointer = signal<{ u: number; v: number } | null>(null);
  readonly size = signal({ width: 1, height: 1 });
  readonly frame = signal<{ ms: number; scale: number } | null>(null);
  readonly failed = signal<string | null>(null);
  private readonly bounds = computed(() => boundsOf(this.specimen()));
  private readonly orbit = signal(frameOrbit(2.4));
  private readonly stage = signal<RemoteStage | null>(null);
  private turning = false;
  readonly split = SPLIT;

  readonly aspect = computed(() => (this.size().width * (1 - SPLIT)) / Math.max(1, this.size().height));
  /** The cut line in pixels of the flat pane. */
  readonly cutLine = computed(() => {
    const cut = this.model.blend()?.cut;
    const { width, height } = this.size();
    if (!cut) return null;
    const place = (u: number, v: number) => {
      const [x, y] = flatTo(this.flat(), this.aspect(), u, v);
      return { x: x * width * (1 - SPLIT), y: y * height };
    };
    return { a: place(cut.ax, cut.ay), b: place(cut.bx, cut.by) };
  });
  readonly reading = computed(() => {
    const at = this.pointer();
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
      const slots = this.model.slots();
      // Numbers have an effect of their own: a drag must not come through here.
      if (program && slots)
        this.stage()?.setProgram(program.glsl, program.hoisted, untracked(this.model.values), slots, untracked(this.model.parallax));
    });
    effect(() => this.stage()?.setValues(this.model.values()));
    const relief = new StageRelief((position) => this.stage()?.setRelief(position));
    const moves = computed(() => this.light.look().relief === 'displaced' && this.fine());
    effect(() => {
      // Only while vertices are moved do heights come through here.
      const [stack, sources] = moves() && this.stage() ? [this.model.stack(), this.model.sources()] : [null, null];
      if (stack && sources) relief.follow(stack, sources, this.specimen(), this.vertices().spacingM);
      else untracked(() => relief.stop());
    });
    effect(() => {
      this.stage()?.setSpecimen(this.specimen(), makeFlat());
      this.orbit.set(frameBounds(this.bounds()));
    });
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

  private look(moving: boolean): void {
    const stage = this.stage();
    if (!stage) return;
    const stack = this.model.stack();
    const look: StageLook = {
      orbit: { ...this.orbit(), field: this.light.look().field * RADIANS },
      flat: this.flat(),
      channel: this.channel(),
      turn: this.light.look().turn,
      exposure: 2 ** this.light.look().exposure,
      mapped: this.light.look().mapped,
      shadow: this.light.look().shadow,
      perMetre: 1 / (stack?.extentM ?? 1),
      bounds: stack ? [stack.lo, stack.hi] : [0, 1],
    };
    stage.setLook(look, moving);
  }

  private resize(width: number, height: number): void {
    this.size.set({ width, height });
  }

  nextChannel(): void {
    const at = CHANNEL_NAMES.findIndex((c) => c.id === this.channel());
    this.channel.set(CHANNEL_NAMES[(at + 1) % CHANNEL_NAMES.length].id);
  }
  frameSpecimen(): void {
    this.orbit.set(frameBounds(this.bounds()));
    this.flat.set({ u: 0.5, v: 0.5, span: 1.06 });
  }

  /** Follows a pointer until it is let go. */
  private follow(event: PointerEvent, move: (dx: number, dy: number, e: PointerEvent) => void, end: () => void = () => undefined): void {
    let { clientX: x, clientY: y } = event;
    const onMove = (e: PointerEvent) => {
      move(e.clientX - x, e.clientY - y, e);
      ({ clientX: x, clientY: y } = e);
    };
    const onEnd = () => {
      removeEventListener('pointermove', onMove);
      removeEventListener('pointerup', onEnd);
      removeEventListener('pointercancel', onEnd);
      end();
    };
    addEventListener('pointermove', onMove);
    addEventListener('pointerup', onEnd);
    addEventListener('pointercancel', onEnd);
    event.preventDefault();
  }

  orbitBy(event: PointerEvent): void {
    this.specimenPane().nativeElement.focus({ preventScroll: true });
    this.follow(event, (dx, dy, e) => {
      this.orbit.update((o) => {
        if (e.shiftKey || event.button === 1) {
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
    });
  }
  hoverSpecimen(event: PointerEvent): void {
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
    const by = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, 0.08], ArrowDown: [0, -0.08] }[event.key];
    if (!by) return;
    event.preventDefault();
    this.orbit.update((o) => ({ ...o, yaw: o.yaw + by[0], pitch: Math.min(1.5, Math.max(-0.3, o.pitch + by[1])) }));
    this.look(true);
  }

  private flatPlace(event: PointerEvent | WheelEvent): [number, number] {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    return flatAt(this.flat(), this.aspect(), (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  }
  pointFlat(event: PointerEvent): void {
    const [u, v] = this.flatPlace(event);
    this.pointer.set({ u, v });
  }
  panFlat(event: PointerEvent): void {
    const { width } = this.size();
    this.follow(event, (dx, dy) => {
      this.flat.update((f) => ({
        ...f,
        u: Math.min(1.4, Math.max(-0.4, f.u - (dx / (width * (1 - SPLIT))) * f.span)),
        v: Math.min(1.4, Math.max(-0.4, f.v - (dy / (width * (1 - SPLIT))) * f.span)),
      }));
      this.look(true);
    });
  }
  zoomFlat(event: WheelEvent): void {
    event.preventDefault();
    const [u, v] = this.flatPlace(event);
    this.flat.update((f) => {
      const span = Math.min(2, Math.max(0.02, f.span * Math.exp(event.deltaY * 0.001)));
      const k = span / f.span;
      return { u: u + (f.u - u) * k, v: v + (f.v - v) * k, span };
    });
    this.look(true);
  }

  /** Drags an end of the cut, or the whole of it. */
  dragCut(event: PointerEvent, end: 'a' | 'b' | 'both'): void {
    event.stopPropagation();
    const pixels = this.size().width * (1 - SPLIT);
    this.follow(
      event,
      (dx, dy) => {
        const du = (dx / pixels) * this.flat().span;
        const dv = (dy / pixels) * this.flat().span;
        this.model.draft(({ cut }) => {
          if (end !== 'b') {
            cut.ax += du;
            cut.ay += dv;
          }
          if (end !== 'a') {
            cut.bx += du;
            cut.by += dv;
          }
        });
      },
      () => this.model.commit('Move the cut'),
    );
  }
  cutKey(event: KeyboardEvent, end: 'a' | 'b'): void {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!by) return;
    event.preventDefault();
    const step = event.shiftKey ? 0.05 : 0.01;
    this.model.edit('Move the cut', ({ cut }) => {
      cut[`${end}x`] += by[0] * step;
      cut[`${end}y`] += by[1] * step;
    });
  }

  setSpecimen(name: SpecimenName): void {
    this.model.edit(`Look at it on: ${SPECIMEN_MODELS[name](1).title.toLowerCase()}`, (d) => {
      d.specimen = name;
    });
  }
  degrees = (radians: number): number => (((radians / RADIANS) % 360) + 360) % 360;
  readonly radians = RADIANS;
}
