import { Injectable, signal } from '@angular/core';

/** A place in metres from the top-left corner of a surface. */
export interface Place {
  x: number;
  y: number;
}
/** What all panes show: the place at their centre and the metres across them. */
export interface StripWindow extends Place {
  acrossM: number;
}

/** What the panes of one strip or of two show, point at and measure, in metres: so two surfaces compare at true scale. */
@Injectable()
export class StripView {
  readonly window = signal<StripWindow>({ x: 0.5, y: 0.5, acrossM: 0.6 });
  readonly pointer = signal<Place | null>(null);
  readonly ruler = signal<{ a: Place; b: Place } | null>(null);

  /** The middle of a surface, or so many repetitions of it across each pane. */
  frame(sizeM: number, repetitions = 0.6): void {
    this.ruler.set(null);
    this.window.set({ x: sizeM * Math.max(0.5, repetitions / 2), y: sizeM / 2, acrossM: sizeM * repetitions });
  }

  pan(dx: number, dy: number): void {
    this.window.update((w) => ({ ...w, x: w.x + dx, y: w.y + dy }));
  }

  /** Zooms about a place that stays where it is. `by` below 1 comes closer. */
  zoom(by: number, at: Place): void {
    this.window.update(({ x, y, acrossM }) => {
      const next = Math.min(1000, Math.max(1e-4, acrossM * by));
      const k = next / acrossM;
      return { x: at.x + (x - at.x) * k, y: at.y + (y - at.y) * k, acrossM: next };
    });
  }
}

/** Length of a scale bar that takes about a third of a width: 1, 2 or 5 times a power of ten metres. */
export function barLength(acrossM: number): number {
  const aim = acrossM / 3;
  const power = 10 ** Math.floor(Math.log10(aim));
  return [5, 2, 1].map((k) => k * power).find((v) => v <= aim * 1.0001) ?? power;
}

/** A length as people say it: 3.2 mm, 24 cm, 1.5 m. */
export function sayLength(metres: number): string {
  const round = (v: number, digits: number) => String(Number(v.toPrecision(digits)));
  if (metres < 0.01) return `${round(metres * 1000, 2)} mm`;
  if (metres < 1) return `${round(metres * 100, 3)} cm`;
  return `${round(metres, 3)} m`;
}
