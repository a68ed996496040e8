import type { Brush, StrokeAim } from './brush';
import { falloffAt, letThrough } from './brush';

/** Numbers of which few are set: room is made for those around a place once one is. */
class Sparse {
  private readonly blocks: (Float32Array | undefined)[] = [];

  constructor(private readonly elsewhere: number) {}

  get(i: number): number {
    return this.blocks[i >> BLOCK_BITS]?.[i & BLOCK_MASK] ?? this.elsewhere;
  }
  set(i: number, value: number): void {
    const at = i >> BLOCK_BITS;
    const block = (this.blocks[at] ??= this.elsewhere ? new Float32Array(BLOCK_MASK + 1).fill(this.elsewhere) : new Float32Array(BLOCK_MASK + 1));
    block[i & BLOCK_MASK] = value;
  }
}
const BLOCK_BITS = 10;
const BLOCK_MASK = (1 << BLOCK_BITS) - 1;

/** What of a stroke gets to a place, 0–1, beside its strength: patches of noise, a limit. Asked for once a place. */
export interface StrokeLimits {
  /** Noise in [0, 1] at a place, asked for where a brush is broken up. */
  noise(place: number): number;
  /** Share that may be painted there; everywhere where nothing is said. */
  limit?(place: number): number;
}

/**
 * How far a stroke has gone at each place: as far as the strongest dab that reached it, so that how often the pointer
 * reports does not count.
 */
export class Stroke {
  /** Places that it has changed, each once. */
  readonly touched: number[] = [];
  private readonly gone = new Sparse(0);
  /** What limits let through; negative where nobody asked yet. */
  private readonly through: Sparse | null;

  constructor(
    readonly brush: Brush,
    readonly aim: StrokeAim,
    private readonly limits: StrokeLimits,
  ) {
    this.through = brush.broken.by > 0 || limits.limit ? new Sparse(-1) : null;
  }

  /** A dab at a distance in metres, weakened by the pressure of a pen, 0–1. Tells whether the place went further. */
  reach(place: number, away: number, pressure: number): boolean {
    const most = this.brush.strength * pressure * falloffAt(this.brush, away);
    const before = this.gone.get(place);
    if (most <= before) return false;
    const far = most * this.letThrough(place);
    if (far <= before) return false;
    if (!before) this.touched.push(place);
    this.gone.set(place, far);
    return true;
  }

  private letThrough(place: number): number {
    const { through, limits, brush } = this;
    if (!through) return 1;
    let share = through.get(place);
    if (share < 0) {
      share = (brush.broken.by > 0 ? letThrough(brush.broken, limits.noise(place)) : 1) * (limits.limit?.(place) ?? 1);
      through.set(place, share);
    }
    return share;
  }

  /** A value as far as the stroke has taken it. @param around the mean of what lies around */
  take(place: number, was: number, around: () => number): number {
    const { aim, brush } = this;
    const aimed = aim === 'smooth' ? around() : aim === 'set' ? brush.value : Number(aim === 'add');
    return was + (aimed - was) * this.gone.get(place);
  }
}
