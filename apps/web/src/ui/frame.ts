import { ChangeDetectionStrategy, Component, ElementRef, inject, input, signal } from '@angular/core';
import { follow } from './follow';
import { keep } from './keep';

const MIN_TRAY = 44;
const MIN_STAGE = 120;
/** Share of its window that a tray takes at most to begin with. */
const HALF = 0.54;

/** Stage above, tray below; the edge between them is dragged, a double-click folds the tray. */
@Component({
  selector: 'pb-frame',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="stage"><ng-content select="[stage]" /></div>
    <div class="tray" [style.height.px]="folded() ? 14 : height()">
      <div
        class="grip"
        role="separator"
        aria-orientation="horizontal"
        aria-label="Height of the tray"
        aria-valuemin="0"
        [attr.aria-valuenow]="folded() ? 0 : height()"
        [attr.aria-valuetext]="folded() ? 'folded' : height() + ' pixels'"
        tabindex="0"
        (pointerdown)="drag($event)"
        (dblclick)="folded.set(!folded())"
        (keydown)="key($event)"
      ></div>
      <div class="content" [inert]="folded()"><ng-content select="[tray]" /></div>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
    }
    .stage {
      flex: 1;
      min-height: 0;
      position: relative;
      overflow: hidden;
      background: var(--grey);
    }
    .tray {
      flex: none;
      position: relative;
      background: var(--panel);
      border-top: 1px solid var(--line);
    }
    .content {
      height: 100%;
      overflow: hidden;
    }
    .grip {
      position: absolute;
      left: 50%;
      top: -6px;
      width: 64px;
      height: 10px;
      margin-left: -32px;
      border-radius: 5px;
      background: var(--panel);
      border: 1px solid var(--edge);
      cursor: ns-resize;
      z-index: 3;
      touch-action: none;
    }
  `,
})
export class Frame {
  /** Key under which the height is remembered, and the height to begin with. */
  readonly name = input.required<string>();
  readonly start = input(320);
  readonly folded = signal(false);
  private readonly own = signal<number | null>(null);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);

  height(): number {
    const room = this.host.nativeElement.clientHeight;
    const chosen = this.own() ?? Number(localStorage.getItem(`pebble-tray-${this.name()}`) || 0);
    // In a low window nobody begins with a stage that is hardly there.
    const kept = chosen || Math.min(this.start(), Math.round(room * HALF) || this.start());
    return Math.max(MIN_TRAY, Math.min(kept, room - MIN_STAGE || kept));
  }

  private set(height: number): void {
    this.own.set(Math.round(height));
    keep(`pebble-tray-${this.name()}`, String(Math.round(height)));
  }

  drag(event: PointerEvent): void {
    const from = this.height();
    follow(event, (_, __, e) => {
      this.folded.set(false);
      this.set(from + event.clientY - e.clientY);
    });
  }

  key(event: KeyboardEvent): void {
    if (event.key === 'ArrowUp') this.set(this.height() + 16);
    else if (event.key === 'ArrowDown') this.set(this.height() - 16);
    else if (event.key === 'Enter') this.folded.set(!this.folded());
    else return;
    event.preventDefault();
  }
}
