import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import type { OnDevice, StageLook } from '@pebble/stage';
import { measure } from '../../stage/difference';
import { bytesText } from '../../ui/bytes';
import { follow } from '../../ui/follow';
import { Newest } from '../../ui/latest';
import { AuthoredPane } from './authored-pane';
import { Delivery } from './delivery';
import { TargetPane } from './target-pane';

/** Milliseconds that both stages have to rest before they are compared. */
const REST_MS = 600;

/** An asset as it is authored, as a device shows it, and the difference, in step. */
@Component({
  selector: 'pb-deliver-stage',
  imports: [AuthoredPane, TargetPane],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './deliver-stage.html',
  styleUrl: './deliver-stage.scss',
})
export class DeliverStage {
  readonly delivery = inject(Delivery);
  private readonly authored = viewChild(AuthoredPane);
  private readonly target = viewChild(TargetPane);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('picture');
  readonly assets = computed(() => this.delivery.view()?.assets ?? []);
  private readonly chosenAsset = signal<string | null>(null);
  readonly asset = computed(() => this.assets().find((a) => a.id === this.chosenAsset()) ?? this.assets().at(0) ?? null);
  /** Devices that the bundle is for. */
  readonly devices = computed(() => Object.entries(this.delivery.manifest()?.targets ?? {}).map(([id, { name }]) => ({ id, name })));
  private readonly chosenDevice = signal<string | null>(null);
  readonly device = computed(() => this.devices().find((d) => d.id === this.chosenDevice()) ?? this.devices().at(0) ?? null);
  readonly manifest = computed(() => this.delivery.bundle()?.manifest ?? null);
  readonly look = signal<{ look: StageLook; sky: string } | null>(null);
  readonly onDevice = signal<OnDevice | null>(null);
  readonly difference = signal<{ most: number; mean: number } | null>(null);
  readonly bytes = bytesText;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly taking = new Newest();

  constructor() {
    effect(() => {
      const there = this.authored()?.ready() && this.onDevice();
      untracked(() => (there ? this.again() : this.difference.set(null)));
    });
  }

  showAsset = (id: string): void => this.chosenAsset.set(id);
  showDevice = (id: string): void => this.chosenDevice.set(id);
  loaded(of: OnDevice | null): void {
    this.onDevice.set(of);
  }

  /** Something moved: what was compared no longer fits. */
  again(): void {
    this.difference.set(null);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.compare(), REST_MS);
  }
  private async compare(): Promise<void> {
    const [authored, target, going] = [this.authored(), this.target(), this.taking.begin()];
    if (!authored?.ready() || !target || !this.onDevice()) return;
    const meant = await authored.picture();
    if (!meant || !going()) return;
    const came = await target.picture(meant.width, meant.height);
    if (!going()) return;
    const { difference, most, mean } = measure(meant, came);
    this.difference.set({ most, mean });
    const canvas = this.canvas()?.nativeElement;
    if (!canvas) return;
    Object.assign(canvas, { width: difference.width, height: difference.height });
    canvas.getContext('2d')?.putImageData(difference, 0, 0);
  }

  /** The panes are turned together, wherever they are taken hold of. */
  turn(event: PointerEvent): void {
    const scene = this.authored()?.scene;
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    if (scene) follow(event, (dx, dy, e) => scene.dragBy(dx, dy, e.shiftKey || event.button === 1));
  }
  wheel = (event: WheelEvent): void => this.authored()?.scene.wheel(event);
  key = (event: KeyboardEvent): void => void this.authored()?.scene.turnKey(event);
  frame = (): void => this.authored()?.scene.reframe();
}
