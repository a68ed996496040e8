import { Injectable, inject, signal } from '@angular/core';
import type { Mesh, Orbit } from '@pebble/core';
import { eyeOf } from '@pebble/core';
import { TerrainDetailService } from '../services/terrain-detail.service';
import { NoticesService } from '../services/notices.service';
import { Newest } from '../ui/latest';
import type { GroundOn } from '../workers/terrain-protocol';

/** Milliseconds without a move before a terrain is made as fine as it is seen. */
const REST_MS = 140;
/** Pixels by which a vertex that is left out may be off. */
const TOLERANCE_PX = 0.75;

/** The terrain on the stage as fine as it is seen from where one looks: a mesh that stands for its own. */
@Injectable()
export class TerrainDetails {
  private readonly details = inject(TerrainDetailService);
  private readonly notices = inject(NoticesService);
  private readonly asking = new Newest();
  /** What is shown in place of a form; null while nothing is. */
  readonly shown = signal<{ of: Mesh; mesh: Mesh; tolerancePx: number } | null>(null);

  /** Looks at a terrain from an eye, once that rests. Gives what gives the look up. @param form the mesh that it stands for */
  look(form: Mesh, { terrain, heights }: Pick<GroundOn, 'terrain' | 'heights'>, extentM: number, orbit: Orbit, heightPx: number): () => void {
    const going = this.asking.begin();
    const [x, y, z] = eyeOf(orbit);
    const sight = { eye: [x, y, z] as const, pixelsPerMetre: heightPx / (2 * Math.tan(orbit.field / 2)), tolerancePx: TOLERANCE_PX };
    const timer = setTimeout(() => {
      this.details.run('detail', { terrain, heights, extentM, sight }).then(
        ({ mesh, tolerancePx }) => going() && this.shown.set({ of: form, mesh, tolerancePx }),
        (error: unknown) => going() && this.notices.error(error),
      );
    }, REST_MS);
    return () => clearTimeout(timer);
  }
  end(): void {
    this.asking.end();
    this.shown.set(null);
  }
}
