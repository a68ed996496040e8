import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { DrawnAs, MasterOutput, Role } from '@pebble/core';
import { ROLE_FACTS, sourceAt } from '@pebble/core';
import { ScrubField } from '../../../ui/scrub-field';
import { Acts } from '../acts';
import { outputTitle } from '../graph/card-text';
import { nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

/** The chosen output: what feeds it, and how the whole goes over what is behind it. */
@Component({
  selector: 'pb-output-card',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head">
      <b class="outname">Output {{ title(output()) }}</b>
    </div>
    <p class="help">{{ outHelp(output()) }}</p>
    <p>
      @if (fedFrom(); as from) {
        Fed by <b>{{ from }}</b>.
      } @else {
        Nothing feeds it.
      }
    </p>
    <label class="setting"
      ><span>drawn</span>
      <select class="field" aria-label="How it goes over what is behind it" (change)="drawAs($any($event.target).value)">
        @for (d of drawn; track d.id) {
          <option [value]="d.id" [selected]="model.master()?.drawn === d.id">{{ d.name }}</option>
        }
      </select></label
    >
    @if (model.master()?.drawn === 'cut-out') {
      <label class="setting"
        ><span>cut below</span>
        <pb-scrub label="Opacity below which it is not drawn" [value]="model.master()!.cut" [step]="0.01" [decimals]="2" (done)="cutAt($event)"
      /></label>
    }
    <p class="help">{{ overdraw() }}</p>
    <div class="acts">
      <button class="pill" (click)="acts.search()">feed it <kbd>Tab</kbd></button>
      @if (fedFrom()) {
        <button class="pill" (click)="acts.remove()">let go</button>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 4px;
    }
    .outname {
      font-size: 14px;
    }
    .help {
      color: var(--quiet);
      font-size: 12px;
    }
    .setting {
      display: grid;
      grid-template-columns: 86px minmax(0, 1fr);
      gap: 6px;
      align-items: center;
      padding-left: 5px;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      margin: 2px -6px 0;
    }
    kbd {
      font: 10px/14px var(--mono);
      border: 1px solid var(--edge);
      border-radius: 4px;
      padding: 0 4px;
    }
  `,
})
export class OutputCard {
  readonly model = inject(MasterModel);
  private readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  readonly output = input.required<MasterOutput>();
  readonly title = outputTitle;
  readonly fedFrom = computed(() => {
    const [at, master] = [this.selection.at(), this.model.master()];
    const source = at && master ? sourceAt(master, at) : undefined;
    if (!source || !master) return null;
    return source.from === 'link'
      ? nameOf(master, source.operation)
      : source.from === 'published'
        ? (master.published[source.published]?.name ?? null)
        : 'numbers';
  });
  outHelp = (name: string): string =>
    name === 'surface'
      ? 'All channels at once. A channel that is fed by itself stands in for that of the surface.'
      : name === 'emissive'
        ? 'Light of its own, added to what is lit; 1 is white.'
        : name === 'opacity'
          ? 'How much it covers what is behind it: choose below how it is drawn.'
          : name === 'subsurface'
            ? 'How much light enters and comes out elsewhere: it wraps around what faces away.'
            : `${ROLE_FACTS[name as Role].label}: stands in for that of the surface.`;
  readonly drawn: readonly { id: DrawnAs; name: string }[] = [
    { id: 'solid', name: 'solid' },
    { id: 'cut-out', name: 'cut out: all or nothing by opacity' },
    { id: 'glass', name: 'glass: mixed with what is behind' },
    { id: 'additive', name: 'additive card: added to what is behind' },
  ];
  drawAs = (as: DrawnAs): void => this.model.edit(`Drawn ${as}`, (d) => void (d.drawn = as));
  cutAt = (cut: number): void => this.model.edit(`Cut below ${cut.toFixed(2)}`, (d) => void (d.cut = Math.min(1, Math.max(0, cut))));
  /** What a choice costs. */
  readonly overdraw = computed(() => {
    const [master, over] = [this.model.master(), this.model.overdraw()];
    if (!master || master.drawn === 'solid') return 'Each pixel is paid once, by what is in front.';
    if (master.drawn === 'cut-out') return 'Nothing is mixed; what is cut away is worked out all the same.';
    const unfed = master.outputs.opacity ? '' : ' Nothing feeds opacity: it covers all.';
    const sorted =
      master.drawn === 'glass' && over && over.most > 2
        ? ' Glass in front of glass is mixed in the order of the mesh: where that matters, part it into slots.'
        : '';
    return over ? `Drawn ${over.mean.toFixed(1)} times where it is seen, ${over.most} times at most: as often is it paid.${sorted}${unfed}` : unfed;
  });
}
