import { ScrollingModule } from '@angular/cdk/scrolling';
import type { CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  computed,
  inject,
  linkedSignal,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import type { JobView } from '@pebble/contracts';
import type { SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS } from '@pebble/core';

/** A surface on the wall, or one that is being made. */
type Stone = { id: string; surface: SurfaceDocument; job?: undefined } | { id: string; job: JobView; surface?: undefined };

const LEAST_WIDTH = 216;
const PADDING = 24;
/** Height of a row of pebbles: pebble, name, dots. */
export const ROW = 186;

/**
 * Pebbles in rows; only the rows that are near the window are in the page. The list
 * has the focus, so arrow keys go on when a row leaves the page.
 */
@Component({
  selector: 'pb-wall',
  imports: [ScrollingModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './wall.html',
  styleUrl: './wall.scss',
})
export class Wall {
  readonly surfaces = input.required<readonly { id: string; body: SurfaceDocument }[]>();
  readonly making = input<readonly JobView[]>([]);
  readonly chosenId = input<string | null>(null);
  readonly picked = input<readonly string[]>([]);
  readonly chose = output<{ id: string; add: boolean }>();
  readonly cancelled = output<string>();
  /** Where the keys are: runs ahead of `chosenId`, which comes back with the next change of the page. */
  private readonly at = linkedSignal(() => this.chosenId());
  readonly row = ROW;
  private readonly width = signal(1200);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly viewport = viewChild<CdkVirtualScrollViewport>('viewport');
  readonly columns = computed(() => Math.max(1, Math.floor((this.width() - 2 * PADDING) / LEAST_WIDTH)));
  readonly rows = computed(() => {
    const stones: Stone[] = [...this.surfaces().map(({ id, body }) => ({ id, surface: body })), ...this.making().map((job) => ({ id: job.id, job }))];
    const n = this.columns();
    return Array.from({ length: Math.ceil(stones.length / n) }, (_, i) => stones.slice(i * n, (i + 1) * n));
  });

  constructor() {
    const observer = new ResizeObserver(([entry]) => {
      this.width.set(entry.contentRect.width);
      // The viewport does not see by itself that its height changed.
      this.viewport()?.checkViewportSize();
    });
    observer.observe(this.host.nativeElement);
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  dots = (s: SurfaceDocument): string[] => ROLES.filter((r) => s.maps[r]);
  about = (s: SurfaceDocument): string =>
    this.dots(s)
      .map((r) => ROLE_FACTS[r as keyof typeof ROLE_FACTS].label)
      .join(', ');
  byPlace = (index: number): number => index;

  choose = (id: string, event: MouseEvent): void => this.chose.emit({ id, add: event.ctrlKey || event.metaKey || event.shiftKey });

  key(event: KeyboardEvent): void {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: this.columns(), ArrowUp: -this.columns() }[event.key];
    const list = this.surfaces();
    const at = list.findIndex((s) => s.id === this.at());
    const next = step === undefined ? undefined : list[at + step];
    if (step === undefined) return;
    event.preventDefault();
    if (!next) return;
    this.at.set(next.id);
    this.chose.emit({ id: next.id, add: false });
    this.reveal(at + step);
  }

  private reveal(index: number): void {
    const viewport = this.viewport();
    if (!viewport) return;
    const top = Math.floor(index / this.columns()) * ROW;
    const offset = viewport.measureScrollOffset();
    if (top < offset) viewport.scrollToOffset(top);
    else if (top + ROW > offset + viewport.getViewportSize()) viewport.scrollToOffset(top + ROW - viewport.getViewportSize());
  }
}
