import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { LightService } from '../services/light.service';
import { follow } from '../ui/follow';
import { BrushRing } from './brush-ring';
import type { OnPicture, PictureBrush } from './on-picture';
import { pixelsOf } from './on-picture';
import { StageScene } from './stage-scene';

/** The specimen and the flat side by side, turned and moved by pointer, wheel and keys. What lies over them is put in between. */
@Component({
  selector: 'pb-stage-panes',
  imports: [BrushRing],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (n of [scene.generation()]; track n) {
      <canvas #canvas data-testid="stage"></canvas>
    }
    @if (scene.failed(); as message) {
      <div class="failed card">{{ message }}</div>
    }
    <div
      class="pane"
      tabindex="0"
      role="application"
      [attr.aria-label]="brush() ? 'Specimen. Arrow keys turn it, Enter presses in the middle' : 'Specimen. Arrow keys turn it'"
      [class.brush]="brush()"
      [style.width.%]="share() * 100"
      (pointerdown)="press($event)"
      (pointermove)="hover($event)"
      (pointerleave)="leave()"
      (contextmenu)="brush() && $event.preventDefault()"
      (wheel)="scene.wheel($event)"
      (keydown)="key($event)"
    >
      @if (ring(); as at) {
        <pb-brush-ring [at]="at" />
      }
    </div>
    <ng-content />
    <div
      class="pane flat"
      [style.left.%]="share() * 100"
      [style.width.%]="(1 - share()) * 100"
      tabindex="0"
      role="application"
      aria-label="Flat. Arrow keys move it"
      (pointerdown)="pan($event)"
      (wheel)="scene.flatWheel($event)"
      (keydown)="scene.flatKey($event)"
    ></div>
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      overflow: hidden;
      background: var(--grey);
    }
    canvas {
      position: absolute;
      width: 100%;
      height: 100%;
    }
    .pane {
      position: absolute;
      left: 0;
      top: 0;
      height: 100%;
      cursor: grab;
      touch-action: none;
    }
    .pane:focus-visible {
      outline: 2px solid var(--glaze);
      outline-offset: -2px;
    }
    .brush {
      cursor: crosshair;
    }
    .failed {
      position: absolute;
      inset: 10px;
      overflow: auto;
    }
  `,
})
export class StagePanes {
  readonly scene = inject(StageScene);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('canvas');

  private readonly light = inject(LightService);
  /** Share of the width that the specimen has. */
  readonly share = input(0.5);
  /** What presses on the specimen; it is turned where there is none. */
  readonly brush = input<PictureBrush | null>(null);
  /** Where the pointer is over the specimen, in pixels. */
  private readonly pointer = signal<{ x: number; y: number } | null>(null);
  /** How wide the brush reaches there; null beside the mesh. */
  readonly ring = computed(() => {
    const [brush, at] = [this.brush(), this.pointer()];
    const away = brush?.away() ?? null;
    if (!brush || !at || away === null) return null;
    return { ...at, r: pixelsOf(brush.radiusM(), away, (this.light.look().field * Math.PI) / 180, this.scene.size().height) };
  });

  constructor() {
    effect(() => {
      const share = this.share();
      untracked(() => this.scene.divide(share));
    });
    effect(() => {
      const canvas = this.canvas()?.nativeElement;
      if (canvas) untracked(() => this.scene.open(canvas));
    });
  }

  private picture(pane: HTMLElement): OnPicture {
    const box = pane.getBoundingClientRect();
    return {
      place: (e) => ({ x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height }),
      sight: () => ({ eye: this.scene.eye(), aspect: box.width / box.height }),
      turn: (dx, dy) => this.scene.dragBy(dx, dy, false),
    };
  }
  press(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    pane.focus({ preventScroll: true });
    const brush = this.brush();
    if (brush && !brush.waiting() && event.button === 0) return brush.press(event, this.picture(pane));
    follow(event, (dx, dy, e) => this.scene.dragBy(dx, dy, e.shiftKey || event.button === 1));
  }
  hover(event: PointerEvent): void {
    const brush = this.brush();
    if (!brush) return;
    const pane = event.currentTarget as HTMLElement;
    const [on, box] = [this.picture(pane), pane.getBoundingClientRect()];
    this.pointer.set({ x: event.clientX - box.left, y: event.clientY - box.top });
    brush.hover(on.place(event), on.sight());
  }
  leave(): void {
    this.pointer.set(null);
    this.brush()?.leave();
  }
  key(event: KeyboardEvent): void {
    const brush = this.brush();
    if (event.key !== 'Enter' || !brush) return void this.scene.turnKey(event);
    event.preventDefault();
    brush.dab(this.picture(event.currentTarget as HTMLElement).sight());
  }
  pan(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    pane.focus({ preventScroll: true });
    follow(event, (dx, dy) => {
      const { span } = this.scene.flat();
      this.scene.moveFlat((-dx / pane.clientWidth) * span, (-dy / pane.clientWidth) * span);
    });
  }
}
