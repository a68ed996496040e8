import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { addVariant, bringBack, compilesAnew, inOrder, inherit, leftovers, rename, standsIn } from '@pebble/core';
import { newKey } from '../../../ui/new';
import { Actions } from '../../../ui/actions';
import { MasterModel } from '../master-model';

/** Named values of the master: which of them is looked at and turned, and what it keeps of what is gone. */
@Component({
  selector: 'pb-variants',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="choice" role="group" aria-label="Variants">
      <button class="pill" (click)="model.goVariant(-1)" [disabled]="!list().length" aria-label="Variant before" title="The variant before">
        <kbd>{{ actions.text('before') }}</kbd>
      </button>
      @if (chosen(); as v) {
        <input class="field" [value]="v.name" aria-label="Name of the variant" maxlength="200" (change)="rename($any($event.target).value)" />
      } @else {
        <span class="base">{{ list().length ? 'what all inherit' : 'no variants yet' }}</span>
      }
      <button class="pill" (click)="model.goVariant(1)" [disabled]="!list().length" aria-label="Variant after" title="The variant after">
        <kbd>{{ actions.text('next') }}</kbd>
      </button>
      <button class="pill" (click)="add()" [title]="chosen() ? 'Another that sets the same' : 'A named set of values of this master'">new</button>
      @if (chosen()) {
        <button class="pill" (click)="remove()">remove</button>
      }
    </div>
    @if (list().length) {
      <select class="field all" aria-label="Variant that is looked at" (change)="model.variant.set($any($event.target).value || null)">
        <option value="" [selected]="!chosen()">what all inherit</option>
        @for (v of list(); track v.id) {
          <option [value]="v.id" [selected]="v.id === model.chosen()">
            {{ v.name }}: sets {{ v.sets }}{{ v.compiles ? ', another program' : '' }}
          </option>
        }
      </select>
    }
    @if (chosen()) {
      <p class="quiet">What is turned below is set in this variant alone.</p>
    }
    @for (l of left(); track l.id) {
      <div class="row">
        <span class="warn">{{ l.name }}</span>
        <span class="quiet">{{ l.why === 'gone' ? 'was removed: its value is kept' : 'holds something else now: its value is kept' }}</span>
        @if (l.why === 'gone') {
          <button class="pill" (click)="back(l.id)" [attr.aria-label]="'Bring ' + l.name + ' back'">bring back</button>
        }
        <button class="act" (click)="drop(l.id)" [attr.aria-label]="'Drop the value of ' + l.name" title="Drop it">×</button>
      </div>
    }
  `,
  styles: `
    .choice {
      display: flex;
      align-items: center;
      gap: 2px;
    }
    .choice .field,
    .base {
      flex: 1;
      min-width: 0;
    }
    .base {
      color: var(--quiet);
      text-align: center;
    }
    .all {
      width: 100%;
      margin: 2px 0;
    }
    .row {
      grid-template-columns: minmax(0, 1fr) auto auto auto;
      font-size: 12px;
    }
    p {
      font-size: 12px;
      padding: 0 6px 4px;
    }
  `,
  styleUrl: './rows.scss',
})
export class VariantsPanel {
  readonly model = inject(MasterModel);
  readonly actions = inject(Actions);
  readonly list = computed(() => {
    const master = this.model.master();
    return master
      ? inOrder(master.variants).map((v) => ({
          ...v,
          sets: Object.entries(v.values).filter(([id, { holds }]) => master.parameters[id] && standsIn(holds, master.parameters[id].holds)).length,
          compiles: compilesAnew(master, null, v.id),
        }))
      : [];
  });
  readonly chosen = computed(() => {
    const [master, id] = [this.model.master(), this.model.chosen()];
    return master && id ? { id, ...master.variants[id] } : null;
  });
  readonly left = computed(() => {
    const [master, id] = [this.model.master(), this.model.chosen()];
    return master && id ? leftovers(master, id) : [];
  });

  add(): void {
    const [id, like] = [newKey(), this.model.chosen() ?? undefined];
    this.model.edit('Add a variant', (d) => void addVariant(d, id, like ? d.variants[like].name : 'Variant', like));
    this.model.variant.set(id);
  }
  rename(text: string): void {
    const id = this.model.chosen();
    if (id && text.trim()) this.model.edit('Rename the variant', (d) => void rename(d, 'variants', id, text));
  }
  remove(): void {
    const id = this.model.chosen();
    if (!id) return;
    const name = this.chosen()?.name ?? '';
    this.model.edit(`Remove ${name}`, (d) => void delete d.variants[id]);
    this.model.variant.set(null);
  }
  back(parameter: string): void {
    const id = this.model.chosen();
    if (id) this.model.edit('Bring a parameter back', (d) => bringBack(d, id, parameter));
  }
  drop(parameter: string): void {
    const id = this.model.chosen();
    if (id) this.model.edit('Drop a kept value', (d) => inherit(d, id, parameter));
  }
}
