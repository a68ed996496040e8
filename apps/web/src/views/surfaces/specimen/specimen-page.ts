import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import type { Colouring, Orbit, PageView } from '@pebble/core';
import { cividis, frameBounds, frameOrbit } from '@pebble/core';
import { MeshService } from '../../../services/mesh.service';
import { follow } from '../../../ui/follow';
import { ScrubField } from '../../../ui/scrub-field';
import { sayLength } from '../strip-view';
import { Latest } from '../../../ui/latest';
import { SpecimenModel } from './specimen-model';
import { Worn } from './worn';

const COLOURINGS: readonly { id: Colouring; name: string; about: string }[] = [
  { id: 'islands', name: 'Islands', about: 'Every island in a colour of its own' },
  { id: 'density', name: 'Density', about: 'How many texels fall on a metre' },
  { id: 'overlaps', name: 'Overlaps', about: 'Red where islands lie on each other, blue where that is wanted' },
  { id: 'turned', name: 'Turned over', about: 'Red where islands are mirrored, amber where triangles are folded over, blue outside the tile' },
  { id: 'slots', name: 'Slots', about: 'Every slot in a colour of its own' },
  { id: 'parts', name: 'Parts', about: 'Every part in a colour of its own' },
  { id: 'colours', name: 'Vertex colours', about: 'The colours that the mesh carries, on its form' },
];

/** A specimen in space and its page of texture coordinates, coloured alike; pointing at one shows the place on the other. */
@Component({
  selector: 'pb-specimen-page',
  imports: [ScrubField, Worn],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './specimen-page.html',
  styleUrl: './specimen-page.scss',
})
export class SpecimenPage {
  readonly model = inject(SpecimenModel);
  private readonly meshes = inject(MeshService);
  readonly colourings = COLOURINGS;
  show(colouring: Colouring): void {
    this.model.showWorn(false);
    this.model.colouring.set(colouring);
  }
  /** Shows it in what it wears; where nothing was hooked up yet, names are tried. */
  showWorn(): void {
    if (this.model.asset()) this.model.showWorn(true);
    else void this.model.hookUpByName();
  }
  private readonly formCanvas = viewChild<ElementRef<HTMLCanvasElement>>('form');
  private readonly pageCanvas = viewChild<ElementRef<HTMLCanvasElement>>('page');
  /** Size of a pane in CSS pixels; both have the same. */
  private readonly pane = signal({ width: 2, height: 2 });
  readonly orbit = signal<Orbit>(frameOrbit(1));
  readonly view = signal<PageView>({ u: 0.5, v: 0.5, span: 1.2 });
  /** Densities at the ends and the middle of the scale, in pixels a metre. */
  readonly scale = computed(() => {
    const mean = this.model.facts()?.density?.mean;
    return mean ? [mean / 2, mean, mean * 2].map((d) => Math.round(d * this.model.side()).toLocaleString('en')) : null;
  });
  readonly ramp = `linear-gradient(90deg, ${[0, 0.25, 0.5, 0.75, 1].map((t) => `#${cividis(t).toString(16).padStart(6, '0')}`).join(', ')})`;
  readonly reading = computed(() => {
    const at = this.model.hovered();
    const island = at === null ? undefined : this.model.facts()?.islands[at];
    if (!island) return null;
    const part = this.model.parts()[island.part];
    const size = Number.isFinite(island.density) ? island.hi.map((v, c) => sayLength((v - island.lo[c]) / island.density)).join(' × ') : 'no area';
    const density = Number.isFinite(island.density) ? `, ${Math.round(island.density * this.model.side()).toLocaleString('en')} px/m` : '';
    const marks = [
      island.flipped && 'mirrored',
      island.folded && `${island.folded} folded`,
      island.repeats ? 'repeats' : island.outside && 'outside the tile',
    ].filter(Boolean);
    return `${part?.name ?? ''}, ${part?.slot ?? ''}: ${size}${density}, ${island.triangles.toLocaleString('en')} triangles${marks.length ? `, ${marks.join(', ')}` : ''}`;
  });

  constructor() {
    const fail = (error: Error) => this.model.failed.set(error.message);
    const show = (canvas: () => ElementRef<HTMLCanvasElement> | undefined) => (picture: ImageBitmap) => {
      const element = canvas()?.nativeElement;
      if (!element) return picture.close();
      element.width = picture.width;
      element.height = picture.height;
      element.getContext('2d')?.drawImage(picture, 0, 0);
      element.dataset['drawn'] = String(Number(element.dataset['drawn'] ?? 0) + 1);
      picture.close();
    };
    const form = new Latest(show(this.formCanvas), fail);
    const page = new Latest(show(this.pageCanvas), fail);
    const pixels = computed(() => {
      const ratio = Math.min(2, devicePixelRatio);
      return { width: Math.max(2, Math.round(this.pane().width * ratio)), height: Math.max(2, Math.round(this.pane().height * ratio)) };
    });
    effect(() => {
      const [source, look, orbit, size] = [this.model.source(), this.model.look(), this.orbit(), pixels()];
      if (source && this.formCanvas()) form.ask(() => this.meshes.run('form', { source, look, orbit, size }));
    });
    effect(() => {
      const [source, look, view, size] = [this.model.source(), this.model.look(), this.view(), pixels()];
      if (source && this.pageCanvas()) page.ask(() => this.meshes.run('page', { source, look, view, size }));
    });
    // A specimen comes into view whole; later changes of it leave the eye where it is.
    const framed = computed(() =>
      this.model.facts() && this.pane().width > 2 ? `${this.model.id()} ${this.model.body()?.unitM} ${this.model.body()?.up}` : null,
    );
    effect(() => {
      if (framed()) untracked(() => this.frame());
    });
    const observer = new ResizeObserver(([entry]) => this.pane.set({ width: entry.contentRect.width, height: entry.contentRect.height }));
    effect((onCleanup) => {
      const canvas = this.formCanvas()?.nativeElement;
      if (!canvas) return;
      observer.observe(canvas);
      onCleanup(() => observer.unobserve(canvas));
    });
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  frame(): void {
    const bounds = this.model.facts()?.bounds;
    if (bounds) this.orbit.set(frameBounds(bounds));
    this.frameTile();
  }
  private frameTile(): void {
    const { width, height } = this.pane();
    this.view.set({ u: 0.5, v: 0.5, span: 1.08 * Math.max(1, width / Math.max(1, height)) });
  }

  useSet(set: number): void {
    this.model.edit(`Use set ${set + 1} of texture coordinates`, (d) => {
      d.uvSet = set;
    });
  }

  turn(event: PointerEvent): void {
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    follow(event, (dx, dy) =>
      this.orbit.update((o) => ({ ...o, yaw: o.yaw - dx * 0.008, pitch: Math.min(1.55, Math.max(-1.55, o.pitch + dy * 0.008)) })),
    );
  }
  nearer(event: WheelEvent): void {
    event.preventDefault();
    this.orbit.update((o) => ({ ...o, distance: o.distance * Math.exp(event.deltaY * 0.001) }));
  }
  formKey(event: KeyboardEvent): void {
    const by = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, 0.08], ArrowDown: [0, -0.08] }[event.key];
    const nearer = { '+': 0.9, '=': 0.9, '-': 1.1 }[event.key];
    if (event.key === 'f') this.frame();
    else if (nearer) this.orbit.update((o) => ({ ...o, distance: o.distance * nearer }));
    else if (by) this.orbit.update((o) => ({ ...o, yaw: o.yaw + by[0], pitch: Math.min(1.55, Math.max(-1.55, o.pitch + by[1])) }));
    else return;
    event.preventDefault();
  }

  pan(event: PointerEvent): void {
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    const { width } = this.pane();
    follow(event, (dx, dy) => this.view.update((w) => ({ ...w, u: w.u - (dx / width) * w.span, v: w.v - (dy / width) * w.span })));
  }
  zoom(event: WheelEvent): void {
    event.preventDefault();
    const { u, v } = this.place(event);
    this.view.update((w) => {
      const span = Math.min(64, Math.max(0.01, w.span * Math.exp(event.deltaY * 0.001)));
      const k = span / w.span;
      return { u: u + (w.u - u) * k, v: v + (w.v - v) * k, span };
    });
  }
  pageKey(event: KeyboardEvent): void {
    const by = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, -0.1], ArrowDown: [0, 0.1] }[event.key];
    const zoom = { '+': 0.8, '=': 0.8, '-': 1.25 }[event.key];
    if (event.key === 'f') this.frameTile();
    else if (zoom) this.view.update((w) => ({ ...w, span: Math.min(64, Math.max(0.01, w.span * zoom)) }));
    else if (by) this.view.update((w) => ({ ...w, u: w.u + by[0] * w.span, v: w.v + by[1] * w.span }));
    else return;
    event.preventDefault();
  }

  private place(event: MouseEvent): { u: number; v: number } {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const { u, v, span } = this.view();
    const scale = span / box.width;
    return { u: u + (event.clientX - box.left - box.width / 2) * scale, v: v + (event.clientY - box.top - box.height / 2) * scale };
  }

  private readonly pointed = new Latest<number | null>(
    (island) => this.model.hovered.set(island),
    () => undefined,
  );
  pointPage(event: PointerEvent): void {
    const [source, at] = [this.model.source(), this.place(event)];
    if (source && !event.buttons) this.pointed.ask(() => this.meshes.run('islandOnPage', { source, ...at }));
  }
  pointForm(event: PointerEvent): void {
    const source = this.model.source();
    const canvas = event.currentTarget as HTMLCanvasElement;
    const box = canvas.getBoundingClientRect();
    const x = Math.floor(((event.clientX - box.left) / box.width) * canvas.width);
    const y = Math.floor(((event.clientY - box.top) / box.height) * canvas.height);
    if (source && !event.buttons) this.pointed.ask(() => this.meshes.run('islandOnForm', { source, x, y }));
  }
  pointAway(): void {
    this.pointed.ask(() => Promise.resolve(null));
  }
}
