/** Strokes of one brush: what is lost of one must not be lost of the next. */
export class Strokes<P> {
  private last: Stroke<P> | null = null;

  begin(work: StrokeWork<P>): Stroke<P> {
    return (this.last = new Stroke(work, this.last as Stroke<unknown> | null));
  }
}

/** What a stroke of a kind of brush does. */
export interface StrokeWork<P> {
  /** Makes the brush ready; the strokes before it have ended. */
  begin?: () => Promise<unknown>;
  /** Works on points, which came since the last ones. */
  send: (points: P[]) => Promise<void>;
  /** All points are worked on. @param kept false where the stroke was lost */
  end: (kept: boolean) => Promise<void>;
  /** Something of it failed: nothing of it counts. */
  fail: (error: unknown) => void;
}

/**
 * A stroke that is worked on while its points still come: one lot after the other, then its end. A failure ends it, and
 * what comes afterwards is left alone, so that the next stroke begins anew.
 */
export class Stroke<P> {
  private readonly points: P[] = [];
  private ended: boolean | null = null;
  private working = false;
  private over = false;
  private settle: () => void = () => undefined;
  /** Once it has ended, however. */
  readonly done = new Promise<void>((resolve) => (this.settle = resolve));
  private ready: (() => Promise<unknown>) | null;

  /** @param before a stroke of the same brush that may not have ended yet */
  constructor(
    private readonly work: StrokeWork<P>,
    before: Stroke<unknown> | null = null,
  ) {
    const waits = before && !before.ending ? before.done : null;
    const ready = async () => {
      if (waits) await waits;
      await work.begin?.();
    };
    this.ready = waits || work.begin ? ready : null;
  }
  private ending = false;

  /** Whether points still come. */
  get open(): boolean {
    return this.ended === null && !this.over;
  }

  add(...points: P[]): void {
    this.points.push(...points);
    void this.go();
  }

  end(kept: boolean): void {
    this.ended ??= kept;
    void this.go();
  }

  private async go(): Promise<void> {
    if (this.working || this.over) return;
    this.working = true;
    try {
      const { ready } = this;
      this.ready = null;
      if (ready) await ready();
      while (this.points.length) await this.work.send(this.points.splice(0));
      if (this.ended === null) return;
      this.over = true;
      await this.work.end(this.ended);
    } catch (error) {
      this.over = true;
      this.work.fail(error);
    } finally {
      this.working = false;
      if (this.over) {
        this.ending = true;
        this.settle();
      }
    }
  }
}
