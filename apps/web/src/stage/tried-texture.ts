import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { LightData, Orbit, Role, SurfaceDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS, overdrawOf, plume } from '@pebble/core';
import type { TriedPicture, TriedWay } from '@pebble/stage';
import { ComputeService } from '../services/compute.service';
import { DocumentsService } from '../services/documents.service';
import { LightService } from '../services/light.service';
import { NoticesService } from '../services/notices.service';
import { ByKey } from '../ui/latest';
import { StageScene } from './stage-scene';
import { StageSpecimen } from './stage-specimen';

/** Ways in which a texture is tried, each with what it would cost in the target. */
export const TRIALS = [
  { id: 'decal', name: 'Decal', about: 'thrown from where you look' },
  { id: 'card', name: 'Particle cards', about: '24 over the specimen' },
  { id: 'cookie', name: 'Light cookie', about: 'the key light shines through it' },
  { id: 'sky', name: 'Sky', about: 'light from all around' },
] as const satisfies readonly { id: TriedWay | 'sky'; name: string; about: string }[];

/** What is tried, and how. */
export interface Trial {
  surface: string;
  role: Role;
  way: TriedWay | 'sky';
  /** Side of a decal in metres, and repetitions of a cookie. */
  decalM: number;
  times: number;
  additive: boolean;
  heat: boolean;
  /** Where a decal is thrown from. */
  from: Orbit;
}
const share = (v: number): string => (v < 10 ? v.toFixed(1) : v.toFixed(0));

/** A texture of the project in another use, for now: nothing of it is kept. */
@Injectable()
export class TriedTexture {
  private readonly scene = inject(StageScene);
  private readonly on = inject(StageSpecimen);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly lighting = inject(LightService);
  readonly surfaces = inject(DocumentsService).list('surface');
  readonly trial = signal<Trial | null>(null);
  private readonly pictures = signal<ReadonlyMap<string, TriedPicture>>(new Map());
  private readonly lights = signal<ReadonlyMap<string, LightData>>(new Map());
  private readonly asked = new ByKey((error) => this.notices.error(error));

  private readonly body = computed(() => this.surfaces().find((s) => s.id === this.trial()?.surface)?.body ?? null);
  readonly roles = computed(() => rolesOf(this.body()));
  /** The map, and what tells its pixels from others. */
  private readonly map = computed(() => {
    const [trial, body] = [this.trial(), this.body()];
    const entry = trial && body?.maps[trial.role];
    if (!entry) return null;
    const opacity = trial.role === 'opacity' ? undefined : body.maps.opacity;
    return {
      role: trial.role,
      stage: entry.stage,
      opacity: opacity?.stage ?? null,
      key: `${trial.role} ${entry.stage.blob} ${opacity?.stage.blob ?? ''}`,
    };
  });
  /** Whether it is on its way. */
  readonly waits = computed(() => {
    const [trial, map] = [this.trial(), this.map()];
    if (!trial || !map) return false;
    return trial.way === 'sky' ? !this.lights().has(map.key) : !this.pictures().has(map.key);
  });
  /** How often pixels are drawn that cards cover. */
  private readonly overdraw = computed(() =>
    this.trial()?.way === 'card' ? overdrawOf(plume(this.on.bounds(), this.scene.eye()), this.scene.eye()) : null,
  );
  /** What this use costs in the target. */
  readonly price = computed(() => {
    const way = this.trial()?.way;
    const drawn = this.overdraw();
    if (way === 'decal') return 'one draw of the specimen more, 1 sample where it lies';
    if (way === 'card' && drawn) return `each pixel ${share(drawn.mean)} times, at most ${drawn.most}; 1 sample each`;
    if (way === 'cookie' && !this.lighting.look().shadow) return 'Turn the shadow of the key light on: a cookie is thrown with it';
    if (way === 'cookie') return '1 sample more wherever the key light reaches';
    return way === 'sky' ? 'no sample more: it takes the place of the sky' : '';
  });

  constructor() {
    effect(() => {
      const [trial, map] = [this.trial(), this.map()];
      if (trial && map) untracked(() => (trial.way === 'sky' ? this.light(map) : this.fetch(map)));
    });
    effect(() => {
      const [stage, trial, map] = [this.scene.stage(), this.trial(), this.map()];
      const picture = map && this.pictures().get(map.key);
      if (!stage) return;
      if (!trial || trial.way === 'sky' || !picture) return stage.setTried(null, null);
      const { way, from, decalM, times, additive, heat } = trial;
      stage.setTried({ key: map.key, way, from, size: way === 'cookie' ? times : decalM, additive, heat }, picture);
    });
    effect(() => this.scene.plume.set(this.trial()?.way === 'card'));
    effect(() => {
      const [trial, map] = [this.trial(), this.map()];
      this.scene.skyInstead.set((trial?.way === 'sky' && map && this.lights().get(map.key)) || null);
    });
  }

  private fetch({ key, ...args }: NonNullable<ReturnType<TriedTexture['map']>>): void {
    this.asked.ask(
      key,
      '',
      () => this.compute.run('tried', args),
      (picture) => this.pictures.update((m) => new Map(m).set(key, picture)),
    );
  }
  private light({ key, role, stage }: NonNullable<ReturnType<TriedTexture['map']>>): void {
    this.asked.ask(
      `sky ${key}`,
      '',
      () => this.compute.run('sky', { role, stage }),
      (light) => this.lights.update((m) => new Map(m).set(key, light)),
    );
  }

  /** Begins with the first surface that has a base colour, as a decal of a third of the specimen. */
  start(): void {
    const { lo, hi } = this.on.bounds();
    const side = Math.max(...hi.map((v, c) => v - lo[c]));
    const first = this.surfaces().find((s) => s.body.maps.baseColor) ?? this.surfaces().at(0);
    if (!first) return;
    const role = rolesOf(first.body)[0];
    this.trial.set({ surface: first.id, role, way: 'decal', decalM: side / 3, times: 3, additive: true, heat: false, from: this.scene.eye() });
  }
  change(change: Partial<Trial>): void {
    const now = this.trial();
    if (!now) return;
    const body = this.surfaces().find((s) => s.id === (change.surface ?? now.surface))?.body ?? null;
    const roles = rolesOf(body);
    const role = change.role ?? (roles.includes(now.role) ? now.role : roles[0]);
    // Chosen anew it is thrown from where one looks now.
    this.trial.set({ ...now, ...(change.way === 'decal' ? { from: this.scene.eye() } : {}), ...change, role });
  }
  end = (): void => this.trial.set(null);
}

/** Maps that can be tried, base colour first. */
function rolesOf(body: SurfaceDocument | null): Role[] {
  return ROLES.filter((role) => body?.maps[role]).sort((a, b) => Number(b === 'baseColor') - Number(a === 'baseColor'));
}
export const roleName = (role: Role): string => ROLE_FACTS[role].label;
