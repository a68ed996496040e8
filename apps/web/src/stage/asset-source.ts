import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { BlendDocument, GraphContext, Material } from '@pebble/core';
import { BlendMaterials, MasterMaterials, makeStack } from '@pebble/core';
import { blendSurfaces } from '@pebble/usecases';
import { DocumentsService } from '../services/documents.service';
import { PagePrograms } from '../services/page-programs.service';
import { AssetModel } from './asset-model';
import { materialFeed, wantPixels } from './material-feed';
import { BARE } from './neighbours';
import type { StageBody, StageSource } from './stage-source';
import { StageSpecimen } from './stage-specimen';

/** An asset as a whole: one of its slots is shown flat as well, whatever sits there; the others stand beside it. */
@Injectable()
export class AssetSource implements StageSource {
  private readonly documents = inject(DocumentsService);
  private readonly assets = inject(AssetModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly allSurfaces = this.documents.list('surface');
  private readonly allBlends = this.documents.list('blend');
  private readonly allMasters = this.documents.list('master');
  /** The slot that was chosen, by its name. */
  readonly slot = signal<string | null>(null);
  /** What is shown flat: the chosen slot, else the first that something sits on. */
  readonly chosen = computed(() => {
    const slots = this.assets.slots();
    return slots.find((s) => s.slot === this.slot()) ?? slots.find((s) => s.body) ?? slots.at(0) ?? null;
  });
  readonly id = computed(() => this.chosen()?.blend ?? null);
  readonly body = computed<StageBody | null>(() => {
    const asset = this.assets.body();
    return asset && { extentM: this.chosen()?.body?.extentM ?? 1, specimen: asset.specimen };
  });
  readonly surfaces = computed(() => Object.fromEntries(this.allSurfaces().map((s) => [s.id, s.body])));
  readonly blends = computed<Record<string, BlendDocument>>(() => Object.fromEntries(this.allBlends().map((b) => [b.id, b.body])));
  readonly known = computed(() => blendSurfaces(this.surfaces()));
  private readonly context = computed<GraphContext>(() => ({
    surfaces: this.known(),
    blends: this.blends(),
    masters: Object.fromEntries(this.allMasters().map((m) => [m.id, m.body])),
  }));

  private readonly ofBlends = new BlendMaterials();
  private readonly ofMasters = new MasterMaterials();
  readonly material = computed<Material | null>(() => {
    const body = this.chosen()?.body;
    if (!this.assets.body()) return null;
    if (body?.kind === 'master') return this.ofMasters.of(body, this.context());
    const stack = body && makeStack(body, this.known(), this.blends());
    return stack?.layers.length ? this.ofBlends.of(stack, { standing: this.specimen.standing() }) : BARE;
  });

  private readonly feed = materialFeed(this.material, () => untracked(this.material));
  readonly shaped = this.feed.shaped;
  readonly values = this.feed.values;
  readonly parallax = this.feed.parallax;
  readonly program = this.feed.program;
  readonly slots = this.feed.slots;
  readonly shown = this.feed.shown;
  readonly sources = this.feed.sources;
  readonly programs = inject(PagePrograms);
  readonly beside = signal<readonly Material[]>([]);

  constructor() {
    effect(() => this.assets.variant.set(this.chosen()?.variant ?? null));
    wantPixels(this.material, this.beside, this.surfaces);
    effect(() => {
      const { material } = this.shaped();
      this.specimen.follow(
        this.id(),
        this.body(),
        [...(material ? [material] : []), ...this.beside()].map((m) => m.reads),
      );
    });
  }

  /** An asset stands on its own specimen. */
  lookOn = (): void => undefined;
}
