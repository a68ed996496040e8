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
import type { SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS } from '@pebble/core';

/** A thing on the wall: its picture, its name, and what there is of it, as dots or in words. */
export interface Stone {
  id: string;
  name: string;
  thumbnail: string | null;
  dots: number;
  doubtful: boolean;
  about: string;
  text?: string;
}
/** A thing on the wall, or one that is being made. */
type Place = { id: string; stone: Stone; job?: undefined } | { id: string; job: JobView; stone?: undefined };

export function stoneOfSurface(id: string, { name, thumbnail, maps, notes }: SurfaceDocument): Stone {
  const roles = ROLES.filter((r) => maps[r]);
  return { id, name, thumbnail, dots: roles.length, doubtful: notes.length > 0, about: roles.map((r) => ROLE_FACTS[r].label).join(', ') };
}

export function stoneOfSpecimen(id: string, { name, thumbnail, parts, notes }: SpecimenDocument): Stone {
  const finest = Object.values(parts).filter((p) => p.level === 0);
  const triangles = finest.reduce((n, p) => n + p.triangles, 0).toLocaleString('en');
  const text = `${finest.length} ${finest.length === 1 ? 'part' : 'parts'}, ${triangles} triangles`;
  return { id, name, thumbnail, dots: 0, doubtful: notes.length > 0, about: notes.join(' '), text };
}

const MIN_WIDTH = 216;
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
  readonly stones = input.required<readonly Stone[]>();
  readonly label = input('Surfaces');
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
  readonly columns = computed(() => Math.max(1, Math.floor((this.width() - 2 * PADDING) / MIN_WIDTH)));
  readonly rows = computed(() => {
    const places: Place[] = [...this.stones().map((stone) => ({ id: stone.id, stone })), ...this.making().map((job) => ({ id: job.id, job }))];
    const n = this.columns();
    return Array.from({ length: Math.ceil(places.length / n) }, (_, i) => places.slice(i * n, (i + 1) * n));
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

  byPlace = (index: number): number => index;

  choose = (id: string, event: MouseEvent): void => this.chose.emit({ id, add: event.ctrlKey || event.metaKey || event.shiftKey });

  key(event: KeyboardEvent): void {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: this.columns(), ArrowUp: -this.columns() }[event.key];
    const list = this.stones();
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
