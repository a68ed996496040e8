import type { Brush, StrokeAim } from './brush';
import { falloffAt, letThrough } from './brush';

/**
 * How far a stroke has gone at each place: as far as the strongest dab that reached it, so that how often the pointer
 * reports does not count.
 */
export class Stroke {
  /** Places that it has changed, each once. */
  readonly touched: number[] = [];
  private readonly gone: Float32Array;
  /** What noise lets through; negative where nobody asked yet. */
  private readonly through: Float32Array;

  /** @param noiseAt noise in [0, 1] at a place, asked for once a stroke where it is broken up */
  constructor(
    readonly brush: Brush,
    readonly aim: StrokeAim,
    places: number,
    private readonly noiseAt: (place: number) => number,
  ) {
    this.gone = new Float32Array(places);
    this.through = new Float32Array(brush.broken.by > 0 ? places : 0).fill(-1);
  }

  /** A dab at a distance in metres, weakened by the pressure of a pen, 0–1. Tells whether the place went further. */
  reach(place: number, away: number, pressure: number): boolean {
    const most = this.brush.strength * pressure * falloffAt(this.brush, away);
    if (most <= this.gone[place]) return false;
    const far = most * this.letThrough(place);
    if (far <= this.gone[place]) return false;
    if (!this.gone[place]) this.touched.push(place);
    this.gone[place] = far;
    return true;
  }

  private letThrough(place: number): number {
    if (!this.through.length) return 1;
    if (this.through[place] < 0) this.through[place] = letThrough(this.brush.broken, this.noiseAt(place));
    return this.through[place];
  }

  /** A value as far as the stroke has taken it. @param around the mean of what lies around */
  take(place: number, was: number, around: () => number): number {
    const aimed = this.aim === 'smooth' ? around() : Number(this.aim === 'add');
    return was + (aimed - was) * this.gone[place];
  }
}
