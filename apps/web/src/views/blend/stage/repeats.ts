import { Injectable, computed, effect, inject, signal } from '@angular/core';
import type { LayerLaying, Repetition } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { ComputeService } from '../../../services/compute.service';
import { ByKey } from '../../../ui/latest';
import { BlendModel } from '../blend-model';

/** Up to this score repetition stays unnoticed. */
const NOTICED = 0.25;
/** Repetitions across the extent from which it is looked for, and at most: more look the same from where they are seen. */
const TIMES = { least: 1.5, most: 8 };

/** Patches in which a surface takes turns with itself, to begin with: one and a half of its own size. */
export const usualTurns = (sizeM: number): NonNullable<LayerLaying['turns']> => ({ atM: Number((1.5 * sizeM).toPrecision(2)), seed: 1 });

/** Which surfaces of the blend the eye finds repeating over its extent, measured in the background. */
@Injectable()
export class Repeats {
  private readonly model = inject(BlendModel);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly measured = signal<ReadonlyMap<string, Repetition | null>>(new Map());
  private readonly asked = new ByKey((error) => this.notices.error(error));

  /** Layers whose surface comes again within the extent, with what is to be measured. */
  private readonly again = computed(() => {
    const extentM = this.model.blend()?.extentM ?? 1;
    return this.model.layers().flatMap(({ id, name, shows, look, laying }) => {
      const body = shows.kind === 'surface' ? this.model.surfaces()[shows.surface] : undefined;
      const map = body?.maps.baseColor;
      if (!body || !map) return [];
      const sizeM = body.sizeM * (look?.scale ?? 1);
      const times = extentM / sizeM;
      if (times < TIMES.least) return [];
      const laid = Math.min(TIMES.most, 2 ** Math.max(1, Math.round(Math.log2(times))));
      const { turns } = laying ?? {};
      const plain = `${map.blob} ${sizeM.toFixed(4)} ${laid}`;
      // What taking turns makes of it is told before it is chosen, for the layer that is looked at.
      const would = turns ?? (id === this.model.selectedId() ? usualTurns(sizeM) : undefined);
      const keys = { plain, turned: would && `${plain} ${would.atM} ${would.seed}` };
      return [{ id, name, sizeM, laid, stage: map.stage, keys, would, key: turns ? (keys.turned as string) : plain }];
    });
  });
  /** The one that is noticed most, in words; null where none is. */
  readonly warning = computed(() => {
    const seen = this.again().flatMap((a) => {
      const found = this.measured().get(a.key);
      return found && found.score > NOTICED ? [{ ...a, score: found.score }] : [];
    });
    if (!seen.length) return null;
    const most = seen.reduce((a, b) => (b.score > a.score ? b : a));
    const others = seen.length > 1 ? ` and ${seen.length - 1} more` : '';
    return `${most.name.toLowerCase()}${others} ${others ? 'repeat' : 'repeats'} visibly, every ${most.sizeM.toFixed(2)} m (${most.score.toFixed(2)})`;
  });

  /** How much the chosen layer is found to repeat from 2 m, and how much where it takes turns with itself; null where it does not come again. */
  readonly chosen = computed<{ plain: number | null; turned: number | null } | null>(() => {
    const at = this.again().find((a) => a.id === this.model.selectedId());
    const score = (key: string | undefined) => (key === undefined ? null : (this.measured().get(key)?.score ?? null));
    return at ? { plain: score(at.keys.plain), turned: score(at.keys.turned) } : null;
  });

  constructor() {
    effect(() => {
      for (const { keys, would, stage, sizeM, laid } of this.again()) {
        const ask = (key: string, turns: LayerLaying['turns']) =>
          this.asked.ask(
            key,
            key,
            () => this.compute.run('repeats', { stage, sizeM, times: laid, ...(turns ? { turns } : {}) }),
            (made) => this.measured.update((m) => new Map(m).set(key, made)),
          );
        ask(keys.plain, undefined);
        if (keys.turned) ask(keys.turned, would);
      }
    });
  }
}
