import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  Injectable,
  afterRenderEffect,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import type { BlockLook } from '@pebble/core';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { useActions } from '../../../ui/actions';
import { Latest } from '../../../ui/latest';
import { Looks } from '../looks';
import { MasterModel } from '../master-model';

type Kept = BlockLook & { side: number };

/** What the chosen step gives as a target holds it, worked out in a worker while somebody looks. */
@Injectable()
export class Blocks {
  private readonly model = inject(MasterModel);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  readonly sides = [128, 256, 512, 1024] as const;
  readonly on = signal(false);
  /** Texels a repetition. */
  readonly side = signal<number>(256);
  private readonly found = signal<Kept | null>(null);
  private readonly latest = new Latest<Kept | null>(
    (look) => this.found.set(look),
    (error) => this.notices.error(error),
  );
  readonly wanted = computed(() => this.on() && this.model.shows() === 'step' && this.model.looked() !== null);
  readonly shown = computed(() => (this.wanted() ? this.found() : null));
  readonly says = computed(() => {
    if (!this.wanted()) return null;
    const look = this.found();
    if (!look) return 'cutting into blocks …';
    const exact = look.worst < 0.05;
    return `${look.format}, ${(look.bytes / 1024).toFixed(0)} KiB: ${exact ? 'nothing is lost' : `off by ${look.rms.toFixed(1)}, at most ${look.worst.toFixed(1)}, of 255`}`;
  });

  constructor() {
    effect(() => {
      const [wanted, looked, ask, side] = [this.wanted(), this.model.looked(), this.looks.ask(), this.side()];
      if (!wanted || !looked || !ask) return untracked(() => this.found.set(null));
      this.latest.ask(async () => {
        const look = await this.service.run('blocks', { ...ask, ...looked, side });
        return look && { ...look, side };
      });
    });
    useActions({ blocks: { down: () => this.model.shows() === 'step' && this.on.update((on) => !on) } });
  }
}

/** A picture that repeats, texel by texel, over the part of the flat that is seen. */
@Component({
  selector: 'pb-block-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<canvas #canvas data-testid="blocks"></canvas>`,
  styles: `
    canvas {
      width: 100%;
      height: 100%;
      display: block;
    }
  `,
})
export class BlockPicture {
  readonly look = input.required<Kept>();
  readonly flat = input.required<{ u: number; v: number; span: number }>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly tile = computed(() => {
    const { rgba, side } = this.look();
    const tile = new OffscreenCanvas(side, side);
    tile.getContext('2d')?.putImageData(new ImageData(rgba, side, side), 0, 0);
    return tile;
  });

  constructor() {
    afterRenderEffect(() => {
      const canvas = this.canvas().nativeElement;
      const [tile, { u, v, span }] = [this.tile(), this.flat()];
      const width = (canvas.width = Math.round(canvas.clientWidth * devicePixelRatio));
      const height = (canvas.height = Math.round(canvas.clientHeight * devicePixelRatio));
      const context = canvas.getContext('2d');
      if (!context || !width) return;
      context.imageSmoothingEnabled = false;
      // Pixels of one repetition, and where the first that is seen begins.
      const across = width / span;
      const [left, top] = [u - span / 2, v - (span / 2) * (height / width)];
      for (let y = Math.floor(top); (y - top) * across < height; y++)
        for (let x = Math.floor(left); (x - left) * across < width; x++)
          context.drawImage(tile, (x - left) * across, (y - top) * across, across, across);
    });
  }
}
