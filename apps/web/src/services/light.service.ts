import { Injectable, effect, signal } from '@angular/core';
import type { LightData, SkyName } from '@pebble/core';
import { SKIES, unpackLight } from '@pebble/core';
import { keep } from '../ui/keep';

export type Relief = 'normal' | 'parallax' | 'displaced';

/** How things are lit, on every stage alike: it stays as it is when the blend, the specimen or the view changes. */
export interface LightLook {
  sky: SkyName;
  /** Turn of the sky in radians. */
  turn: number;
  /** Stops. */
  exposure: number;
  /** Vertical field of view in degrees. */
  field: number;
  /** Whether what is brighter than the screen is bent back into its range. */
  mapped: boolean;
  shadow: boolean;
  /** How height is shown: by normals alone, by looking along the line of sight, or by moving vertices. */
  relief: Relief;
  /** Whether edges are smoothed once the picture rests. */
  smooth: boolean;
  /** Nothing of this can be changed by accident while two things are compared. */
  locked: boolean;
}

const USUAL_LIGHT: LightLook = {
  sky: 'overcast',
  turn: 0,
  exposure: 0,
  field: 36,
  mapped: true,
  shadow: true,
  relief: 'normal',
  smooth: true,
  locked: false,
};
const KEY = 'pebble-light';

@Injectable({ providedIn: 'root' })
export class LightService {
  readonly look = signal<LightLook>(USUAL_LIGHT);
  private readonly known = new Map<SkyName, Promise<LightData>>();

  constructor() {
    try {
      const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<LightLook>;
      if (!kept.sky || Object.hasOwn(SKIES, kept.sky)) this.look.set({ ...USUAL_LIGHT, ...kept });
    } catch {
      // What cannot be read is the usual light.
    }
    effect(() => keep(KEY, JSON.stringify(this.look())));
  }

  /** Changes the light, unless it is locked. */
  set(change: Partial<LightLook>): void {
    if (!this.look().locked || 'locked' in change) this.look.update((l) => ({ ...l, ...change }));
  }

  data(sky: SkyName): Promise<LightData> {
    let data = this.known.get(sky);
    if (!data) {
      data = fetch(`/light/${sky}.bin`).then(async (response) => {
        if (!response.ok) throw new Error(`The sky could not be fetched (${response.status}). Reload the page`);
        return unpackLight(new Uint8Array(await response.arrayBuffer()));
      });
      data.catch(() => this.known.delete(sky));
      this.known.set(sky, data);
    }
    return data;
  }
}
