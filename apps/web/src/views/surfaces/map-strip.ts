import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, signal, viewChildren } from '@angular/core';
import type { Image, MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS, fullScale } from '@pebble/core';
import { ComputeService } from '../../services/compute.service';
import { NoticesService } from '../../services/notices.service';

interface Shown {
  picture: ImageBitmap;
  image: Image;
}

/** What a map says at a texel, in the unit of its role. */
export function readout(role: Role, image: Image, x: number, y: number, surface: { reliefM: number; mid: number }): string {
  const at = (y * image.width + x) * image.channels;
  const value = (c: number) => image.data[at + c] / fullScale(image.depth);
  if (role === 'normal') {
    const [nx, ny] = [value(0) * 2 - 1, value(1) * 2 - 1];
    const slope = (Math.acos(Math.min(1, Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny)))) * 180) / Math.PI;
    return `${slope.toFixed(0)}° slope`;
  }
  if (role === 'height') return `${((value(0) - surface.mid) * surface.reliefM * 1000).toFixed(1)} mm`;
  if (ROLE_FACTS[role].components === 3) return [0, 1, 2].map((c) => Math.round(value(c) * 255)).join(' ');
  return value(0).toFixed(3);
}

/** All maps of a surface in equal panes that pan, zoom and read in step. */
@Component({
  selector: 'pb-map-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (map of maps(); track map.role) {
      <div
        class="pane"
        tabindex="0"
        role="img"
        [attr.aria-label]="map.label + ', ' + map.entry.width + ' by ' + map.entry.height + ' pixels'"
        (pointerdown)="drag($event)"
        (pointermove)="point($event)"
        (pointerleave)="pointer.set(null)"
        (wheel)="zoom($event)"
        (dblclick)="reset()"
        (keydown)="key($event)"
      >
        <canvas #canvas></canvas>
        <em>{{ map.label }}</em>
        @if (values()[map.role]; as text) {
          <span class="num">{{ text }}</span>
        }
        @if (!shown()[map.role]) {
          <span class="num wait">reading …</span>
        }
      </div>
    }
  `,
  styles: `
    :host {
      display: flex;
      gap: 2px;
      background: var(--grey);
      height: 100%;
    }
    .pane {
      flex: 1;
      position: relative;
      overflow: hidden;
      cursor: crosshair;
      touch-action: none;
      min-width: 0;
    }
    canvas {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    em {
      position: absolute;
      left: 8px;
      top: 8px;
      background: var(--veil);
      border-radius: 10px;
      padding: 1px 9px;
      font-style: normal;
      font-weight: 550;
      pointer-events: none;
    }
    span {
      position: absolute;
      right: 8px;
      bottom: 8px;
      background: var(--veil);
      border-radius: 8px;
      padding: 0 7px;
      pointer-events: none;
    }
    .wait {
      color: var(--quiet);
    }
  `,
})
export class MapStrip {
  readonly surface = input.required<SurfaceDocument>();
  readonly pointer = signal<{ u: number; v: number } | null>(null);
  readonly shown = signal<Partial<Record<Role, Shown>>>({});
  readonly maps = computed(() =>
    ROLES.flatMap((role) => {
      const entry = this.surface().maps[role];
      return entry ? [{ role, entry, label: ROLE_FACTS[role].label }] : [];
    }),
  );
  readonly values = computed<Partial<Record<Role, string>>>(() => {
    const at = this.pointer();
    const out: Partial<Record<Role, string>> = {};
    if (at)
      for (const [role, s] of Object.entries(this.shown()) as [Role, Shown][])
        out[role] = readout(role, s.image, Math.floor(at.u * s.image.width), Math.floor(at.v * s.image.height), this.surface());
    return out;
  });
  /** What all panes show: centre in texture coordinates, and repetitions over the width of a pane. */
  private readonly view = signal({ u: 0.5, v: 0.5, span: 0.6 });
  private readonly canvases = viewChildren<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private loaded = new Map<Role, string>();

  constructor() {
    effect(() => {
      for (const { role, entry } of this.maps()) {
        // The file itself is decoded only when its pixels would be seen: enlarged past those of the stage.
        const close = this.view().span < 0.5 && entry.width > entry.stage.width && /\.png$/i.test(entry.fileName);
        void this.load(role, entry, close);
      }
    });
    effect(() => this.paint());
    const observer = new ResizeObserver(() => this.paint());
    effect(() => {
      observer.disconnect();
      this.canvases().forEach((c) => observer.observe(c.nativeElement));
    });
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  private async load(role: Role, entry: MapEntry, close: boolean): Promise<void> {
    const key = `${entry.blob}${close}`;
    if (this.loaded.get(role) === key) return;
    this.loaded.set(role, key);
    try {
      const made = await this.compute.run('show', {
        role,
        stage: entry.stage,
        full: close ? entry.blob : null,
        normalDirection: entry.normalDirection,
      });
      if (this.loaded.get(role) === key) this.shown.update((s) => ({ ...s, [role]: made }));
    } catch (error) {
      this.notices.error(error);
    }
  }

  private paint(): void {
    const { u, v, span } = this.view();
    const shown = this.shown();
    this.canvases().forEach(({ nativeElement: canvas }, i) => {
      const picture = shown[this.maps()[i]?.role]?.picture;
      const ratio = devicePixelRatio;
      const width = Math.round(canvas.clientWidth * ratio);
      const height = Math.round(canvas.clientHeight * ratio);
      if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
      const context = canvas.getContext('2d');
      if (!context || !picture || !width) return;
      const scale = width / span / picture.width;
      const pattern = context.createPattern(picture, 'repeat') as CanvasPattern;
      context.imageSmoothingEnabled = scale < 2;
      context.setTransform(scale, 0, 0, scale, width / 2 - u * picture.width * scale, height / 2 - v * picture.height * scale);
      context.fillStyle = pattern;
      context.fillRect((u - span) * picture.width, (v - span * 4) * picture.height, 2 * span * picture.width, span * 8 * picture.height);
      context.setTransform(1, 0, 0, 1, 0, 0);
    });
  }

  private at(event: PointerEvent | WheelEvent): { u: number; v: number } {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const { u, v, span } = this.view();
    return { u: u + ((event.clientX - box.left) / box.width - 0.5) * span, v: v + ((event.clientY - box.top - box.height / 2) / box.width) * span };
  }

  point(event: PointerEvent): void {
    const { u, v } = this.at(event);
    this.pointer.set({ u: u - Math.floor(u), v: v - Math.floor(v) });
  }

  drag(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    const from = this.view();
    const move = (e: PointerEvent) =>
      this.view.set({
        ...from,
        u: from.u - ((e.clientX - event.clientX) / pane.clientWidth) * from.span,
        v: from.v - ((e.clientY - event.clientY) / pane.clientWidth) * from.span,
      });
    pane.setPointerCapture(event.pointerId);
    pane.addEventListener('pointermove', move);
    pane.addEventListener('pointerup', () => pane.removeEventListener('pointermove', move), { once: true });
  }

  zoom(event: WheelEvent): void {
    event.preventDefault();
    const at = this.at(event);
    this.scale(Math.exp(event.deltaY * 0.0015), at);
  }

  private scale(by: number, at: { u: number; v: number }): void {
    this.view.update(({ u, v, span }) => {
      const next = Math.min(8, Math.max(0.005, span * by));
      const k = next / span;
      return { u: at.u + (u - at.u) * k, v: at.v + (v - at.v) * k, span: next };
    });
  }

  reset = (): void => this.view.set({ u: 0.5, v: 0.5, span: 0.6 });

  key(event: KeyboardEvent): void {
    const { u, v, span } = this.view();
    const step = span * 0.1;
    const move = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (move) this.view.set({ u: u + move[0], v: v + move[1], span });
    else if (event.key === '+' || event.key === '=') this.scale(0.8, { u, v });
    else if (event.key === '-') this.scale(1.25, { u, v });
    else return;
    event.preventDefault();
  }
}
