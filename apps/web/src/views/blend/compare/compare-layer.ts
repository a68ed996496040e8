import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { DocumentsService } from '../../../services/documents.service';
import { StatesService } from '../../../services/states.service';
import { follow } from '../../../ui/follow';
import { BlendModel } from '../blend-model';
import { Compare } from './compare';
import { closedByEscape } from '../../../ui/escape';

/** Steps that can be gone back to from the menu. */
const STEPS = 10;

/** Over the stage: another state of the blend left of the wipe, or the difference of both. */
@Component({
  selector: 'pb-compare',
  imports: [MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #over [class.none]="!compare.taken()" [style.clip-path]="clip()"></canvas>
    @if (compare.active() && compare.mode() === 'wipe' && compare.taken()) {
      <div
        class="wipe"
        role="slider"
        tabindex="0"
        aria-label="Wipe; arrow keys move it"
        aria-valuemin="0"
        aria-valuemax="100"
        [attr.aria-valuenow]="(compare.wipe() * 100).toFixed(0)"
        [style.left.%]="compare.wipe() * 100"
        (pointerdown)="drag($event)"
        (keydown)="key($event)"
      >
        <i></i>
      </div>
    }
    <div class="bar">
      @if (compare.other(); as other) {
        <span class="pill"
          >{{ other.label }} <span class="quiet">against</span>
          <button class="link" [matMenuTriggerFor]="rightMenu" (menuOpened)="read()" aria-label="What is at the right">
            {{ compare.right()?.label ?? 'now' }}
          </button>
          @if (compare.taken(); as t) {
            <b class="num">most {{ t.most }}, mean {{ t.mean.toFixed(2) }} of 255</b>
          } @else {
            <span class="quiet">taking it …</span>
          }
        </span>
        <button
          class="pill"
          [class.on]="compare.mode() === 'difference'"
          [attr.aria-pressed]="compare.mode() === 'difference'"
          (click)="compare.mode.set(compare.mode() === 'wipe' ? 'difference' : 'wipe')"
        >
          difference
        </button>
        <button class="pill" (click)="compare.end()">end</button>
      } @else {
        <button class="pill" [matMenuTriggerFor]="menu" (menuOpened)="read()">compare …</button>
      }
    </div>
    <mat-menu #menu="matMenu">
      @if (model.selected() && model.selectedId() !== model.groundId()) {
        <button mat-menu-item (click)="without()">without {{ model.selected()?.name }}</button>
      }
      @for (state of states(); track $index) {
        <button mat-menu-item (click)="compare.begin({ label: 'named: ' + state.name, version: state.version })">named: {{ state.name }}</button>
      }
      @for (step of steps(); track step.version) {
        <button mat-menu-item (click)="compare.begin({ label: 'before: ' + step.label, version: step.version - 1 })">before: {{ step.label }}</button>
      } @empty {
        <button mat-menu-item disabled>nothing was changed yet</button>
      }
    </mat-menu>
    <mat-menu #rightMenu="matMenu">
      <button mat-menu-item (click)="compare.against(null)">now</button>
      @for (state of states(); track $index) {
        <button mat-menu-item (click)="compare.against({ label: 'named: ' + state.name, version: state.version })">named: {{ state.name }}</button>
      }
      @for (step of steps(); track step.version) {
        <button mat-menu-item (click)="compare.against({ label: 'after: ' + step.label, version: step.version })">after: {{ step.label }}</button>
      }
    </mat-menu>
  `,
  styles: `
    .link {
      color: var(--glaze);
      text-decoration: underline;
    }
    :host {
      position: absolute;
      inset: 0;
      pointer-events: none;
    }
    canvas {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    .none {
      display: none;
    }
    .wipe {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 24px;
      margin-left: -12px;
      cursor: ew-resize;
      pointer-events: auto;
      touch-action: none;
    }
    .wipe i {
      position: absolute;
      left: 11px;
      top: 0;
      bottom: 0;
      width: 2px;
      background: #fff;
      box-shadow: 0 0 0 1px #0006;
    }
    .bar {
      position: absolute;
      left: 12px;
      top: 50px;
      display: flex;
      gap: 6px;
      pointer-events: auto;
      background: var(--panel);
      border-radius: 16px;
      padding: 2px;
    }
    b {
      font-weight: 500;
      margin-left: 8px;
    }
  `,
})
export class CompareLayer {
  readonly model = inject(BlendModel);
  readonly compare = inject(Compare);
  private readonly documents = inject(DocumentsService);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('over');
  readonly clip = computed(() => (this.compare.mode() === 'wipe' ? `inset(0 ${100 - this.compare.wipe() * 100}% 0 0)` : 'none'));
  private readonly named = inject(StatesService);
  readonly states = signal<readonly { name: string; version: number }[]>([]);
  readonly steps = computed(() =>
    this.documents
      .history(this.model.id())
      .steps.filter((s) => s.done)
      .slice(-STEPS)
      .reverse(),
  );

  constructor() {
    closedByEscape(() => this.compare.end(), this.compare.active);
    effect(() => {
      const taken = this.compare.taken();
      const canvas = this.canvas().nativeElement;
      const picture = this.compare.mode() === 'wipe' ? taken?.picture : taken?.difference;
      if (!picture) return;
      Object.assign(canvas, { width: picture.width, height: picture.height });
      canvas.getContext('2d')?.putImageData(picture, 0, 0);
    });
    effect(() => {
      // What changes the picture makes what was taken out of date.
      this.model.blend();
      untracked(() => this.compare.stale());
    });
  }

  read(): void {
    const id = this.model.id();
    if (!id) return;
    this.documents.readHistory(id);
    // Without them the steps are still there to choose from.
    void this.named.of(id).then(
      (states) => this.states.set(states),
      () => this.states.set([]),
    );
  }
  without(): void {
    const id = this.model.selectedId();
    if (id) void this.compare.begin({ label: `left: without ${this.model.selected()?.name}`, without: id });
  }
  drag(event: PointerEvent): void {
    const { width } = this.canvas().nativeElement.getBoundingClientRect();
    const host = (event.currentTarget as HTMLElement).parentElement?.getBoundingClientRect();
    follow(event, (dx) => this.move(dx / (width || host?.width || 1)));
  }
  key(event: KeyboardEvent): void {
    const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    this.move(by * (event.shiftKey ? 10 : 1));
  }
  private move(by: number): void {
    this.compare.wipe.update((w) => Math.min(1, Math.max(0, w + by)));
  }
}
