/** A moving frame should take no longer than this; the scale is chosen for it with some room. */
const MOVING_MS = 100;
const AIM_MS = 70;
const REST_MS = 180;
const MIN_SCALE = 0.18;

/** How coarse frames are while something moves, by how long the last ones took. */
export class Pace {
  moving = false;
  private scale = 0.5;
  private rest: ReturnType<typeof setTimeout> | undefined;

  /** @param atRest called when nothing has moved for a moment */
  constructor(private readonly atRest: () => void) {}

  /** Share of full resolution for the next frame. */
  get next(): number {
    return this.moving ? this.scale : 1;
  }

  /** Something moves: coarse frames until it rests. */
  move(): void {
    this.moving = true;
    clearTimeout(this.rest);
    this.rest = setTimeout(() => {
      this.moving = false;
      this.atRest();
    }, REST_MS);
  }

  /** A frame took so long. Pixels cost in proportion to the square of the scale. */
  took(ms: number): void {
    if (this.moving) this.scale = Math.min(1, Math.max(MIN_SCALE, this.scale * Math.min(1.6, Math.sqrt(AIM_MS / Math.max(ms, 4)))));
    else if (ms > MOVING_MS) this.scale = Math.min(this.scale, Math.max(MIN_SCALE, Math.sqrt(AIM_MS / ms)));
  }

  end(): void {
    clearTimeout(this.rest);
  }
}
