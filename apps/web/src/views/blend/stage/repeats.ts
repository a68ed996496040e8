import { Injectable, computed, effect, inject, signal } from '@angular/core';
import type { Layer, LayerLaying, Repetition, SurfaceDocument } from '@pebble/core';
import { DEFAULT_FAR } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { ComputeService } from '../../../services/compute.service';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { ByKey } from '../../../ui/latest';
import { BlendModel } from '../blend-model';

/** Up to this score repetition stays unnoticed. */
const NOTICED = 0.25;
/** Repetitions across the extent from which it is looked for. */
const LEAST_TIMES = 1.5;
/** Metres from which it is looked at: as one stands before it; on a terrain from some way off and from afar as well. */
const [BEFORE, WALKED] = [[2], [2, 20, 100]] as const;
/** Ways that hide it, and what each is measured for. */
const HIDING = ['turns', 'cells', 'macro', 'far'] as const;
type Hiding = (typeof HIDING)[number];

/** Scores by distance in metres; null until they are there. */
export type Scores = Readonly<Record<number, number | null>>;
/** How much the chosen layer is found to repeat: without what hides it, as it is, and with each way that it does not use yet. */
export interface Chosen {
  distances: readonly number[];
  plain: Scores;
  now: Scores;
  would: Partial<Record<keyof LayerLaying, Scores>>;
}
/** What is measured of one layer. */
interface Asked {
  layer: Pick<Layer, 'shows' | 'look' | 'laying'>;
  surfaces: Record<string, SurfaceDocument>;
  distanceM: number;
}

/** Which surfaces of the blend the eye finds repeating over its extent, measured in the background as they lie. */
@Injectable()
export class Repeats {
  private readonly model = inject(BlendModel);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly specimen = inject(StageSpecimen);
  private readonly scene = inject(StageScene);
  private readonly measured = signal<ReadonlyMap<string, Repetition | null>>(new Map());
  private readonly asked = new ByKey((error) => this.notices.error(error));
  private readonly onTerrain = computed(() => this.specimen.terrain() !== null);

  /** How each way begins: patches that go with the size of what lies in them. */
  usual({ shows, look }: Pick<Layer, 'shows' | 'look'>): Required<LayerLaying> {
    const sizeM = ((shows.kind === 'surface' ? this.model.surfaces()[shows.surface]?.sizeM : undefined) ?? 1) * (look?.scale ?? 1);
    const metres = (times: number) => Number((times * sizeM).toPrecision(2));
    // Where the extent comes again itself, patches over it would show just that.
    const over = this.onTerrain() ? { over: 'world' as const } : {};
    return {
      turns: { atM: metres(1.5), seed: 1, ...over },
      cells: { atM: metres(0.75), turn: 180, seed: 1, ...over },
      macro: { by: 0.2, atM: metres(5), seed: 1, ...over },
      far: { ...DEFAULT_FAR },
      sides: true,
    };
  }

  /** Layers whose surface comes again within the extent. */
  private readonly again = computed(() => {
    const extentM = this.model.blend()?.extentM ?? 1;
    return this.model.layers().flatMap(({ id, name, shows, look, laying }) => {
      const body = shows.kind === 'surface' ? this.model.surfaces()[shows.surface] : undefined;
      if (shows.kind !== 'surface' || !body?.maps.baseColor) return [];
      const sizeM = body.sizeM * (look?.scale ?? 1);
      if (extentM / sizeM < LEAST_TIMES) return [];
      return [{ id, name, sizeM, shows, look, laying: laying ?? {}, surfaces: { [shows.surface]: body }, map: body.maps.baseColor.blob }];
    });
  });
  private of(at: ReturnType<typeof this.again>[number], laying: LayerLaying, distanceM: number): { key: string; ask: Asked } {
    const { shows, look, surfaces, map, sizeM } = at;
    const hiding = { ...laying };
    delete hiding.sides;
    return {
      key: `${map} ${sizeM.toFixed(4)} ${distanceM} ${JSON.stringify(hiding)}`,
      ask: { layer: { shows, look, laying: hiding }, surfaces, distanceM },
    };
  }
  private readonly distances = computed<readonly number[]>(() => (this.onTerrain() ? WALKED : BEFORE));

  /** The one that is noticed most, in words; null where none is. */
  readonly warning = computed(() => {
    const seen = this.again().flatMap((a) => {
      const found = this.measured().get(this.of(a, a.laying, BEFORE[0]).key);
      return found && found.score > NOTICED ? [{ ...a, score: found.score }] : [];
    });
    if (!seen.length) return null;
    const most = seen.reduce((a, b) => (b.score > a.score ? b : a));
    const others = seen.length > 1 ? ` and ${seen.length - 1} more` : '';
    return `${most.name.toLowerCase()}${others} ${others ? 'repeat' : 'repeats'} visibly, every ${most.sizeM.toFixed(2)} m (${most.score.toFixed(2)})`;
  });

  /** Of the chosen layer; null where it does not come again. */
  readonly chosen = computed<Chosen | null>(() => {
    const at = this.again().find((a) => a.id === this.model.selectedId());
    if (!at) return null;
    const distances = this.distances();
    const scores = (laying: LayerLaying): Scores =>
      Object.fromEntries(distances.map((d) => [d, this.measured().get(this.of(at, laying, d).key)?.score ?? null]));
    const would = Object.fromEntries(this.more(at).map(([way, laying]) => [way, scores(laying)]));
    return { distances, plain: scores({}), now: scores(at.laying), would };
  });
  /** Ways that a layer does not use yet, each with how it would lie then. */
  private more(at: ReturnType<typeof this.again>[number]): [Hiding, LayerLaying][] {
    const usual = this.usual(at);
    return HIDING.filter((way) => !at.laying[way]).map((way) => [way, { ...at.laying, [way]: usual[way] }]);
  }

  constructor() {
    effect(() => {
      // What is seen comes first.
      if (!this.scene.seen()) return;
      for (const at of this.again()) {
        const looked = at.id === this.model.selectedId();
        // What a way would make of it is told before it is chosen, for the layer that is looked at.
        const layings = [at.laying, ...(looked ? [{}, ...this.more(at).map(([, laying]) => laying)] : [])];
        for (const laying of layings)
          for (const distanceM of looked ? this.distances() : BEFORE) {
            const { key, ask } = this.of(at, laying, distanceM);
            this.asked.ask(
              key,
              key,
              () => this.compute.run('repeats', ask),
              (made) => this.measured.update((m) => new Map(m).set(key, made)),
            );
          }
      }
    });
  }
}
