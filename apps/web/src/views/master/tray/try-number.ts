import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MasterModel } from '../master-model';
import { Motion } from '../motion';

/** A number of the master that is tried out on the stage, by hand or by a wave: the document stays as it is until it is kept. */
@Component({
  selector: 'pb-try',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row" role="group" aria-label="Trying a number out">
      <select class="pill" aria-label="Number that is tried out" (change)="motion.try($any($event.target).value || null)">
        <option value="">try …</option>
        @for (n of motion.numbers(); track n.id) {
          <option [value]="n.id" [selected]="n.id === motion.driven()?.id">{{ n.name }}</option>
        }
      </select>
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
  styleUrl: './strip.scss',
})
export class TryNumber {
  private readonly model = inject(MasterModel);
  readonly motion = inject(Motion);

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
