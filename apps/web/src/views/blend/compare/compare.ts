import { Injectable, computed, inject, signal } from '@angular/core';
import type { StoredDocument } from '@pebble/contracts';
import type { BlendDocument } from '@pebble/core';
import type { RemoteStage } from '@pebble/stage';
import { ApiService } from '../../../services/api.service';
import { NoticesService } from '../../../services/notices.service';
import { Accounts } from '../../../stage/accounts';
import { BlendModel } from '../blend-model';
import { measure } from '../../../stage/difference';
import { stagePicture } from '../../../stage/stage-picture';
import { Newest } from '../../../ui/latest';

/** A state of the blend: an earlier version, or the present one without a layer. */
export type Other = { label: string; version: number } | { label: string; without: string };
type Taken = { picture: ImageData; difference: ImageData; most: number; mean: number };

/** Milliseconds that the stage has to rest before it is compared anew. */
const REST_MS = 500;

/**
 * Compares two states of the blend under the same light and from the same place: an earlier one at the left, at the right
 * the present one or another. Places that are pinned tell what they were at the left.
 */
@Injectable()
export class Compare {
  private readonly model = inject(BlendModel);
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private stage: { remote: Pick<RemoteStage, 'settled'>; canvas: HTMLCanvasElement; middle: () => number } | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly taking = new Newest();
  private readonly accounts = inject(Accounts);
  private bodies: { left: BlendDocument | null; right: BlendDocument | null } = { left: null, right: null };
  readonly other = signal<Other | null>(null);
  /** What is at the right; null the present state. */
  readonly right = signal<Other | null>(null);
  readonly taken = signal<Taken | null>(null);
  readonly busy = signal(false);
  /** Where the wipe stands, 0–1: left of it the other state is seen. */
  readonly wipe = signal(0.5);
  readonly mode = signal<'wipe' | 'difference'>('wipe');
  readonly active = computed(() => this.other() !== null);

  /** @param middle where what is compared is seen, as a share of the canvas */
  use(remote: Pick<RemoteStage, 'settled'>, canvas: HTMLCanvasElement, middle = () => 0.5): void {
    this.stage = { remote, canvas, middle };
  }

  async begin(other: Other): Promise<void> {
    // Over the object, not where the stage happens to have its middle.
    if (!this.active() && this.stage) this.wipe.set(this.stage.middle());
    await this.choose('left', other);
  }
  /** Another state at the right; null the present one. */
  async against(other: Other | null): Promise<void> {
    await this.choose('right', other);
  }
  private async choose(side: 'left' | 'right', other: Other | null): Promise<void> {
    try {
      const id = this.model.id();
      const earlier =
        other && 'version' in other && id ? await this.api.get<StoredDocument<BlendDocument>>(`/documents/${id}/at/${other.version}`) : null;
      this.bodies[side] = earlier?.body ?? null;
      (side === 'left' ? this.other : this.right).set(other);
      this.taken.set(null);
      await this.take();
    } catch (error) {
      this.end();
      this.notices.error(error);
    }
  }
  /** The state of a side, to be shown for a moment; null the present one as it is. */
  private state(other: Other | null, body: BlendDocument | null): BlendDocument | null {
    const now = this.model.blend();
    return other && 'without' in other && now ? withoutLayer(now, other.without) : body;
  }
  end(): void {
    this.taking.end();
    clearTimeout(this.timer);
    this.model.viewed.set(null);
    this.other.set(null);
    this.right.set(null);
    this.taken.set(null);
    this.busy.set(false);
  }

  /** Something moved or changed: what was taken no longer fits. */
  stale(): void {
    if (!this.active() || this.busy()) return;
    this.taken.set(null);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.take(), REST_MS);
  }

  private async take(): Promise<void> {
    const [going, other, now] = [this.taking.begin(), this.other(), this.model.blend()];
    if (!other || !now || !this.stage) return;
    this.busy.set(true);
    this.model.viewed.set(this.state(other, this.bodies.left));
    const picture = await this.picture();
    if (going()) await this.accounts.remember();
    this.model.viewed.set(this.state(this.right(), this.bodies.right));
    const present = await this.picture();
    if (!going()) return;
    this.model.viewed.set(null);
    this.taken.set(picture && present ? { picture, ...measure(picture, present) } : null);
    this.busy.set(false);
  }

  private picture(): Promise<ImageData | null> {
    return this.stage ? stagePicture(this.stage.remote, this.stage.canvas) : Promise.resolve(null);
  }
}

const withoutLayer = (blend: BlendDocument, id: string): BlendDocument =>
  blend.layers[id] ? { ...blend, layers: { ...blend.layers, [id]: { ...blend.layers[id], strength: 0 } } } : blend;
