import { Injectable, inject } from '@angular/core';
import type { BlendDocument, Coverage, CuePath, UvSet } from '@pebble/core';
import { MASK_SIDE, NO_CORRECTION, inOrder, makeCue, nextOrder } from '@pebble/core';
import { NoticesService } from '../../../services/notices.service';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { newKey } from '../../../ui/new';
import { BlendModel } from '../blend-model';
import { MaskPainting } from './mask-painting';
import { PaintRules, maskCoordinates } from './paint-rules';

/** What the numbers of a mask are: themselves. */
export const STRAIGHT = { shape: 'straight', centre: 0.5, width: 1 } as const;

/** Masks that begin: empty ones, such as correct a rule, and rules as paint. */
@Injectable()
export class MaskMaking {
  private readonly model = inject(BlendModel);
  private readonly masks = inject(MaskPainting);
  private readonly rules = inject(PaintRules);
  private readonly specimen = inject(StageSpecimen);
  private readonly notices = inject(NoticesService);

  /** A picture of one value, to begin a mask with. */
  even = (value: number): Promise<string> => this.masks.picture(value, null, undefined);

  /** A new mask for a layer, over the extent or on the mesh, which is taken up: one on which nothing is painted, or corrected. */
  async add(layer: string, set: UvSet | undefined, join: 'and' | 'corrected'): Promise<void> {
    try {
      const picture = await this.even(join === 'and' ? 0 : NO_CORRECTION);
      const blend = this.model.blend();
      const own = blend?.layers[layer];
      if (!blend || !own) return;
      const key = newKey();
      const made = into(blend, layer);
      this.model.edit(`${own.name}: ${join === 'and' ? 'a mask to paint' : 'paint over its rule'}`, (d) => {
        const { coverage } = into(d, layer).at;
        coverage[key] = makeCue('painted', { ...STRAIGHT, picture, join, order: nextOrder(coverage), ...(set ? { set } : {}) });
      });
      this.masks.take({ ...made.path, cue: key });
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** What a sentence gives in the place of a layer's, as a picture over a set of the mesh, or over the extent. @throws Error where that cannot be told */
  async pictureOf(coverage: Coverage, layer: string, set: UvSet | undefined): Promise<string> {
    const mesh = set === undefined ? null : this.specimen.ownMesh();
    const values = await this.rules.shares(coverage, layer, mesh ? null : maskCoordinates(MASK_SIDE, MASK_SIDE));
    return this.masks.picture(values, mesh, set);
  }

  /** What the other cues beside the mask that the brush has say becomes paint, and they go: what is seen stays as it is. */
  async copyRule(): Promise<void> {
    const [well, blend] = [this.masks.well(), this.model.blend()];
    if (!well || !blend || this.masks.waiting()) return;
    const { path } = well;
    const rule = Object.fromEntries(inOrder(blend[path.of][path.id].coverage).map(({ id, ...cue }) => [id, cue])) as Coverage;
    const layer = path.of === 'layers' ? path.id : (this.model.layers().find((l) => l.shared === path.id || l.group === path.id)?.id ?? null);
    try {
      const values = await this.masks.shares(rule, layer);
      const others = Object.keys(rule).filter((id) => id !== path.cue);
      this.model.draft((d) => {
        const { coverage } = d[path.of][path.id];
        for (const id of others) delete coverage[id];
        Object.assign(coverage[path.cue], { ...STRAIGHT, join: 'and', amount: 1, inverted: false });
      });
      await this.masks.whole({ what: 'values', values }, 'its rule as paint');
    } catch (error) {
      this.notices.error(error);
    }
  }
}

/** Where the coverage of a layer stands. */
function into(d: BlendDocument, layer: string): { at: { coverage: Coverage }; path: Omit<CuePath, 'cue'> } {
  const { shared } = d.layers[layer];
  return shared !== null && d.coverages[shared]
    ? { at: d.coverages[shared], path: { of: 'coverages', id: shared } }
    : { at: d.layers[layer], path: { of: 'layers', id: layer } };
}
