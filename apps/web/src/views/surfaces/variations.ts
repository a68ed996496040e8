import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, output, signal } from '@angular/core';
import type { Amounts, GeneratorName } from '@pebble/core';
import { GENERATORS, hash3, recipeOf, unit } from '@pebble/core';
import { DrawService } from '../../services/draw.service';
import { NoticesService } from '../../services/notices.service';
import { Picture } from '../../ui/picture';

export interface Variation {
  seed: number;
  amounts: Amounts;
}
const COUNT = 50;
const SIDE = 112;

/** Variation `i` of a sheet: a seed of its own and, when asked, every structure 0.3 to 1.7 times as strong as it was. */
export function variation(name: GeneratorName, sheet: number, i: number, amounts: Amounts, vary: boolean): Variation {
  const seed = hash3(sheet, i, 1) & 0xffffff;
  if (!vary) return { seed, amounts };
  const of = (k: number, own: number) => Math.round(Math.min(2, own * (0.3 + 1.4 * unit(hash3(sheet, i, k + 2)))) * 100) / 100;
  return { seed, amounts: Object.fromEntries(Object.keys(recipeOf(name).structures).map((s, k) => [s, of(k, amounts[s] ?? 1)])) };
}

/** Fifty variations of a generated surface on one sheet; they come one by one, and any of them can be kept. */
@Component({
  selector: 'pb-variations',
  imports: [Picture],
  providers: [DrawService],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h3>{{ title() }}: fifty variations</h3>
      <label class="pill"><input type="checkbox" [checked]="vary()" (change)="vary.set(!vary())" /> structures vary too</label>
      <button class="pill" (click)="again()">Another fifty</button>
      @if (done() < count) {
        <progress [max]="count" [value]="done()"></progress><span class="num quiet">{{ done() }} of {{ count }}</span>
      }
      <span class="gap"></span>
      @if (picked(); as p) {
        <span class="num quiet">seed {{ p.seed }}</span>
        <button class="button main" (click)="taken.emit(p)">Make the surface so</button>
        <button class="button" (click)="kept.emit(p)">Keep as another surface</button>
      }
      <button class="button" (click)="closed.emit()">Close</button>
    </header>
    <div class="grid" role="listbox" aria-label="Variations">
      @for (v of variations(); track $index; let i = $index) {
        <button
          role="option"
          [attr.aria-selected]="chosen() === i"
          [attr.aria-label]="'Variation ' + (i + 1) + ', seed ' + v.seed"
          [class.on]="chosen() === i"
          [disabled]="!pictures()[i]"
          (click)="chosen.set(i)"
          (dblclick)="taken.emit(v)"
        >
          @if (pictures()[i]; as p) {
            <pb-picture [picture]="p" />
          }
        </button>
      }
    </div>
  `,
  styleUrl: './variations.scss',
})
export class Variations {
  readonly name = input.required<GeneratorName>();
  readonly amounts = input.required<Amounts>();
  readonly taken = output<Variation>();
  readonly kept = output<Variation>();
  readonly closed = output();
  readonly count = COUNT;
  readonly vary = signal(true);
  readonly chosen = signal<number | null>(null);
  readonly pictures = signal<readonly ImageBitmap[]>([]);
  readonly done = computed(() => this.pictures().length);
  private readonly sheet = signal(Math.floor(Math.random() * 0xffffff));
  readonly title = computed(() => GENERATORS[this.name()].title);
  readonly variations = computed(() => Array.from({ length: COUNT }, (_, i) => variation(this.name(), this.sheet(), i, this.amounts(), this.vary())));
  readonly picked = computed(() => {
    const at = this.chosen();
    return at === null ? null : this.variations()[at];
  });
  private readonly draw = inject(DrawService);
  private readonly notices = inject(NoticesService);
  private run = 0;

  constructor() {
    effect(() => {
      const all = this.variations();
      this.chosen.set(null);
      void this.fill(all, ++this.run);
    });
    inject(DestroyRef).onDestroy(() => this.run++);
  }

  again = (): void => this.sheet.set(Math.floor(Math.random() * 0xffffff));

  private async fill(all: readonly Variation[], run: number): Promise<void> {
    this.pictures.set([]);
    try {
      for (const v of all) {
        const drawn = await this.draw.draw({ order: { name: this.name(), seed: v.seed, size: SIDE, amounts: v.amounts }, parts: 'lit' });
        if (run !== this.run || !drawn) return;
        this.pictures.update((p) => [...p, drawn.lit]);
      }
    } catch (error) {
      this.notices.error(error);
    }
  }
}
