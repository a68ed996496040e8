import type { Signal, WritableSignal } from '@angular/core';
import type { BlendDocument, BlendSurface, LiveProgram, Material, MaterialPrograms, Sources, Values } from '@pebble/core';
import type { KeyedSet } from '@pebble/stage';

/** What of a document the stage needs to know beside its material. */
export interface StageBody {
  extentM: number;
  /** A specimen of our own by its name, or one that was brought in by its id. */
  specimen: string;
}

/**
 * What the stage shows: a blend, and later masters, variants, terrains, bakes and deliveries. The stage's room knows nothing
 * else of the view that it stands in. All but values stays the same object while nothing of it changes.
 */
export abstract class StageSource {
  /** Id of the document, and what the stage needs of it; null while none is open. */
  abstract readonly id: Signal<string | null>;
  abstract readonly body: Signal<StageBody | null>;
  abstract readonly material: Signal<Material | null>;
  /** The material as of the last change of its key: what programs are made from. Values do not come through here. */
  abstract readonly shaped: Signal<{ shape: string; material: Material | null }>;
  abstract readonly program: Signal<LiveProgram | null>;
  abstract readonly values: Signal<Values>;
  /** Whether texture coordinates are moved along the line of sight. */
  abstract readonly parallax: Signal<boolean>;
  /** Textures of everything that is looked up; null until they are all there. */
  abstract readonly slots: Signal<KeyedSet | null>;
  /** What a picture can be made of now: coarse ones stand for others that are on their way (`whole` false). */
  abstract readonly shown: Signal<{ slots: KeyedSet; whole: boolean } | null>;
  abstract readonly sources: Signal<Sources | null>;
  /** Programs of the page's own thread. */
  abstract readonly programs: MaterialPrograms;
  /** What else may sit on an asset, and materials that do. */
  abstract readonly known: Signal<Readonly<Record<string, BlendSurface>>>;
  abstract readonly blends: Signal<Readonly<Record<string, BlendDocument>>>;
  abstract readonly beside: WritableSignal<readonly Material[]>;
  /** Puts the document on another specimen, as a step of its own. */
  abstract lookOn(specimen: string, called: string): void;
}
