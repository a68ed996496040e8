import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { Router } from '@angular/router';
import { mdiChevronDown } from '@mdi/js';
import type { DrawnAs } from '@pebble/core';
import { makeBlend } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { Frame } from '../../ui/frame';
import { Icon } from '../../ui/icon';
import { ScrubField } from '../../ui/scrub-field';
import { Accounts } from '../../stage/accounts';
import { AssetModel } from '../../stage/asset-model';
import { DRAWN_CHOICES } from '../../stage/channels';
import { BakeCard } from './bake-card';
import { BlendModel } from './blend-model';
import { CoverageTarget } from './coverage-target';
import { Compare } from './compare/compare';
import { SectionPanel } from './section/section-panel';
import { Sentence } from './sentence/sentence';
import { StageHost } from './stage/stage-host';
import { Strata } from './layers/strata';
import { nameFrom } from '../../ui/name';
import { BLENDING } from './providers';

/** Layers that meet by height: the stage, the section, the sentence. */
@Component({
  selector: 'pb-blend',
  imports: [Frame, Icon, StageHost, SectionPanel, Strata, Sentence, ScrubField, BakeCard, MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: BLENDING,
  templateUrl: './blend.view.html',
  styleUrl: './blend.view.scss',
})
export class BlendView {
  readonly id = input<string>();
  /** The asset that it is looked at on. */
  readonly asset = input<string>();
  /** The layer that is to be chosen. */
  readonly layer = input<string>();
  readonly model = inject(BlendModel);
  readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  private readonly accounts = inject(Accounts);
  private readonly compare = inject(Compare);
  private readonly target = inject(CoverageTarget);
  private readonly assets = inject(AssetModel);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly router = inject(Router);
  readonly icons = { down: mdiChevronDown };
  readonly blends = this.documents.list('blend');
  readonly surfaces = this.documents.list('surface');
  readonly open = computed(() => {
    const asked = this.id();
    return this.blends().find((b) => b.id === asked)?.id ?? this.blends().at(0)?.id ?? null;
  });

  constructor() {
    effect(() => {
      this.model.id.set(this.open());
      // What was asked about one blend says nothing about another.
      untracked(() => {
        this.accounts.clear();
        this.compare.end();
        this.target.groupId.set(null);
        this.model.following.set(false);
      });
    });
    effect(() => this.assets.id.set(this.asset() ?? null));
    effect(() => {
      const [layer, blend] = [this.layer(), this.model.blend()];
      if (layer && blend?.layers[layer]) untracked(() => this.model.selectedId.set(layer));
    });
    effect(() => this.workbench.open(this.open()));
    effect(() => {
      const price = this.model.price();
      const [prices, layers] = [this.model.prices(), this.model.layers()];
      const most = (key: 'samples' | 'operations') => {
        const top = layers.filter((l) => prices[l.id]).sort((a, b) => prices[b.id][key] - prices[a.id][key])[0];
        return top ? `${top.name} ${prices[top.id][key]}` : '';
      };
      this.workbench.meter.set(price && { ...price, bytes: this.model.bytes(), most: { samples: most('samples'), operations: most('operations') } });
    });
  }

  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.model.edit(`Rename to ${name}`, (d) => void (d.name = name));
  }
  draftExtent = (value: number): void =>
    this.model.draft((d) => {
      d.extentM = value;
    });
  setExtent(value: number): void {
    this.draftExtent(value);
    this.model.commit(`Extent ${value.toFixed(2)} m`);
  }

  /** How it is drawn, where a layer brings opacity; null else. */
  readonly covers = computed(() => {
    const { material } = this.model.shaped();
    return material?.near.outputs.opacity ? (this.model.blend()?.drawn ?? { as: 'cut-out' as const, cut: 0.5 }) : null;
  });
  readonly drawnChoices = DRAWN_CHOICES;
  drawAs(as: DrawnAs): void {
    this.model.draft((d) => void (d.drawn = { cut: d.drawn?.cut ?? 0.5, as }));
    this.model.commit(`Drawn ${DRAWN_CHOICES.find((c) => c.id === as)?.name ?? as}`);
  }
  draftCut = (cut: number): void => this.model.draft((d) => void (d.drawn = { as: 'cut-out', cut }));
  setCut(cut: number): void {
    this.draftCut(cut);
    this.model.commit(`Cut below ${cut.toFixed(2)}`);
  }

  draftAltitude = (value: number): void =>
    this.model.draft((d) => {
      d.standsAtM = value;
    });
  setAltitude(value: number): void {
    this.draftAltitude(value);
    this.model.commit(`Stands at ${value.toFixed(1)} m`);
  }

  async create(): Promise<void> {
    const body = makeBlend('New blend');
    try {
      await this.router.navigate(['/blend', await this.documents.create(body, 'New blend')]);
    } catch (error) {
      this.notices.error(error);
    }
  }
  remove(): void {
    const id = this.open();
    if (id) void this.documents.remove(id);
  }
  loadDemo = (): void => void this.jobs.start('demo');
  go = (id: string): void => void this.router.navigate(['/blend', id]);
}
