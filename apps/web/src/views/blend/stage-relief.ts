import type { Mesh, Sources, Stack } from '@pebble/core';
import { ReliefSampler, displaced } from '@pebble/core';

/** Vertices that are worked out before the page is let in again: a few milliseconds. */
const CHUNK = 1536;
const REST_MS = 140;

/** Moves the vertices of a specimen by the blend's heights, once nothing has changed for a moment; never holds the page. */
export class StageRelief {
  private readonly sampler = new ReliefSampler();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private run = 0;
  private away = false;

  constructor(private readonly moved: (position: Float32Array | null) => void) {}

  follow(stack: Stack, sources: Sources, mesh: Mesh, spacingM: number): void {
    clearTimeout(this.timer);
    const run = ++this.run;
    this.timer = setTimeout(() => void this.work(run, stack, sources, mesh, spacingM), REST_MS);
  }

  private async work(run: number, stack: Stack, sources: Sources, mesh: Mesh, spacingM: number): Promise<void> {
    const count = mesh.position.length / 3;
    const heights = new Float32Array(count);
    for (let first = 0; first < count; first += CHUNK) {
      this.sampler.sample(stack, sources, mesh, spacingM, [first, Math.min(count, first + CHUNK)], heights);
      await new Promise<void>((resolve) => setTimeout(resolve));
      if (run !== this.run) return;
    }
    this.away = true;
    this.moved(displaced(mesh, heights));
  }

  /** Back to where the vertices were. */
  stop(): void {
    clearTimeout(this.timer);
    this.run++;
    if (this.away) this.moved(null);
    this.away = false;
  }
}
