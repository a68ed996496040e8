import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, effect, inject, untracked, viewChild } from '@angular/core';
import { follow } from '../ui/follow';
import { StageScene } from './stage-scene';

/** The specimen and the flat side by side, turned and moved by pointer, wheel and keys. What lies over them is put in between. */
@Component({
  selector: 'pb-stage-panes',
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
      aria-label="Specimen. Arrow keys turn it"
      (pointerdown)="turn($event)"
      (wheel)="scene.wheel($event)"
      (keydown)="scene.turnKey($event)"
    ></div>
    <ng-content />
    <div
      class="pane flat"
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
      width: 50%;
      height: 100%;
      cursor: grab;
      touch-action: none;
    }
    .pane:focus-visible {
      outline: 2px solid var(--glaze);
      outline-offset: -2px;
    }
    .flat {
      left: 50%;
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

  constructor() {
    this.scene.split = 0.5;
    effect(() => {
      const canvas = this.canvas()?.nativeElement;
      if (canvas) untracked(() => this.scene.open(canvas));
    });
  }

  turn(event: PointerEvent): void {
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    follow(event, (dx, dy, e) => this.scene.dragBy(dx, dy, e.shiftKey || event.button === 1));
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
