import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import type { MasterDocument, Price } from '@pebble/core';
import { asVariant, cutAway, inOrder, permutationsOf, removeSwitch, rename, setInVariant, unpublish } from '@pebble/core';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { WorkbenchService } from '../../../services/workbench.service';
import { Latest } from '../../../ui/latest';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

/** Switches of the master with what they cut away and cost, and its published values. */
@Component({
  selector: 'pb-switches',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (switches().length) {
      <div class="group">
        <b>Switches</b>
        <p class="quiet permutations" [class.warn]="permutations() > limit()">
          {{ permutations() }} {{ permutations() === 1 ? 'program' : 'programs' }} of {{ limit() }} that the target takes
        </p>
        @for (s of switches(); track s.id) {
          <div class="row">
            <button class="pill" role="switch" [class.on]="s.on" [attr.aria-checked]="s.on" [attr.aria-label]="s.name" (click)="flip(s.id)">
              {{ s.on ? 'on' : 'off' }}
            </button>
            <input
              class="name"
              [value]="s.name"
              [attr.aria-label]="'Name of ' + s.name"
              maxlength="200"
              (change)="renameSwitch(s.id, $any($event.target).value)"
            />
            <span class="tag">{{ s.prices }}</span>
            <button class="act" (click)="dropSwitch(s.id)" [attr.aria-label]="'Remove ' + s.name" title="Remove it: what it chooses stays">×</button>
          </div>
          <p class="quiet cut">{{ s.cut }}</p>
        }
      </div>
    }
    @if (published().length) {
      <div class="group">
        <b>Published values</b>
        @for (p of published(); track p.id) {
          <div class="row">
            <button class="feeds" (click)="selection.choose(p.operation)" title="Go to what is published">{{ p.of }}</button>
            <input
              class="name"
              [value]="p.name"
              [attr.aria-label]="'Name of ' + p.name"
              maxlength="200"
              (change)="renamePublished(p.id, $any($event.target).value)"
            />
            <button
              class="act"
              (click)="unpublish(p.id)"
              [attr.aria-label]="'Unpublish ' + p.name"
              title="Unpublish it: what reads it is linked again"
            >
              ×
            </button>
          </div>
        }
      </div>
    }
  `,
  styleUrl: './rows.scss',
})
export class SwitchesPanel {
  private readonly model = inject(MasterModel);
  readonly selection = inject(Selection);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  readonly published = computed(() => {
    const master = this.model.master();
    return master ? inOrder(master.published).map((p) => ({ ...p, of: nameOf(master, p.operation) })) : [];
  });

  private readonly switchPrices = signal<Record<string, { off: Price; on: Price }>>({});
  private readonly latest = new Latest<Record<string, { off: Price; on: Price }>>(
    (found) => this.switchPrices.set(found),
    (error) => this.notices.error(error),
  );
  readonly permutations = computed(() => (this.model.master() ? permutationsOf(this.model.master() as MasterDocument).count : 1));
  readonly limit = computed(() => this.workbench.target().body.permutations ?? 64);
  readonly switches = computed(() => {
    const master = this.model.effective();
    if (!master) return [];
    return inOrder(master.switches).map((s) => {
      const cut = cutAway(master, s.id).map((id) => nameOf(master, id));
      const price = this.switchPrices()[s.id];
      const text = (p: Price) => `${p.samples} smp ${p.operations} ops`;
      return {
        ...s,
        cut: cut.length ? `cuts away ${cut.join(', ')}` : 'cuts nothing away as it stands',
        prices: price ? `off ${text(price.off)} · on ${text(price.on)}` : '…',
      };
    });
  });

  constructor() {
    effect(() => {
      const ask = this.looks.ask();
      if (ask && Object.keys(ask.document.switches).length) this.latest.ask(() => this.service.run('switches', ask));
    });
  }

  renameSwitch = (id: string, text: string): void => this.model.edit('Rename the switch', (d) => void rename(d, 'switches', id, text));
  renamePublished = (id: string, text: string): void => this.model.edit('Rename what is published', (d) => void rename(d, 'published', id, text));
  unpublish = (id: string): void => this.model.edit(`Unpublish ${this.model.master()?.published[id]?.name ?? ''}`, (d) => unpublish(d, id));
  flip(id: string): void {
    const variant = this.model.chosen();
    this.model.edit(this.model.called('Flip the switch'), (d) => {
      const on = !asVariant(d, variant).switches[id].on;
      if (variant) setInVariant(d, variant, id, on);
      else d.switches[id].on = on;
    });
  }
  dropSwitch = (id: string): void => this.model.edit('Remove the switch', (d) => removeSwitch(d, id));
}
