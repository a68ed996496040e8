import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { BlendDocument, Coverage, PaintedCue, TerrainTiling } from '@pebble/core';
import { USUAL_TILING, coverageOf, makeCue, nextOrder } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { WorkerClient } from '../../services/worker-client';
import { StageScene } from '../../stage/stage-scene';
import { StageSpecimen } from '../../stage/stage-specimen';
import { Newest } from '../../ui/latest';
import { newKey } from '../../ui/new';
import type { GroundOn, Relief, TerrainRequests, TileFacts, TileTable } from '../../workers/terrain-protocol';
import { BlendModel } from '../blend/blend-model';
import { STRAIGHT } from '../blend/brush/mask-making';

/** Milliseconds without a change before tiles are counted anew. */
const QUIET_MS = 400;

/** The tiles of the terrain that the open blend lies on: what each draws, which draw too much, and without what they would not. */
@Injectable()
export class TerrainTiles {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly scene = inject(StageScene);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  private readonly worker = new WorkerClient<TerrainRequests>(
    () => new Worker(new URL('../../workers/terrain.worker', import.meta.url), { type: 'module' }),
  );
  private readonly counting = new Newest();
  readonly working = signal(false);
  readonly table = signal<TileTable | null>(null);
  /** Why tiles cannot be counted; null while they can. */
  readonly problem = signal<string | null>(null);
  private readonly tiling = computed(() => this.field()?.tiles ?? USUAL_TILING);
  readonly tileM = computed(() => this.tiling().sideM);
  readonly limit = computed(() => this.tiling().layers);
  readonly chosen = signal<TileFacts | null>(null);
  /** What was resolved last. */
  readonly relief = signal<Relief | null>(null);
  /** Whether the stage shows tiles by their layers. */
  readonly heat = signal(false);

  /** The terrain that the blend lies on, by its document; null when it lies on something else. */
  readonly field = computed(() => this.documents.body(this.specimen.name(), 'specimen')?.terrain ?? null);
  private readonly ground = computed<GroundOn | null>(() => {
    const [terrain, blend] = [this.field(), this.model.blend()];
    const body = this.documents.body(this.specimen.name(), 'specimen');
    if (!terrain || !blend || !body) return null;
    return { terrain, heights: body.file.blob, blend, surfaces: this.model.surfaces(), blends: this.model.blends() };
  });
  /** The ground that the table is of. */
  private readonly counted = signal<GroundOn | null>(null);
  /** Whether the table is not of what is there, or another is on its way. */
  readonly busy = computed(() => this.working() || this.counted() !== this.ground());
  readonly over = computed(() => this.table()?.tiles.filter((t) => t.layers.length > this.limit()) ?? []);

  constructor() {
    effect((onCleanup) => {
      const [ground, tileM] = [this.ground(), this.tileM()];
      // What is seen comes first.
      if (ground && !this.scene.seen()) return;
      if (!ground) return untracked(() => this.table.set(null));
      const timer = setTimeout(() => void this.count(ground, tileM), QUIET_MS);
      onCleanup(() => clearTimeout(timer));
    });
    inject(DestroyRef).onDestroy(() => this.worker.end());
  }

  /** The terrain is drawn in other tiles, wherever it is: here, in the tables of a delivery. */
  tile(change: Partial<TerrainTiling>): void {
    const tiles = { ...this.tiling(), ...change };
    this.documents.edit(this.specimen.name(), 'specimen', `Tiles of ${tiles.sideM} m with ${tiles.layers} layers at most`, (d) => {
      if (d.terrain) d.terrain.tiles = tiles;
    });
  }

  private async count(ground: GroundOn, tileM: number): Promise<void> {
    const going = this.counting.begin();
    this.working.set(true);
    try {
      const table = await this.worker.run('tiles', { ground, tileM });
      if (!going()) return;
      this.table.set(table);
      this.problem.set(null);
      const at = this.chosen();
      this.chosen.set(at && (table.tiles.find((t) => t.column === at.column && t.row === at.row) ?? null));
    } catch (error) {
      if (!going()) return;
      this.table.set(null);
      this.problem.set((error as Error).message);
    } finally {
      if (going()) {
        this.counted.set(ground);
        this.working.set(false);
      }
    }
  }

  /** A layer lies where water stands and runs on the terrain: in a mask that can be painted on. */
  async wet(layer: string): Promise<void> {
    const ground = this.ground();
    if (!ground) return;
    this.working.set(true);
    try {
      const { picture } = await this.worker.run('wet', { terrain: ground.terrain, heights: ground.heights });
      this.model.edit(`${ground.blend.layers[layer].name}: where water stands and runs`, (d) => {
        const own = d.layers[layer];
        own.shared = null;
        own.coverage = { [newKey()]: makeCue('painted', { ...STRAIGHT, picture, set: 1, order: 1 }) };
      });
    } catch (error) {
      this.notices.error(error);
    } finally {
      this.working.set(false);
    }
  }

  /** Tiles over the limit do without what is seen least of them; one step. */
  async resolve(): Promise<void> {
    const ground = this.ground();
    if (!ground || !this.over().length) return;
    this.working.set(true);
    try {
      const under = Object.fromEntries(
        this.model.layers().flatMap((l) => {
          const cap = capOf(coverageOf(ground.blend, l));
          return cap?.cue.picture ? [[l.id, cap.cue.picture]] : [];
        }),
      );
      const relief = await this.worker.run('relieve', { ground, tileM: this.tileM(), limit: this.limit(), under });
      this.relief.set(relief);
      this.model.edit(`Resolve ${relief.tiles.length} ${relief.tiles.length === 1 ? 'tile' : 'tiles'}`, (d) => {
        for (const { layer, picture } of relief.caps) hold(d, layer, picture);
      });
    } catch (error) {
      this.notices.error(error);
    } finally {
      this.working.set(false);
    }
  }
}

/** The picture that a coverage is held under by tiles; null where there is none. */
export function capOf(coverage: Readonly<Coverage>): { id: string; cue: PaintedCue } | null {
  for (const [id, cue] of Object.entries(coverage)) if (cue.kind === 'painted' && cue.join === 'atMost' && cue.set === 1) return { id, cue };
  return null;
}
/** Holds the coverage of a layer under a picture; one that it shared becomes its own. */
function hold(d: BlendDocument, id: string, picture: string): void {
  const layer = d.layers[id];
  layer.coverage = structuredClone(coverageOf(d, layer)) as Coverage;
  layer.shared = null;
  const cap = capOf(layer.coverage);
  if (cap) (layer.coverage[cap.id] as PaintedCue).picture = picture;
  else layer.coverage[newKey()] = makeCue('painted', { picture, set: 1, join: 'atMost', ...STRAIGHT, order: nextOrder(layer.coverage) });
}
