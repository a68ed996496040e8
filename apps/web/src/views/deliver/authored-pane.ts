import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked, viewChild } from '@angular/core';
import type { StageLook } from '@pebble/stage';
import { LightService } from '../../services/light.service';
import { AssetModel } from '../../stage/asset-model';
import { AssetSource } from '../../stage/asset-source';
import { stagePicture } from '../../stage/stage-picture';
import { StageScene } from '../../stage/stage-scene';
import { ASSET_STAGE } from '../../stage/providers';

/** An asset as it is authored, by itself; it leads how the panes beside it look. */
@Component({
  selector: 'pb-authored-pane',
  providers: ASSET_STAGE,
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (n of [scene.generation()]; track n) {
      <canvas #canvas data-testid="stage"></canvas>
    }
    @if (scene.failed(); as message) {
      <p class="card">{{ message }}</p>
    } @else if (waits()) {
      <p class="none" role="status">Reading the maps …</p>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      overflow: hidden;
    }
    canvas {
      position: absolute;
      width: 100%;
      height: 100%;
    }
    .card,
    .none {
      position: absolute;
      left: 10px;
      top: 40px;
    }
    .none {
      padding: 2px 10px;
      border-radius: 12px;
      background: var(--veil);
    }
  `,
})
export class AuthoredPane {
  /** Id of the asset. */
  readonly asset = input.required<string | null>();
  /** How it looks now, and under which sky. */
  readonly looks = output<{ look: StageLook; sky: string }>();
  /** What is shown is no longer what was compared. */
  readonly stale = output<void>();
  private readonly assets = inject(AssetModel);
  private readonly source = inject(AssetSource);
  readonly scene = inject(StageScene);
  private readonly light = inject(LightService);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('canvas');
  readonly waits = computed(() => !!this.source.material() && !this.source.slots());
  readonly ready = computed(() => this.scene.stage() !== null && !this.waits());

  constructor() {
    this.scene.split = 1;
    // Pictures are compared number by number: the stand-in smooths no edges either.
    this.scene.plain.set(true);
    this.scene.onLook = (look) => this.looks.emit({ look, sky: this.light.look().sky });
    this.scene.onStale = () => this.stale.emit();
    effect(() => {
      const asset = this.asset();
      untracked(() => this.assets.id.set(asset));
    });
    effect(() => {
      const canvas = this.canvas()?.nativeElement;
      if (canvas) untracked(() => this.scene.open(canvas));
    });
  }

  picture(): Promise<ImageData | null> {
    const [stage, canvas] = [this.scene.stage(), this.canvas()?.nativeElement];
    return stage && canvas ? stagePicture(stage, canvas) : Promise.resolve(null);
  }
}
