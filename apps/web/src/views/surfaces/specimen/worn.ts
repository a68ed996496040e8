import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { SKIES } from '@pebble/core';
import type { SkyName } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { JobsService } from '../../../services/jobs.service';
import { LightService } from '../../../services/light.service';
import { AssetCard } from '../../../stage/asset-card';
import { AssetModel } from '../../../stage/asset-model';
import { AssetSource } from '../../../stage/asset-source';
import { channelsOf } from '../../../stage/channels';
import { StagePanes } from '../../../stage/stage-panes';
import { StageScene } from '../../../stage/stage-scene';
import { SpecimenModel } from './specimen-model';
import { ASSET_STAGE } from '../../../stage/providers';

/** A specimen in what its slots wear, under light; the chosen slot flat beside it. */
@Component({
  selector: 'pb-worn',
  imports: [AssetCard, RouterLink, StagePanes],
  providers: ASSET_STAGE,
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar" role="radiogroup" aria-label="Channel">
      @for (c of channels(); track c.id) {
        <button
          class="pill"
          role="radio"
          [class.on]="scene.channel() === c.id"
          [attr.aria-checked]="scene.channel() === c.id"
          (click)="scene.channel.set(c.id)"
        >
          {{ c.name }}
        </button>
      }
      <span class="gap"></span>
      @if (normals(); as now) {
        <select
          class="pill"
          aria-label="Normals"
          [class.warn]="now === 'object'"
          [disabled]="turning()"
          title="What the directions of its normal map are along. The mesh turns them"
          (change)="turn($any($event.target))"
        >
          @if (now === 'object') {
            <option value="" selected>normals along the object</option>
            <option value="tangent">turn them into tangents</option>
          } @else {
            <option value="" selected>normals along tangents</option>
            <option value="tangent">they are the object’s: turn them into tangents</option>
            <option value="object">turn them along the object</option>
          }
        </select>
      }
      <a class="pill" [routerLink]="['/paint', assets.id()]" title="Press patches of surfaces into all maps of what it wears">Stamp …</a>
      <select class="pill" aria-label="Sky" [disabled]="light.look().locked" (change)="light.set({ sky: $any($event.target).value })">
        @for (s of skies; track s.id) {
          <option [value]="s.id" [selected]="light.look().sky === s.id">{{ s.title }}</option>
        }
      </select>
    </div>
    <pb-stage-panes />
    <div class="bar foot">
      <span class="slots" role="group" aria-label="Slot that is shown flat">
        @for (s of assets.slots(); track s.id) {
          <button
            class="pill"
            [class.on]="s.slot === source.chosen()?.slot"
            [attr.aria-pressed]="s.slot === source.chosen()?.slot"
            [title]="s.slot + ' wears ' + s.says"
            (click)="source.slot.set(s.slot)"
          >
            {{ s.slot }} <small [class.warn]="!s.body">{{ s.says }}</small>
          </button>
        }
      </span>
      <pb-asset [compact]="true" />
    </div>
    @if (waits()) {
      <p class="none" role="status">Reading the maps …</p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      position: relative;
    }
    .bar {
      display: flex;
      align-items: center;
      gap: 2px;
      padding: 0 12px;
      height: 34px;
      background: var(--panel);
      white-space: nowrap;
    }
    .bar .pill {
      padding: 0 8px;
      min-height: 24px;
    }
    a.pill {
      text-decoration: none;
    }
    .gap {
      flex: 1;
    }
    select {
      border: 0;
      background: transparent;
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    pb-stage-panes {
      flex: 1;
      min-height: 0;
    }
    .slots {
      flex: 1;
      min-width: 0;
      overflow-x: auto;
    }
    small {
      font-weight: 400;
    }
    select.warn,
    small.warn {
      color: var(--warn);
    }
    .none {
      position: absolute;
      left: 12px;
      top: 44px;
      margin: 0;
      padding: 2px 10px;
      border-radius: 12px;
      background: var(--veil);
    }
  `,
})
export class Worn {
  readonly assets = inject(AssetModel);
  readonly source = inject(AssetSource);
  readonly scene = inject(StageScene);
  readonly light = inject(LightService);
  private readonly model = inject(SpecimenModel);
  private readonly documents = inject(DocumentsService);
  private readonly jobs = inject(JobsService);
  readonly skies = Object.entries(SKIES).map(([id, { title }]) => ({ id: id as SkyName, title }));
  readonly channels = computed(() => channelsOf(this.source.shaped().material));
  readonly waits = computed(() => !!this.source.material() && !this.source.slots());

  /** What the normals of the chosen slot's surface are along; null where it has none of its own. */
  readonly normals = computed(() => {
    const surface = this.documents.body(this.source.chosen()?.blend ?? '', 'surface');
    const entry = surface && !surface.stamped ? surface.maps.normal : undefined;
    return entry ? (entry.space ?? 'tangent') : null;
  });
  private readonly jobId = signal<string | null>(null);
  readonly turning = computed(() => this.jobs.open().some((j) => j.id === this.jobId()));
  async turn(select: HTMLSelectElement): Promise<void> {
    const to = select.value;
    select.value = '';
    const [asset, surface] = [this.assets.id(), this.source.chosen()?.blend];
    if (!asset || !surface || (to !== 'tangent' && to !== 'object')) return;
    const job = await this.jobs.start('normals', { surface, to }, asset);
    if (job) this.jobId.set(job.id);
  }

  constructor() {
    effect(() => {
      const asset = this.model.asset()?.id ?? null;
      untracked(() => this.assets.id.set(asset));
    });
  }
}
