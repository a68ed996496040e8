import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { Values } from '@pebble/core';
import { TIME_VALUE, inOrder, parameterValue } from '@pebble/core';
import { StageScene } from '../../stage/stage-scene';
import { MasterModel } from './master-model';

/** How a number of the master is tried out: by hand, or by a wave over the loop. Nothing of the document changes. */
export interface Drive {
  parameter: string;
  by: 'hand' | 'wave';
  value: number;
}
/** Speeds at which time runs. */
export const SPEEDS = [0.25, 0.5, 1, 2, 4] as const;

/** Time on the stage, and what is tried out over it. */
@Injectable()
export class Motion {
  private readonly model = inject(MasterModel);
  private readonly scene = inject(StageScene);
  readonly playing = signal(false);
  readonly seconds = signal(0);
  readonly speed = signal<(typeof SPEEDS)[number]>(1);
  readonly drive = signal<Drive | null>(null);
  readonly loopS = computed(() => this.model.master()?.loopS ?? 1);
  /** Whether anything on the stage hangs on time. */
  readonly moves = computed(() => [this.model.material(), ...this.model.beside()].some((m) => m !== null && TIME_VALUE in m.values));
  /** Numbers that can be tried out. */
  readonly numbers = computed(() =>
    inOrder(this.model.effective()?.parameters ?? {}).flatMap(({ id, name, holds }) =>
      holds.kind === 'number' && holds.value.length === 1 ? [{ id, name, low: holds.low, high: holds.high, value: holds.value[0] }] : [],
    ),
  );
  readonly driven = computed(() => this.numbers().find((n) => n.id === this.drive()?.parameter) ?? null);
  /** What stands in for the numbers of the material now. */
  readonly now = computed<Values>(() => {
    const [t, drive, driven] = [this.seconds(), this.drive(), this.driven()];
    if (!drive || !driven) return { [TIME_VALUE]: [t] };
    const swing = 0.5 - 0.5 * Math.cos((2 * Math.PI * t) / this.loopS());
    const value = drive.by === 'wave' ? driven.low + (driven.high - driven.low) * swing : drive.value;
    return { [TIME_VALUE]: [t], [parameterValue(driven.id)]: [value] };
  });
  private frame = 0;
  private last = 0;

  constructor() {
    // Only where something hangs on it is the stage told.
    effect(() => {
      const [moves, driven] = [this.moves(), this.driven()];
      if (moves || driven) this.scene.stage()?.setNow(this.now());
      else if (this.told) this.scene.stage()?.setNow({});
      this.told = moves || driven !== null;
    });
    effect(() => {
      const runs = this.playing() && (this.moves() || this.drive()?.by === 'wave');
      untracked(() => (runs ? this.start() : this.stop()));
    });
    // Another master begins anew.
    effect(() => {
      this.model.id();
      untracked(() => {
        this.drive.set(null);
        this.seconds.set(0);
      });
    });
    inject(DestroyRef).onDestroy(() => this.stop());
  }
  private told = false;

  private start(): void {
    if (this.frame) return;
    this.last = performance.now();
    const step = (at: number) => {
      this.frame = requestAnimationFrame(step);
      this.go(this.seconds() + (Math.max(0, at - this.last) / 1000) * this.speed());
      this.last = at;
    };
    this.frame = requestAnimationFrame(step);
  }
  private stop(): void {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
  }

  /** To a moment of the loop: time goes round. */
  go(seconds: number): void {
    const loop = this.loopS();
    this.seconds.set(((seconds % loop) + loop) % loop);
  }
  /** Tries a number out, or stops it. */
  try(parameter: string | null): void {
    const number = this.numbers().find((n) => n.id === parameter);
    this.drive.set(number ? { parameter: number.id, by: 'hand', value: number.value } : null);
  }
}
