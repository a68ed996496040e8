import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { Ground, MasterDocument } from '@pebble/core';
import { firstOutput, pictureKey, reached } from '@pebble/core';
import { MasterService } from '../../services/master.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { coarseOf, stageMaps } from '../../stage/stage-pixels';
import { StageScene } from '../../stage/stage-scene';
import { StageSpecimen } from '../../stage/stage-specimen';
import { breathe } from '../../ui/breathe';
import { Latest } from '../../ui/latest';
import type { MasterAsk, MasterLooks } from '../../workers/master-protocol';
import { THUMB } from '../../workers/master-protocol';
import type { StageMaps } from '../../workers/protocol';
import { MasterModel } from './master-model';

/** How every step looks, what it costs and holds: worked out in a worker, a moment after the picture. */
@Injectable()
export class Looks {
  private readonly model = inject(MasterModel);
  private readonly service = inject(MasterService);
  private readonly specimen = inject(StageSpecimen);
  private readonly scene = inject(StageScene);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly found = signal<MasterLooks | null>(null);
  private readonly latest = new Latest<MasterLooks>(
    (found) => this.found.set(found),
    (error) => this.notices.error(error),
  );
  /** The operation from which on the graphics driver takes the program no more, and what it says. */
  private readonly refused = signal<{ operation: string; message: string } | null>(null);
  private readonly search = new Latest<{ operation: string; message: string } | null>(
    (found) => this.refused.set(found),
    (error) => this.notices.error(error),
  );
  readonly all = computed<MasterLooks | null>(() => {
    const [found, refused] = [this.found(), this.refused()];
    return found && refused ? { ...found, mistakes: { ...found.mistakes, [refused.operation]: { message: refused.message } } } : found;
  });
  readonly mistakes = computed(() => this.all()?.mistakes ?? {});

  constructor() {
    effect(() => {
      const ground = this.specimen.ground();
      untracked(() => void this.tell(ground).catch((error: Error) => this.notices.error(error)));
    });
    effect(() => {
      const master = this.model.effective();
      const ask = this.ask();
      if (!master || !ask) return untracked(() => this.found.set(null));
      const ports = Object.fromEntries(Object.keys(master.operations).map((id) => [id, firstOutput(master, id, this.model.context())]));
      this.latest.ask(() => this.service.run('looks', { ...ask, ports }));
    });
    effect(() => {
      const [failed, ask] = [this.scene.failed(), untracked(this.ask)];
      if (!failed || !ask) return untracked(() => this.refused.set(null));
      this.search.ask(async () => {
        const operation = await this.service.run('refused', ask);
        return operation === null
          ? null
          : { operation, message: `From here on the graphics driver takes the program no more: simplify what feeds it. ${failed}` };
      });
    });
    effect(() => {
      const [looks, bytes] = [this.all(), this.model.bytes()];
      this.workbench.meter.set(looks && { ...looks.price, bytes });
    });
  }

  /** The ground of the flat, once the worker knows it: steps that look at the mesh are seen on it. */
  private readonly ground = signal('');
  private told = 0;
  private async tell(ground: Ground): Promise<void> {
    const key = `g${++this.told}`;
    const mine = this.told;
    await breathe();
    const grid = Float32Array.from({ length: THUMB * THUMB * 2 }, (_, i) => ((i % 2 ? Math.floor(i / 2 / THUMB) : (i >> 1) % THUMB) + 0.5) / THUMB);
    await this.service.run('ground', { key, planes: ground.along(grid) });
    if (this.told === mine) this.ground.set(key);
  }

  /** The open master with what it may look up. */
  readonly ask = computed<MasterAsk | null>(() => {
    const master = this.model.effective();
    if (!master) return null;
    return { document: master, context: this.model.context(), maps: this.mapsOf(), pictures: this.picturesOf(), ground: this.ground() };
  });
  private readonly mapsOf = computed<Record<string, StageMaps>>(() => {
    const lowered = this.model.lowered();
    const surfaces = this.model.surfaces();
    return Object.fromEntries(
      (lowered?.lists.slots ?? []).flatMap((id) => {
        const surface = surfaces[id];
        if (!surface) return [];
        const maps = stageMaps(surface);
        return [[id, coarseOf(maps) ?? maps]];
      }),
    );
  });

  private readonly picturesOf = computed<MasterAsk['pictures']>(() => {
    const { masks = [], ids = [] } = this.model.lowered()?.lists ?? {};
    const surfaces = this.model.surfaces();
    return Object.fromEntries(
      [...masks, ...ids].flatMap((picture) => {
        if (picture.kind === 'painted') return [];
        const role = picture.kind === 'id' ? 'id' : picture.role;
        const stage = surfaces[picture.surface]?.maps[role]?.stage;
        return stage ? [[pictureKey(picture), { role, stage }]] : [];
      }),
    );
  });

  /** Operations that push the whole past the budget the most, the dearest first. */
  readonly dearest = computed(() => {
    const [looks, master] = [this.all(), this.model.master()];
    if (!looks || !master) return [];
    const used = reached(master);
    return Object.entries(looks.prices)
      .filter(([id]) => used.has(id))
      .sort((a, b) => b[1].operations - a[1].operations)
      .slice(0, 3)
      .map(([id, price]) => ({ id, price, name: nameOf(master, id) }));
  });
}
export const nameOf = (master: MasterDocument, id: string): string => master.operations[id]?.name || (master.operations[id]?.step ?? id);
