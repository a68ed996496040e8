import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, signal, untracked, viewChildren } from '@angular/core';
import type { MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { BLEND_ROLES, ROLES, ROLE_FACTS, tallOf } from '@pebble/core';
import { ComputeService } from '../../services/compute.service';
import { NoticesService } from '../../services/notices.service';
import { inSlices } from '../../ui/breathe';
import { follow } from '../../ui/follow';
import type { DrawnSurface, LitTile, ShownMap } from '../../workers/protocol';
import { readout } from './readout';
import type { Place } from './strip-view';
import { StripView, barLength, sayLength } from './strip-view';
import { ByKey, Newest } from '../../ui/latest';

/** Side of the lit picture of a surface. */
const LIT = 448;

const picturesOf = (picture: ImageBitmap | undefined, smaller: readonly ImageBitmap[] = []): readonly ImageBitmap[] =>
  picture ? [picture, ...smaller] : [];

/** The lit surface and all its maps in equal panes that pan, zoom, read and measure in step. */
@Component({
  selector: 'pb-map-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './map-strip.html',
  styleUrl: './map-strip.scss',
})
export class MapStrip {
  readonly surface = input.required<SurfaceDocument>();
  /** Pictures to be shown instead while parameters are turned. */
  readonly trial = input<DrawnSurface | null>(null);
  /** Name of the surface, where two are compared. */
  readonly title = input('');
  readonly strip = inject(StripView);
  readonly shown = signal<Partial<Record<Role, ShownMap>>>({});
  private readonly lit = signal<LitTile | null>(null);
  /** What the picture of each pane was made of. */
  private readonly madeOf = signal<Readonly<Record<string, string>>>({});
  private readonly litOf = computed(() => {
    const { maps, sizeM, reliefM, mid } = this.surface();
    const entries = BLEND_ROLES.flatMap((r) => (maps[r] ? [[r, maps[r].stage] as const] : []));
    return { key: JSON.stringify([entries.map(([, s]) => s.blob), sizeM, reliefM, mid]), entries };
  });
  /** Height over width of the surface. */
  private readonly tall = computed(() => tallOf(this.surface().maps));
  readonly repetition = computed(() => {
    const [trial, lit] = [this.trial(), this.lit()];
    if (trial) return trial.repetition;
    return lit && !this.isOld('lit', this.litOf().key) ? lit.repetition : null;
  });
  readonly maps = computed(() =>
    ROLES.flatMap((role) => {
      const entry = this.surface().maps[role];
      return entry ? [{ role, entry, label: ROLE_FACTS[role].label }] : [];
    }),
  );
  readonly current = computed<Partial<Record<Role, ShownMap>>>(() => this.trial()?.maps ?? this.shown());
  readonly panes = computed(() => [
    {
      id: 'lit',
      label: 'Lit',
      about: 'Lit from above by the overcast sky',
      pictures: picturesOf((this.trial() ?? this.lit())?.lit),
      old: this.isOld('lit', this.litOf().key),
    },
    ...this.maps().map(({ role, entry, label }) => ({
      id: role as string,
      label,
      about: `${label}, ${entry.width} by ${entry.height} pixels`,
      pictures: picturesOf(this.current()[role]?.picture, this.current()[role]?.smaller),
      old: this.isOld(role, entry.blob),
    })),
  ]);
  /** Whether a pane still shows what was there before: another surface, or another file for this map. */
  private isOld(id: string, of: string): boolean {
    const made = this.madeOf()[id] as string | undefined;
    return !this.trial() && made !== undefined && made !== of;
  }
  private made(id: string, of: string): void {
    this.madeOf.update((all) => ({ ...all, [id]: of }));
  }
  readonly values = computed<Record<string, string[]>>(() => {
    const at = this.strip.pointer();
    const out: Record<string, string[]> = {};
    const { sizeM } = this.surface();
    if (!at) return out;
    const part = (m: number, of: number) => m / of - Math.floor(m / of);
    const highM = sizeM * this.tall();
    const old = new Set(this.panes().flatMap((p) => (p.old ? [p.id] : [])));
    for (const [role, { image }] of Object.entries(this.current()) as [Role, ShownMap][])
      if (!old.has(role))
        out[role] = readout(role, image, Math.floor(part(at.x, sizeM) * image.width), Math.floor(part(at.y, highM) * image.height), this.surface());
    return out;
  });
  readonly bar = computed(() => {
    const { acrossM } = this.strip.window();
    const length = barLength(acrossM);
    return { share: (length / acrossM) * 100, text: sayLength(length) };
  });
  /** Size of a pane in pixels; all have the same. */
  private readonly pane = signal({ width: 0, height: 0 });
  readonly ruler = computed(() => {
    const ruler = this.strip.ruler();
    if (!ruler) return null;
    const { width, height } = this.pane();
    const { x, y, acrossM } = this.strip.window();
    const to = (p: Place) => ({ x: width / 2 + ((p.x - x) / acrossM) * width, y: height / 2 + ((p.y - y) / acrossM) * width });
    return { a: to(ruler.a), b: to(ruler.b), text: sayLength(Math.hypot(ruler.b.x - ruler.a.x, ruler.b.y - ruler.a.y)) };
  });
  private readonly canvases = viewChildren<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly asked = new ByKey((error) => this.notices.error(error));
  /** What every canvas shows: when one map arrives, the others are not drawn again. */
  private readonly painted = new WeakMap<HTMLCanvasElement, { picture: ImageBitmap; key: string }>();
  private readonly painting = new Newest();

  constructor() {
    effect(() => {
      const { sizeM } = this.surface();
      for (const { role, entry } of this.maps()) {
        // The file itself is decoded only when its pixels would be seen: enlarged past those of the stage.
        const close = this.strip.window().acrossM < 0.5 * sizeM && entry.width > entry.stage.width && /\.png$/i.test(entry.fileName);
        void this.load(role, entry, close);
      }
      void untracked(() => this.light());
    });
    effect(() => this.paint());
    const observer = new ResizeObserver(([entry]) => this.pane.set({ width: entry.contentRect.width, height: entry.contentRect.height }));
    effect(() => {
      observer.disconnect();
      this.canvases().forEach((c) => observer.observe(c.nativeElement));
    });
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  private load(role: Role, entry: MapEntry, close: boolean): void {
    const { stage, normalDirection, blob } = entry;
    const make = () => this.compute.run('show', { role, stage, full: close ? blob : null, normalDirection });
    this.asked.ask(role, `${blob}${close}`, make, (made) => {
      this.shown.update((s) => ({ ...s, [role]: made }));
      this.made(role, blob);
    });
  }

  private light(): void {
    const { sizeM, reliefM, mid } = this.surface();
    const { key, entries } = this.litOf();
    const make = () => this.compute.run('lit', { maps: Object.fromEntries(entries), facts: { sizeM, reliefM, mid, tall: this.tall() }, size: LIT });
    this.asked.ask('lit', key, make, (made) => {
      this.lit.set(made);
      this.made('lit', key);
    });
  }

  private paint(): void {
    const view = { ...this.strip.window(), sizeM: this.surface().sizeM, highM: this.surface().sizeM * this.tall() };
    const panes = this.panes();
    // Measured by the observer: asking the canvases would lay the page out in the middle of its making.
    const pane = this.pane();
    const width = Math.round(pane.width * devicePixelRatio);
    const height = Math.round(pane.height * devicePixelRatio);
    const going = this.painting.begin();
    const all = this.canvases().map((canvas, i) => ({ canvas: canvas.nativeElement, pictures: panes[i]?.pictures ?? [] }));
    if (!width || !height) return;
    void inSlices(
      all,
      ({ canvas, pictures }) => this.draw(canvas, pictures, view, width, height),
      () => !going(),
    );
  }

  private draw(
    canvas: HTMLCanvasElement,
    pictures: readonly ImageBitmap[],
    view: Place & { acrossM: number; sizeM: number; highM: number },
    width: number,
    height: number,
  ) {
    const { x, y, acrossM, sizeM, highM } = view;
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
    // Drawn by the processor: panes are small, and a busy graphics process would hold up the page.
    const context = canvas.getContext('2d', { willReadFrequently: true });
    const scaleOf = (picture: ImageBitmap) => ((width / acrossM) * sizeM) / picture.width;
    // The smallest that need not be enlarged.
    const picture = pictures.findLast((p) => scaleOf(p) <= 1) ?? pictures[0];
    if (!context || !picture) return;
    const key = [x, y, acrossM, sizeM, highM, width, height].join();
    const before = this.painted.get(canvas);
    if (before?.picture === picture && before.key === key) return;
    this.painted.set(canvas, { picture, key });
    const scale = scaleOf(picture);
    context.imageSmoothingEnabled = scale < 2;
    context.imageSmoothingQuality = 'low';
    // A map of other proportions is stretched over the same area.
    const down = ((width / acrossM) * highM) / picture.height;
    const [px, py] = [(x / sizeM) * picture.width, (y / highM) * picture.height];
    context.setTransform(scale, 0, 0, down, width / 2 - px * scale, height / 2 - py * down);
    context.fillStyle = context.createPattern(picture, 'repeat') as CanvasPattern;
    const [w, h] = [width / scale, height / down];
    context.fillRect(px - w / 2, py - h / 2, w, h);
    context.setTransform(1, 0, 0, 1, 0, 0);
  }

  private at(event: PointerEvent | WheelEvent, pane = event.currentTarget as HTMLElement): Place {
    const box = pane.getBoundingClientRect();
    const { x, y, acrossM } = this.strip.window();
    const perPixel = acrossM / box.width;
    return { x: x + (event.clientX - box.left - box.width / 2) * perPixel, y: y + (event.clientY - box.top - box.height / 2) * perPixel };
  }

  point(event: PointerEvent): void {
    this.strip.pointer.set(this.at(event));
  }

  /** Drags the picture; with Shift, measures. */
  drag(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    const from = this.at(event);
    if (event.shiftKey) this.strip.ruler.set({ a: from, b: from });
    else if (event.button === 0) this.strip.ruler.set(null);
    const measuring = event.shiftKey;
    pane.setPointerCapture(event.pointerId);
    follow(event, (_, __, e) => {
      const to = this.at(e, pane);
      if (measuring) this.strip.ruler.set({ a: from, b: to });
      else this.strip.pan(from.x - to.x, from.y - to.y);
    });
  }

  zoom(event: WheelEvent): void {
    event.preventDefault();
    this.strip.zoom(Math.exp(event.deltaY * 0.0015), this.at(event));
  }

  reset = (): void => this.strip.frame(this.surface().sizeM);

  key(event: KeyboardEvent): void {
    const window = this.strip.window();
    const step = window.acrossM * 0.1;
    const move = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (move) this.strip.pan(move[0], move[1]);
    else if (event.key === '+' || event.key === '=') this.strip.zoom(0.8, window);
    else if (event.key === '-') this.strip.zoom(1.25, window);
    else return;
    event.preventDefault();
  }
}
