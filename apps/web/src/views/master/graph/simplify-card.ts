import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import type { Price, Redundant } from '@pebble/core';
import { withoutRedundant } from '@pebble/core';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { Latest } from '../../../ui/latest';
import type { MasterRequests } from '../../../workers/master-protocol';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';
import { SmallGraph } from './small-graph';

const SAYS: Record<Redundant, string> = {
  dead: 'nothing needs it',
  constant: 'gives one number',
  repeated: 'is there twice',
  'does nothing': 'hands on what comes in',
  equal: 'gives what another gives',
};

/** What can be left out of the graph, beside what is left, with the proof that no pixel changes. */
@Component({
  selector: 'pb-simplify',
  imports: [SmallGraph],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head">
      <b>Simplify</b>
      <span class="quiet">{{ says() }}</span>
      <button class="round" (click)="done.emit()" aria-label="Close">×</button>
    </div>
    @if (found(); as f) {
      @if (f.findings.length) {
        <div class="sides">
          <figure>
            <pb-small-graph [document]="model.master()!" [context]="model.context()" [marked]="marked()" label="The graph as it is written" />
            <figcaption>as it is written: {{ f.before.samples }} smp, {{ f.before.operations }} ops</figcaption>
          </figure>
          <figure>
            <pb-small-graph [document]="f.after" [context]="model.context()" label="The graph without it" />
            <figcaption>without it: {{ f.price.samples }} smp, {{ f.price.operations }} ops</figcaption>
          </figure>
        </div>
        <ul>
          @for (x of f.findings; track x.operation) {
            <li>
              <button class="feeds" (click)="selection.choose(x.operation)" title="Go to it">{{ name(x.operation) }}</button>
              <span>{{ why(x.kind) }}</span>
              <span class="tag">{{ saved(x.saves) }}</span>
              <button class="pill" (click)="take([x])" [attr.aria-label]="'Leave ' + name(x.operation) + ' out'">leave out</button>
            </li>
          }
        </ul>
        <p class="proof" role="status">
          Largest difference over {{ f.random.places.toLocaleString('en') }} random inputs: <b>{{ number(f.random.most) }}</b>{{
            f.random.most ? ' in ' + f.random.output : ''
          }}.
          @if (f.seen; as s) {
            Over the specimen, {{ s.places.toLocaleString('en') }} places: <b>{{ number(s.most) }}</b>.
          }
        </p>
        <button class="button main" (click)="take(f.findings)">Accept all {{ f.findings.length }}</button>
      } @else {
        <p class="quiet">Nothing can be left out: every operation changes something that is needed.</p>
      }
    } @else {
      <p class="quiet">Looking …</p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 6px;
    }
    .head,
    li {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    .head .quiet,
    li span:nth-child(2) {
      flex: 1;
    }
    .sides {
      display: grid;
      grid-template-columns: minmax(0, 1fr);
      gap: 8px;
    }
    figure {
      margin: 0;
      min-width: 0;
    }
    pb-small-graph {
      display: block;
      height: 84px;
      border-radius: 10px;
      background: var(--ground);
    }
    figcaption {
      font: 11px var(--mono);
      color: var(--quiet);
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
      overflow-y: auto;
      min-height: 0;
      max-height: 140px;
    }
    .feeds {
      border: 1px solid var(--line);
      border-radius: 12px;
      padding: 0 8px;
      max-width: 160px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .proof {
      font-size: 12px;
    }
    .button {
      align-self: flex-start;
    }
  `,
})
export class SimplifyCard {
  readonly model = inject(MasterModel);
  readonly selection = inject(Selection);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  readonly done = output<void>();
  readonly found = signal<MasterRequests['simplify']['result'] | null>(null);
  private readonly latest = new Latest<MasterRequests['simplify']['result']>(
    (found) => this.found.set(found),
    (error) => this.notices.error(error),
  );
  readonly marked = computed(() => new Set(this.found()?.findings.map((f) => f.operation)));
  readonly says = computed(() => {
    const f = this.found();
    return f?.findings.length ? `${f.findings.length} of ${Object.keys(this.model.master()?.operations ?? {}).length} operations can go` : '';
  });
  readonly why = (kind: Redundant): string => SAYS[kind];

  constructor() {
    effect(() => {
      // The master itself, not the variant that is looked at: what goes must not be missed in any of them.
      const [master, ask] = [this.model.master(), this.looks.ask()];
      if (master && ask) untracked(() => this.latest.ask(() => this.service.run('simplify', { ...ask, document: master })));
    });
  }

  name(id: string): string {
    const master = this.model.master();
    return master ? nameOf(master, id) : id;
  }
  saved({ samples, operations }: Price): string {
    const less = [samples ? `${samples} smp` : '', operations ? `${operations} ops` : ''].filter(Boolean);
    return less.length ? `saves ${less.join(' ')}` : 'a card less';
  }
  number = (v: number): string => (v === 0 ? '0' : v.toExponential(1));
  take(findings: NonNullable<ReturnType<typeof this.found>>['findings']): void {
    const what = findings.length === 1 ? `Leave ${this.name(findings[0].operation)} out` : `Leave ${findings.length} operations out`;
    this.model.edit(what, (d) => void Object.assign(d, withoutRedundant(d, findings)));
  }
}
