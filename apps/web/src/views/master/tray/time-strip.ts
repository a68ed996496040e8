import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { LOOP_S } from '@pebble/core';
import { useKeys } from '../../../ui/keys';
import { ScrubField } from '../../../ui/scrub-field';
import { MasterModel } from '../master-model';
import { Motion, SPEEDS } from '../motion';

/** Time: play, pause, scrub, the loop and its speed; and a number that is tried out over it. */
@Component({
  selector: 'pb-time',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row" role="group" aria-label="Time">
      <button class="pill" [class.on]="motion.playing()" [attr.aria-pressed]="motion.playing()" (click)="motion.playing.set(!motion.playing())">
        {{ motion.playing() ? 'pause' : 'play' }} <kbd>Y</kbd>
      </button>
      <input
        type="range"
        min="0"
        [max]="motion.loopS()"
        [step]="motion.loopS() / 400"
        [value]="motion.seconds()"
        aria-label="Seconds of the loop"
        (input)="scrub(+$any($event.target).value)"
      />
      <span class="at">{{ motion.seconds().toFixed(2) }} of</span>
      <pb-scrub label="Loop" unit="s" [value]="motion.loopS()" [step]="0.1" [decimals]="1" [initial]="4" (done)="loop($event)" />
      <select class="pill" aria-label="Speed" (change)="motion.speed.set($any(+$any($event.target).value))">
        @for (s of speeds; track s) {
          <option [value]="s" [selected]="s === motion.speed()">{{ s }}×</option>
        }
      </select>
    </div>
    <div class="row" role="group" aria-label="Trying a number out">
      <label class="pill plain"
        >try
        <select aria-label="Number that is tried out" (change)="motion.try($any($event.target).value || null)">
          <option value="">nothing</option>
          @for (n of motion.numbers(); track n.id) {
            <option [value]="n.id" [selected]="n.id === motion.driven()?.id">{{ n.name }}</option>
          }
        </select></label
      >
      @if (motion.driven(); as n) {
        @let d = motion.drive()!;
        <select class="pill" aria-label="How it is tried out" (change)="by($any($event.target).value)">
          <option value="hand" [selected]="d.by === 'hand'">by hand</option>
          <option value="wave" [selected]="d.by === 'wave'">by a wave</option>
        </select>
        @if (d.by === 'hand') {
          <input
            type="range"
            [min]="n.low"
            [max]="n.high"
            [step]="(n.high - n.low) / 400"
            [value]="d.value"
            [attr.aria-label]="'Try ' + n.name"
            (input)="motion.drive.set({ parameter: n.id, by: 'hand', value: +$any($event.target).value })"
          />
          <button class="pill" (click)="keep()" title="Make it the value">keep</button>
        } @else {
          <span class="quiet">{{ n.low }} … {{ n.high }} in {{ motion.loopS().toFixed(1) }} s</span>
        }
      }
    </div>
  `,
  styles: `
    .row {
      display: flex;
      align-items: center;
      gap: 4px;
      min-height: 26px;
    }
    input[type='range'] {
      flex: 1;
      min-width: 40px;
      accent-color: var(--lichen);
    }
    select {
      border: 0;
      background: transparent;
      max-width: 130px;
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    .at {
      font: 12px var(--mono);
      color: var(--quiet);
    }
    .quiet {
      font-size: 12px;
    }
    kbd {
      font: 10px/14px var(--mono);
    }
  `,
})
export class TimeStrip {
  private readonly model = inject(MasterModel);
  readonly motion = inject(Motion);
  readonly speeds = SPEEDS;

  constructor() {
    useKeys({ KeyY: { down: () => this.motion.playing.update((p) => !p) } });
  }

  scrub(seconds: number): void {
    this.motion.playing.set(false);
    // The end of the loop is its beginning, but a slider that jumped back under the hand would be no slider.
    this.motion.seconds.set(seconds);
  }
  loop(seconds: number): void {
    const held = Math.min(LOOP_S.most, Math.max(LOOP_S.least, seconds || LOOP_S.least));
    this.model.edit(`Loop of ${held.toFixed(1)} s`, (d) => void (d.loopS = held));
    this.motion.go(this.motion.seconds());
  }
  by(way: string): void {
    const [drive, driven] = [this.motion.drive(), this.motion.driven()];
    if (!drive || !driven) return;
    this.motion.drive.set({ ...drive, by: way === 'wave' ? 'wave' : 'hand', value: driven.value });
    if (way === 'wave') this.motion.playing.set(true);
  }
  keep(): void {
    const [drive, driven] = [this.motion.drive(), this.motion.driven()];
    if (!drive || !driven) return;
    this.model.holds(driven.id, (holds) => void (holds.kind === 'number' && (holds.value = [drive.value])));
    this.model.commit(this.model.called(`Set ${driven.name}`));
  }
}
