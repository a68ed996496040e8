import type { MaterialPrograms, Mesh, ReliefOf } from '@pebble/core';
import { displaced, sampleRelief } from '@pebble/core';
import { breathe } from '../ui/breathe';
import { Newest } from '../ui/latest';

/** Vertices that are worked out before the page is let in again: a few milliseconds. */
const CHUNK = 1536;
const REST_MS = 140;

/** Moves the vertices of a specimen by the blend's heights, once nothing has changed for a moment; never holds the page. */
export class StageRelief {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly runs = new Newest();
  private away = false;

  constructor(
    private readonly programs: MaterialPrograms,
    private readonly moved: (position: Float32Array | null) => void,
  ) {}

  /** @param own 1 for vertices that the blend lies on; the others stay where they are. Null all of them */
  follow(of: ReliefOf & { mesh: Mesh }, own: Uint8Array | null = null): void {
    clearTimeout(this.timer);
    const going = this.runs.begin();
    this.timer = setTimeout(() => void this.work(going, of, own), REST_MS);
  }

  private async work(going: () => boolean, of: ReliefOf & { mesh: Mesh }, own: Uint8Array | null): Promise<void> {
    const { mesh } = of;
    const count = mesh.position.length / 3;
    const heights = new Float32Array(count);
    for (let first = 0; first < count; first += CHUNK) {
      sampleRelief(this.programs, of, [first, Math.min(count, first + CHUNK)], heights);
      await breathe();
      if (!going()) return;
    }
    if (own) for (let i = 0; i < count; i++) heights[i] *= own[i];
    this.away = true;
    this.moved(displaced(mesh, heights));
  }

  /** Back to where the vertices were. */
  stop(): void {
    clearTimeout(this.timer);
    this.runs.end();
    if (this.away) this.moved(null);
    this.away = false;
  }
}
