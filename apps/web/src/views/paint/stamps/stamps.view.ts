import { ChangeDetectionStrategy, Component, ElementRef, computed, effect, inject, input, untracked } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { RouterLink } from '@angular/router';
import { mdiClose } from '@mdi/js';
import type { Role } from '@pebble/core';
import { MATERIAL_ROLES, ROLE_FACTS } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { WorkbenchService } from '../../../services/workbench.service';
import { AssetModel } from '../../../stage/asset-model';
import { AssetSource } from '../../../stage/asset-source';
import { channelsOf } from '../../../stage/channels';
import { ASSET_STAGE } from '../../../stage/providers';
import { StagePanes } from '../../../stage/stage-panes';
import { barsOver } from '../../../stage/bars';
import { StageScene } from '../../../stage/stage-scene';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { useActions } from '../../../ui/actions';
import { Frame } from '../../../ui/frame';
import { Icon } from '../../../ui/icon';
import { PaintPick } from '../paint-pick';
import { StampBrush } from './stamp-brush';
import { StampValues } from './stamp-values';
import { Stamping } from './stamping';

/** Share of the stage's width that the mesh takes. */
const SHARE = 0.62;

/** Patches of surfaces pressed into all maps of what a mesh wears. */
@Component({
  selector: 'pb-stamps',
  imports: [Frame, Icon, MatTooltipModule, PaintPick, RouterLink, StagePanes, StampValues],
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [...ASSET_STAGE, StampBrush, Stamping],
  templateUrl: './stamps.view.html',
  styleUrl: './stamps.view.scss',
})
export class StampsView {
  /** The asset. */
  readonly id = input.required<string>();
  readonly assets = inject(AssetModel);
  readonly source = inject(AssetSource);
  readonly scene = inject(StageScene);
  readonly brush = inject(StampBrush);
  readonly stamping = inject(Stamping);
  private readonly specimen = inject(StageSpecimen);
  private readonly documents = inject(DocumentsService);
  private readonly workbench = inject(WorkbenchService);
  readonly icons = { close: mdiClose };
  readonly share = SHARE;
  readonly channels = computed(() => channelsOf(this.source.shaped().material));
  readonly waits = computed(() => !!this.source.material() && !this.source.slots());
  /** Into what stamps go, and what is left out. */
  readonly says = computed(() => {
    const plan = this.stamping.plan();
    if (!plan) return '';
    const there = MATERIAL_ROLES.filter((role) => plan.base.body.maps[role]);
    const name = (role: Role) => ROLE_FACTS[role].label.toLowerCase();
    const side = Math.max(...there.map((role) => plan.base.body.maps[role]?.width ?? 0));
    const given = this.brush.surface()?.body.maps ?? {};
    const bare = MATERIAL_ROLES.filter((role) => given[role] && !plan.base.body.maps[role]);
    return `Into ${there.map(name).join(', ')}, ${side} pixels wide${bare.length ? `; not into ${bare.map(name).join(', ')}, which it has no map of` : ''}.`;
  });
  readonly rows = computed(() =>
    [...this.stamping.list()].reverse().map(({ id, surface, radiusM }) => {
      const body = this.documents.body(surface, 'surface');
      return {
        id,
        name: body?.name ?? 'a surface that was deleted',
        tone: body?.tone ?? '#888888',
        radius: `${radiusM.toFixed(radiusM < 0.1 ? 3 : 2)} m`,
      };
    }),
  );
  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    this.scene.bars = () => barsOver(host, '.stage', '[aria-label=Channel]', '.foot');
    effect(() => {
      const id = this.id();
      untracked(() => this.assets.id.set(id));
    });
    // The first slot that can be stamped is at hand.
    effect(() => {
      const [id, slots] = [this.id(), this.assets.slots()];
      if (this.chosen === id || !slots.length) return;
      this.chosen = id;
      untracked(() => this.source.slot.set((slots.find((s) => s.finished) ?? slots[0]).slot));
    });
    effect(() => {
      const { lo, hi } = this.specimen.bounds();
      untracked(() => this.brush.fit(Math.hypot(...hi.map((v, c) => v - lo[c]))));
    });
    // Steps are those of what the stamps are kept in.
    effect(() => this.workbench.open(this.stamping.worn()?.body.stamped ? (this.stamping.worn()?.id ?? null) : this.id()));
    effect(() => this.workbench.meter.set(null));
    useActions({
      frame: { down: () => this.scene.reframe() },
      near: { down: () => this.scene.lookFrom('near') },
      middle: { down: () => this.scene.lookFrom('middle') },
      far: { down: () => this.scene.lookFrom('far') },
      channel: { down: () => this.nextChannel() },
      smaller: { down: () => this.brush.resize(1 / 1.1) },
      larger: { down: () => this.brush.resize(1.1) },
      undo: { down: () => this.stamping.takeBack() },
    });
  }
  private chosen: string | null = null;

  private nextChannel(): void {
    const all = this.channels();
    const at = all.findIndex((c) => c.id === this.scene.channel());
    this.scene.channel.set(all[(at + 1) % all.length].id);
  }
}
