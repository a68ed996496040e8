import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { UvSet } from '@pebble/core';
import { setWords } from '@pebble/core';

/** What a map that decides is laid by: the extent, or a set of coordinates of the mesh. */
@Component({
  selector: 'label[pbLaidBy]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    Laid
    <select class="field" aria-label="What the map is laid by" (change)="pick(+$any($event.target).value)">
      <option [value]="0" [selected]="!set()">over the extent</option>
      @for (n of SETS; track n) {
        <option [value]="n" [selected]="n === set()">{{ words(n) }}</option>
      }
    </select>
  `,
})
export class LaidBy {
  /** Undefined over the extent. */
  readonly set = input.required<UvSet | undefined>();
  readonly picked = output<UvSet | undefined>();
  protected readonly SETS: readonly UvSet[] = [1, 2];
  protected words = (n: UvSet): string => setWords(n).trim();
  protected pick(n: number): void {
    this.picked.emit(this.SETS.find((s) => s === n));
  }
}
