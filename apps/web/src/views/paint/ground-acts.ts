import { Injectable, inject } from '@angular/core';
import type { BlendDocument, Coverage, Layer, LayerContent, UvSet } from '@pebble/core';
import { coverageOf, inOrder, makeCue, makeLayer, mentions, nextOrder } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { StageSpecimen } from '../../stage/stage-specimen';
import { newKey } from '../../ui/new';
import { BlendModel } from '../blend/blend-model';
import { MaskMaking, STRAIGHT } from '../blend/brush/mask-making';
import { MaskPainting } from '../blend/brush/mask-painting';

/** What is done to the layers of a ground that is in use: only what is named changes. */
@Injectable()
export class GroundActs {
  private readonly model = inject(BlendModel);
  private readonly masks = inject(MaskPainting);
  private readonly making = inject(MaskMaking);
  private readonly specimen = inject(StageSpecimen);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);

  /** Set of coordinates in which masks of this ground lie; undefined over the extent. */
  private readonly set = (): UvSet | undefined => (this.specimen.form().uv1 ? 1 : undefined);
  /** A mask on which nothing is painted. */
  private async nothing(): Promise<Coverage> {
    const set = this.set();
    return { [newKey()]: makeCue('painted', { ...STRAIGHT, picture: await this.making.even(0), order: 1, ...(set ? { set } : {}) }) };
  }
  /** Does what takes the server, and says what went wrong. */
  private async tried(work: () => Promise<void>): Promise<void> {
    await work().catch((error: unknown) => this.notices.error(error));
  }
  private named = (id: string): string => this.model.blend()?.layers[id]?.name ?? id;

  /** Where the open blend is in use, by name: what it lies on, and the documents that show it. */
  private uses(): string[] {
    const [id, blend] = [this.model.id(), this.model.blend()];
    if (!id || !blend) return [];
    const on = this.documents.body(blend.specimen, 'specimen')?.name;
    const kinds = ['asset', 'blend', 'master', 'recipe'] as const;
    const shown = kinds.flatMap((kind) =>
      this.documents
        .list(kind)()
        .flatMap((d) => (d.id !== id && mentions(d.body, id) ? [d.body.name] : [])),
    );
    return [...new Set([...(on ? [on] : []), ...shown])];
  }

  /** A layer on top, of weight zero everywhere: what is painted of it comes to be seen. */
  add = (name: string, shows: LayerContent): Promise<void> =>
    this.tried(async () => {
      const coverage = await this.nothing();
      const key = newKey();
      this.model.edit(`Add ${name} at weight zero`, (d) => {
        d.layers[key] = makeLayer(shows, name, nextOrder(d.layers), { coverage });
      });
      this.model.selectedId.set(key);
      const uses = this.uses();
      this.notices.say(`${name} is there at weight zero${uses.length ? `: on ${uses.join(', ')}` : ''}. Nothing looks different until it is painted`);
      this.masks.take({ of: 'layers', id: key, cue: Object.keys(coverage)[0] });
    });
  /** Shows something else; where it lies stays. */
  replace = (id: string, name: string, shows: LayerContent): void =>
    this.model.edit(`${this.named(id)} shows ${name}`, (d) => {
      d.layers[id].shows = { ...shows };
      d.layers[id].name = name;
    });
  /** Of weight zero everywhere; what it shows stays. */
  clear = (id: string): Promise<void> =>
    this.tried(async () => {
      const coverage = await this.nothing();
      this.model.edit(`Clear ${this.named(id)}`, (d) => {
        d.layers[id].shared = null;
        d.layers[id].coverage = coverage;
      });
    });
  remove = (id: string): void => this.model.edit(`Remove ${this.named(id)}`, (d) => void delete d.layers[id]);
  /** Changes places with its neighbour above (1) or below (−1). */
  move(id: string, by: 1 | -1): void {
    this.model.edit(`Order of ${this.named(id)}`, (d) => {
      const list = inOrder(d.layers);
      const at = list.findIndex((l) => l.id === id);
      const other = list[at + by] as (typeof list)[number] | undefined;
      if (!other) return;
      [d.layers[id].order, d.layers[other.id].order] = [other.order, list[at].order];
    });
  }
  /** The layer below one that may be merged into: none into the ground. */
  below(id: string): (Layer & { id: string }) | null {
    const list = inOrder(this.model.blend()?.layers ?? {});
    const at = list.findIndex((l) => l.id === id);
    return at > 1 ? list[at - 1] : null;
  }
  /** The one below lies where either did from now on, and the upper one goes. */
  async merge(id: string): Promise<void> {
    const [blend, below] = [this.model.blend(), this.below(id)];
    if (!blend || !below) return;
    await this.tried(async () => {
      const set = this.set();
      const picture = await this.making.pictureOf(coverageOf(blend, blend.layers[id]) as Coverage, id, set);
      this.model.edit(`Merge ${this.named(id)} into ${below.name}`, (d) => merged(d, id, below.id, picture, set));
      this.model.selectedId.set(below.id);
    });
  }
}

function merged(d: BlendDocument, id: string, below: string, picture: string, set: UvSet | undefined): void {
  const into = d.layers[below];
  into.coverage = structuredClone(coverageOf(d, into)) as Coverage;
  into.shared = null;
  into.coverage[newKey()] = makeCue('painted', {
    ...STRAIGHT,
    picture,
    join: 'or',
    amount: d.layers[id].strength,
    order: nextOrder(into.coverage),
    ...(set ? { set } : {}),
  });
  delete d.layers[id];
}
