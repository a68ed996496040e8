import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { LOOP_S } from '@pebble/core';
import { Actions, useActions } from '../../../ui/actions';
import { ScrubField } from '../../../ui/scrub-field';
import { MasterModel } from '../master-model';
import { Motion, SPEEDS } from '../motion';

/** Time: play, pause, scrub, the loop and its speed. */
@Component({
  selector: 'pb-time',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row" role="group" aria-label="Time">
      <button class="pill" [class.on]="motion.playing()" [attr.aria-pressed]="motion.playing()" (click)="motion.playing.set(!motion.playing())">
        {{ motion.playing() ? 'pause' : 'play' }} <kbd>{{ actions.text('play') }}</kbd>
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
  `,
  styles: `
    .at {
      font: 12px var(--mono);
      color: var(--quiet);
    }
  `,
  styleUrl: './strip.scss',
})
export class TimeStrip {
  private readonly model = inject(MasterModel);
  readonly motion = inject(Motion);
  readonly actions = inject(Actions);
  readonly speeds = SPEEDS;

  constructor() {
    useActions({ play: { down: () => this.motion.playing.update((p) => !p) } });
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
}
