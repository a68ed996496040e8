import { Injectable, inject } from '@angular/core';
import type { BlendDocument } from '@pebble/core';
import { follow } from '../../../ui/follow';
import { BlendModel } from '../blend-model';

/** How near the cut the pointer counts as on it, in extents. */
const NEAR = 0.03;

/** The cut line: where it is seen, dragged on the flat, stepped by keys, drawn across the specimen. */
@Injectable()
export class StageCut {
  private readonly model = inject(BlendModel);

  /** Its ends, and the place along it that is pointed at, as `place` puts them. Called within a computation. */
  line<P>(place: (u: number, v: number) => P): { a: P; b: P; at: P | null } | null {
    const cut = this.model.cut();
    if (!cut) return null;
    const along = this.model.along();
    const at = along === null ? null : place(cut.ax + (cut.bx - cut.ax) * along, cut.ay + (cut.by - cut.ay) * along);
    return { a: place(cut.ax, cut.ay), b: place(cut.bx, cut.by), at };
  }

  /** @param perPixel extents a pixel of the flat */
  drag(event: PointerEvent, end: 'a' | 'b' | 'both', perPixel: number): void {
    follow(
      event,
      (dx, dy) =>
        this.model.draft(({ cut }) => {
          for (const one of ['a', 'b'] as const) {
            if (end !== 'both' && end !== one) continue;
            cut[`${one}x`] += dx * perPixel;
            cut[`${one}y`] += dy * perPixel;
          }
        }),
      (kept) => (kept ? this.model.commit('Move the cut') : this.model.giveUp()),
    );
  }

  key(event: KeyboardEvent, end: 'a' | 'b'): void {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!by) return;
    event.preventDefault();
    const step = event.shiftKey ? 0.05 : 0.01;
    this.model.edit('Move the cut', ({ cut }) => {
      cut[`${end}x`] += by[0] * step;
      cut[`${end}y`] += by[1] * step;
    });
  }

  /**
   * Draws it from where the specimen is pressed to where it is let go; the first end comes to lie in the first extent.
   * @param at the coordinate that is seen under the pointer
   * @returns false beside the specimen
   */
  draw(event: PointerEvent, at: (e: PointerEvent) => [number, number] | null): boolean {
    const from = at(event);
    if (!from) return false;
    const [du, dv] = from.map(Math.floor);
    follow(
      event,
      (_, __, e) => {
        const to = at(e);
        if (to) this.model.draft((d) => void (d.cut = { ax: from[0] - du, ay: from[1] - dv, bx: to[0] - du, by: to[1] - dv }));
      },
      (kept) => {
        this.model.cutting.set(false);
        if (kept) this.model.commit('Draw the cut on the specimen');
        else this.model.giveUp();
      },
    );
    return true;
  }
}

/** How far along the cut a place lies, 0–1; null away from it. */
export function alongCut(cut: BlendDocument['cut'] | null, u: number, v: number): number | null {
  if (!cut) return null;
  const [dx, dy] = [cut.bx - cut.ax, cut.by - cut.ay];
  const long = dx * dx + dy * dy || 1;
  const t = ((u - cut.ax) * dx + (v - cut.ay) * dy) / long;
  const off = Math.hypot(cut.ax + t * dx - u, cut.ay + t * dy - v);
  return t >= 0 && t <= 1 && off < NEAR ? t : null;
}
