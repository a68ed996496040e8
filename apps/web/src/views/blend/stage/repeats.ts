import { Injectable, computed, effect, inject, signal } from '@angular/core';
import type { Repetition } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { ComputeService } from '../../../services/compute.service';
import { ByKey } from '../../../ui/latest';
import { BlendModel } from '../blend-model';

/** Up to this score repetition stays unnoticed. */
const NOTICED = 0.25;
/** Repetitions across the extent from which it is looked for, and at most: more look the same from where they are seen. */
const TIMES = { least: 1.5, most: 8 };

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
    return this.model.layers().flatMap(({ name, shows, look }) => {
      const body = shows.kind === 'surface' ? this.model.surfaces()[shows.surface] : undefined;
      const map = body?.maps.baseColor;
      if (!body || !map) return [];
      const sizeM = body.sizeM * (look?.scale ?? 1);
      const times = extentM / sizeM;
      if (times < TIMES.least) return [];
      const laid = Math.min(TIMES.most, 2 ** Math.max(1, Math.round(Math.log2(times))));
      return [{ name, sizeM, laid, stage: map.stage, key: `${map.blob} ${sizeM.toFixed(4)} ${laid}` }];
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

  constructor() {
    effect(() => {
      for (const { key, stage, sizeM, laid } of this.again())
        this.asked.ask(
          key,
          key,
          () => this.compute.run('repeats', { stage, sizeM, times: laid }),
          (made) => this.measured.update((m) => new Map(m).set(key, made)),
        );
    });
  }
}
