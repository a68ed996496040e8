import { ChangeDetectionStrategy, ChangeDetectorRef, Component, ElementRef, computed, inject, input, output, signal, viewChild } from '@angular/core';
import { follow } from './follow';
import { parseQuantity, showQuantity } from './quantity';

/** Pixels of dragging before a press becomes a scrub. */
const CLICK_SLACK_PX = 3;

/**
 * A number that is dragged sideways, typed, or stepped with arrow keys (Shift ×10, Alt ÷10); double-click resets it.
 * `live` follows a drag; `done` ends a gesture with its final value. Values are in the stored unit.
 */
@Component({
  selector: 'pb-scrub',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (typing()) {
      <input
        #box
        class="num"
        [value]="text()"
        [attr.aria-label]="label()"
        (keydown.enter)="finish($any($event.target).value, true)"
        (keydown.escape)="$event.preventDefault(); typing.set(false)"
        (blur)="finish($any($event.target).value)"
      />
    } @else {
      <span
        class="num value"
        role="spinbutton"
        tabindex="0"
        [attr.aria-label]="label()"
        [attr.aria-valuenow]="value()"
        [attr.aria-valuetext]="text() + ' ' + unit()"
        [attr.aria-valuemin]="finite(min())"
        [attr.aria-valuemax]="finite(max())"
        [attr.aria-disabled]="disabled()"
        (pointerdown)="press($event)"
        (dblclick)="reset()"
        (keydown)="key($event)"
        >{{ text() }}<span class="unit" [hidden]="!unit()">{{ unit() }}</span>
      </span>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
    }
    .value {
      color: var(--glaze);
      cursor: ew-resize;
      touch-action: none;
      user-select: none;
      border-radius: 6px;
      padding: 1px 3px;
      white-space: nowrap;
    }
    .value:hover {
      background: var(--glaze-soft);
    }
    .unit {
      margin-left: 0.4em;
      color: var(--quiet);
    }
    input {
      width: 74px;
      border: 0;
      background: var(--glaze-soft);
      border-radius: 6px;
      padding: 1px 3px;
      outline: 2px solid var(--glaze);
    }
  `,
})
export class ScrubField {
  readonly value = input.required<number>();
  /** A bound that there is; none where the number may be anything. */
  finite = (bound: number): number | null => (Number.isFinite(bound) ? bound : null);
  readonly label = input.required<string>();
  readonly min = input(-Infinity);
  readonly max = input(Infinity);
  /** Change a pixel of dragging, and an arrow key: in the stored unit. */
  readonly step = input(0.01);
  readonly factor = input(1);
  readonly unit = input('');
  readonly decimals = input(2);
  readonly whole = input(false);
  readonly initial = input<number | null>(null);
  readonly disabled = input(false);
  readonly live = output<number>();
  readonly done = output<number>();
  readonly typing = signal(false);
  readonly text = computed(() => showQuantity(this.value(), this.quantity()));
  private readonly quantity = computed(() => ({ factor: this.factor(), unit: this.unit(), decimals: this.decimals() }));
  private readonly box = viewChild<ElementRef<HTMLInputElement>>('box');
  private readonly detector = inject(ChangeDetectorRef);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);

  private hold(v: number): number {
    const held = Math.min(this.max(), Math.max(this.min(), v));
    return this.whole() ? Math.round(held) : held;
  }

  press(event: PointerEvent): void {
    if (this.disabled() || event.button !== 0) return;
    const target = event.target as HTMLElement;
    const from = this.value();
    const { clientX: x, pointerId } = event;
    let moved = false;
    let last = from;
    follow(
      event,
      (_, __, e) => {
        if (!moved && Math.abs(e.clientX - x) < CLICK_SLACK_PX) return;
        if (!moved) target.setPointerCapture(pointerId);
        moved = true;
        last = this.hold(from + (e.clientX - x) * this.step() * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1));
        this.live.emit(last);
      },
      (kept) => {
        if (moved) this.done.emit(kept ? last : from);
        else if (kept) this.type();
      },
    );
  }

  /** Opens the box at once, so that no key is lost; `first` is what was typed to open it. */
  private type(first?: string): void {
    this.typing.set(true);
    this.detector.detectChanges();
    const box = this.box()?.nativeElement;
    if (!box) return;
    box.focus();
    if (first === undefined) box.select();
    else box.value = first;
  }

  /** @param byKey the next key is for the field, at once */
  finish(text: string, byKey = false): void {
    if (!this.typing()) return;
    this.typing.set(false);
    if (byKey) this.detector.detectChanges();
    const back = () => this.host.nativeElement.querySelector<HTMLElement>('.value')?.focus();
    if (byKey) back();
    const parsed = parseQuantity(text, this.value(), this.quantity());
    // What cannot be read leaves the value as it was.
    if (parsed !== null && this.hold(parsed) !== this.value()) this.done.emit(this.hold(parsed));
    if (!byKey) setTimeout(back);
  }

  reset(): void {
    const initial = this.initial();
    this.typing.set(false);
    if (initial !== null && !this.disabled()) this.done.emit(initial);
  }

  key(event: KeyboardEvent): void {
    if (this.disabled()) return;
    const direction = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (direction)
      this.done.emit(this.hold(this.value() + direction * (this.whole() ? 1 : this.step()) * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)));
    else if (event.key === 'Enter') this.type();
    else if (/^[\d.*/+-]$/.test(event.key)) this.type(event.key);
    else if (event.key === 'Home' && Number.isFinite(this.min())) this.done.emit(this.min());
    else if (event.key === 'End' && Number.isFinite(this.max())) this.done.emit(this.max());
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}
