/** What a stroke of a kind of brush does. */
export interface StrokeWork<P> {
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

  constructor(private readonly work: StrokeWork<P>) {}

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
      while (this.points.length) await this.work.send(this.points.splice(0));
      if (this.ended === null) return;
      this.over = true;
      await this.work.end(this.ended);
    } catch (error) {
      this.over = true;
      this.work.fail(error);
    } finally {
      this.working = false;
    }
  }
}
