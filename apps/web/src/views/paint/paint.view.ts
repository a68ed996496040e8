import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { DocumentsService } from '../../services/documents.service';
import { WorkbenchService } from '../../services/workbench.service';
import { SPLIT, StageScene } from '../../stage/stage-scene';
import { StageSpecimen } from '../../stage/stage-specimen';
import { Frame } from '../../ui/frame';
import { BlendModel } from '../blend/blend-model';
import { BrushValues } from '../blend/brush/brush-values';
import { MaskPainting } from '../blend/brush/mask-painting';
import { Painting } from '../blend/brush/painting';
import { StrokeSample } from '../blend/brush/stroke-sample';
import { BLENDING } from '../blend/providers';
import { StageHost } from '../blend/stage/stage-host';
import { GroundActs } from './ground-acts';
import { MaskActions } from './mask-actions';
import { PaintPick } from './paint-pick';
import { TerrainTiles } from './terrain-tiles';
import { TilesPanel, tileColours } from './tiles-panel';
import { Wells } from './wells';

/** Radii across a specimen at most, and those that a brush begins with. */
const [MOST_ACROSS, USUAL_ACROSS] = [1000, 120];

/** The large stage for the brush: masks on meshes and terrains, vertex colours, and the tiles of a terrain. */
@Component({
  selector: 'pb-paint',
  imports: [Frame, StageHost, BrushValues, StrokeSample, MaskActions, PaintPick, TilesPanel, Wells, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [...BLENDING, TerrainTiles, GroundActs],
  templateUrl: './paint.view.html',
  styleUrl: './paint.view.scss',
})
export class PaintView {
  readonly id = input<string>();
  readonly model = inject(BlendModel);
  readonly documents = inject(DocumentsService);
  readonly painting = inject(Painting);
  readonly masks = inject(MaskPainting);
  readonly tiles = inject(TerrainTiles);
  private readonly scene = inject(StageScene);
  private readonly specimen = inject(StageSpecimen);
  private readonly workbench = inject(WorkbenchService);
  readonly blends = this.documents.list('blend');
  readonly open = computed(() => {
    const asked = this.id();
    return this.blends().find((b) => b.id === asked)?.id ?? this.blends().at(0)?.id ?? null;
  });
  /** The flat is there while something is painted on it. */
  readonly share = computed(() => (this.masks.onFlat() ? SPLIT : 1));

  constructor() {
    this.painting.on.set(true);
    effect(() => {
      const id = this.open();
      this.model.id.set(id);
      untracked(() => this.model.selectedId.set(null));
    });
    // The first mask is at hand, and a brush that goes with what it paints on.
    effect(() => {
      const [id, wells] = [this.model.id(), this.masks.wells()];
      if (id === null || this.taken === id || !wells.length) return;
      this.taken = id;
      untracked(() => this.masks.take((wells.find((w) => w.cue.set) ?? wells[0]).path));
    });
    effect(() => {
      const { lo, hi } = this.specimen.bounds();
      const size = Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]);
      untracked(() => {
        const { radiusM } = this.painting.brush();
        if (radiusM < size / MOST_ACROSS || radiusM > size / 2) this.painting.setBrush({ radiusM: Number((size / USUAL_ACROSS).toPrecision(1)) });
      });
    });
    effect(() => {
      const table = this.tiles.heat() ? this.tiles.table() : null;
      this.scene.heat.set(table && tileColours(table, this.specimen.form()));
    });
    effect(() => this.workbench.open(this.open()));
    effect(() => {
      const price = this.model.price();
      this.workbench.meter.set(price && { ...price, bytes: this.model.bytes(), most: { samples: '', operations: '' } });
    });
  }
  private taken: string | null = null;
}
