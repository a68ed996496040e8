import type { Signal } from '@angular/core';
import { computed, effect, inject } from '@angular/core';
import type { Drawn, LiveProgram, Material, Sources, SurfaceDocument, Values } from '@pebble/core';
import { SOLID, liveProgram, sameItems, sourcesOfPacked } from '@pebble/core';
import type { KeyedSet } from '@pebble/stage';
import { LIGHT_UNITS } from '@pebble/stage';
import { LightService } from '../services/light.service';
import { StagePixels, unkeyed } from './stage-pixels';

/** What the stage is fed of a material: its program while the key stays, its numbers, its pixels as they come in. */
export interface MaterialFeed {
  parallax: Signal<boolean>;
  shaped: Signal<{ shape: string; material: Material | null }>;
  program: Signal<LiveProgram | null>;
  values: Signal<Values>;
  slots: Signal<KeyedSet | null>;
  shown: Signal<{ slots: KeyedSet; whole: boolean } | null>;
  sources: Signal<Sources | null>;
}

/** Makes the feed of a material. Wants an injection context. @param latest reads it without depending on it */
export function materialFeed(material: Signal<Material | null>, latest: () => Material | null): MaterialFeed {
  const light = inject(LightService);
  const pixels = inject(StagePixels);
  const shape = computed(() => material()?.key ?? '');
  // Values do not come through here.
  const shaped = computed(() => ({ shape: shape(), material: latest() }), { equal: (a, b) => a.shape === b.shape });
  const parallax = computed(() => light.look().relief === 'parallax');
  const written = computed<LiveProgram | null>(() => {
    const { material: now } = shaped();
    return now && liveProgram(now, parallax(), LIGHT_UNITS);
  });
  // How it goes over what is behind it is no part of what is written.
  const drawn = computed<Drawn>(() => material()?.drawn ?? SOLID, { equal: (a, b) => a.as === b.as && a.cut === b.cut });
  const program = computed<LiveProgram | null>(() => {
    const now = written();
    return now && { ...now, drawn: drawn() };
  });
  // A document that comes back from the server as it was sent is no reason to draw.
  const values = computed<Values>(() => material()?.values ?? {}, { equal: sameValues });
  const slots = computed<KeyedSet | null>(
    () => {
      const now = material();
      return now && pixels.of(now.slots);
    },
    { equal: sameSlots },
  );
  /** What is there of them meanwhile; null once they are there, or while nothing would do. */
  const coarse = computed<KeyedSet | null>(
    () => {
      const now = material();
      return now && !slots() ? pixels.soon(now.slots) : null;
    },
    { equal: sameSlots },
  );
  const shown = computed<{ slots: KeyedSet; whole: boolean } | null>(() => {
    const [whole, soon] = [slots(), coarse()];
    return whole ? { slots: whole, whole: true } : soon && { slots: soon, whole: false };
  });
  const sources = computed<Sources | null>(() => {
    const now = shown();
    return now && sourcesOfPacked(unkeyed(now.slots));
  });
  return { parallax, shaped, program, values, slots, shown, sources };
}

/** Keeps the pixels coming that a material and those beside it look up. Wants an injection context. */
export function wantPixels(
  material: Signal<Material | null>,
  beside: Signal<readonly Material[]>,
  surfaces: Signal<Readonly<Record<string, SurfaceDocument>>>,
): void {
  const pixels = inject(StagePixels);
  effect(() => {
    const own = material();
    if (own)
      pixels.want(
        [own, ...beside()].map((m) => m.slots),
        surfaces(),
      );
  });
}

function sameValues(a: Values, b: Values): boolean {
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => b[name] && sameItems(a[name], b[name]));
}

/** Another material that looks up the same pixels is no reason to hand them over again. */
const sameSlots = (a: KeyedSet | null, b: KeyedSet | null): boolean =>
  a === b || (!!a && !!b && sameItems(a.surfaces, b.surfaces) && sameItems(a.masks, b.masks) && sameItems(a.ids, b.ids));
