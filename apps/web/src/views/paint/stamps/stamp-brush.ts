import { Injectable, computed, effect, inject, signal } from '@angular/core';
import type { PressedStamp, StampScatter } from '@pebble/core';
import { DEFAULT_STAMP, MATERIAL_ROLES, NO_SCATTER, STAMP_LIMITS, scattered } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import type { NumberField } from '../../../ui/field';
import { keep, kept } from '../../../ui/keep';
import { newSeed } from '../../../ui/new';

/** How stamps are pressed: what every one of them has, and how they differ. */
interface Values {
  radiusM: number;
  strength: number;
  falloff: number;
  byHeight: number;
  scale: number;
  turn: number;
  tint: string;
  /** Its up is up on the picture, as one looks. */
  follows: boolean;
  /** Radii from one to the next along a drag. */
  spacing: number;
  scatter: StampScatter;
}
const KEPT = 'pebble-stamp';
const { radiusM, strength, falloff, byHeight, scale, turn, tint } = DEFAULT_STAMP;
const USUAL: Values = { radiusM, strength, falloff, byHeight, scale, turn, tint, follows: false, spacing: 1, scatter: NO_SCATTER };

const RADIANS = Math.PI / 180;
const share = (label: string, initial: number): NumberField => ({ label, min: 0, max: 1, step: 0.01, factor: 0.01, unit: '%', decimals: 0, initial });
// Chance makes a stamp twice as large or as small at most: what it may be leaves room for that.
export const STAMP_FIELDS = {
  radiusM: {
    label: 'Radius in metres',
    min: 2 * STAMP_LIMITS.radiusM[0],
    max: STAMP_LIMITS.radiusM[1] / 2,
    step: 0.002,
    unit: 'm',
    decimals: 3,
    initial: radiusM,
  },
  strength: share('Strength in per cent', strength),
  falloff: share('Falloff in per cent of the radius', falloff),
  byHeight: share('By height: 0 an even fading, 100 % heights alone', byHeight),
  scale: { label: 'Times its true size', min: 0.05, max: 20, step: 0.01, unit: '×', decimals: 2, initial: 1 },
  turn: { label: 'Turned, in degrees', min: -Math.PI, max: Math.PI, step: RADIANS, factor: RADIANS, unit: '°', decimals: 0, initial: 0 },
  spacing: { label: 'Radii from one stamp to the next along a drag', min: 0.1, max: 10, step: 0.05, unit: 'radii', decimals: 2, initial: 1 },
  turnBy: { label: 'Turned by chance, degrees either way', min: 0, max: Math.PI, step: RADIANS, factor: RADIANS, unit: '°', decimals: 0, initial: 0 },
  scaleBy: share('Larger or smaller by chance, in per cent', 0),
  tintBy: share('Darker by chance, in per cent', 0),
} as const satisfies Record<string, NumberField>;

/** The stamp in the hand: a surface, and how it is pressed. */
@Injectable()
export class StampBrush {
  private readonly documents = inject(DocumentsService);
  private readonly all = this.documents.list('surface');
  private readonly assets = this.documents.list('asset');
  /** What slots wear is their own texture, not a patch. */
  private readonly worn = computed(() => new Set(this.assets().flatMap((a) => Object.values(a.body.slots).map((s) => s.blend))));
  readonly values = signal<Values>({ ...USUAL, ...(JSON.parse(kept(KEPT) ?? '{}') as Partial<Values>) });
  private readonly chosen = signal<string | null>(null);
  /** Surfaces that can be stamped: those finished for a mesh are no patches. */
  readonly surfaces = computed(() => {
    const below = new Set(this.all().flatMap((s) => s.body.stamped?.on ?? []));
    return this.all().filter(
      ({ id, body }) => !body.stamped && !below.has(id) && !this.worn().has(id) && MATERIAL_ROLES.some((role) => body.maps[role]),
    );
  });
  /** What is stamped. */
  readonly surface = computed(() => this.surfaces().find((s) => s.id === this.chosen()) ?? this.surfaces().at(0) ?? null);

  constructor() {
    effect(() => keep(KEPT, JSON.stringify(this.values())));
  }

  choose = (id: string): void => this.chosen.set(id);
  set = (change: Partial<Values>): void => this.values.update((v) => ({ ...v, ...change }));
  put = <K extends keyof Values>(key: K, value: Values[K]): void => this.values.update((v) => ({ ...v, [key]: value }));
  scatter = (key: keyof StampScatter, by: number): void => this.values.update((v) => ({ ...v, scatter: { ...v.scatter, [key]: by } }));
  /** A radius that goes with something of a size in metres, where the one at hand does not. */
  fit(sizeM: number): void {
    const { radiusM: r } = this.values();
    if (r < sizeM / 500 || r > sizeM / 6) this.set({ radiusM: Number((sizeM / 24).toPrecision(1)) });
  }
  /** A wider or narrower one, by a tenth. */
  resize = (times: number): void => {
    const { min, max } = STAMP_FIELDS.radiusM;
    this.set({ radiusM: Math.min(max, Math.max(min, this.values().radiusM * times)) });
  };

  /** One to be pressed at a place. @param pressure of a pen, 0–1 @param up on the picture */
  stampAt(at: [number, number, number], up: [number, number, number], pressure: number, order: number): PressedStamp | null {
    const surface = this.surface();
    if (!surface) return null;
    const { follows, scatter } = this.values();
    const v = this.values();
    const seed = newSeed();
    const own = {
      radiusM: v.radiusM,
      strength: v.strength * pressure,
      falloff: v.falloff,
      byHeight: v.byHeight,
      scale: v.scale,
      turn: v.turn,
      tint: v.tint,
    };
    return scattered({ ...own, at, ...(follows ? { up } : {}), order, surface: surface.id, seed }, scatter, seed);
  }
}
