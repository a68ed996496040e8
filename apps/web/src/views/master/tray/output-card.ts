import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import type { DrawnAs, MasterOutput, Overdraw, Role } from '@pebble/core';
import { ROLE_FACTS, frameBounds, hexOf, linearOf, linearToSrgb, sourceAt, withSpans } from '@pebble/core';
import { MeshService } from '../../../services/mesh.service';
import { NoticesService } from '../../../services/notices.service';
import { DRAWN_CHOICES } from '../../../stage/channels';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { Latest } from '../../../ui/latest';
import { ScrubField } from '../../../ui/scrub-field';
import { Acts } from '../acts';
import { outputTitle } from '../graph/card-text';
import { nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

const OUT_HELP: Partial<Record<MasterOutput, string>> = {
  surface: 'All channels at once. A channel that is fed by itself stands in for that of the surface.',
  emissive: 'Light of its own, added to what is lit; 1 is white.',
  opacity: 'How much it covers what is behind it: choose below how it is drawn.',
  transmission: 'How much of the light behind shines through, as through a thin wall; metals let nothing through.',
  subsurface: 'How much light enters and comes out elsewhere: it wraps around what faces away.',
  specular: 'How much of what is no metal mirrors head-on: one half is 4 %.',
  clearcoat: 'How much of a smooth coat of varnish lies over all of it.',
  cavity: 'Where it is low, nothing is mirrored head-on: cracks and pores stay dull.',
};

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
    @if (numbers(); as v) {
      <div class="setting">
        <span>is</span>
        <span class="values">
          @if (v.length === 3) {
            <input
              type="color"
              [value]="hex(v)"
              aria-label="As a colour"
              (input)="setColour($any($event.target).value, false)"
              (change)="setColour($any($event.target).value, true)"
            />
          }
          @for (x of v; track $index; let i = $index) {
            <pb-scrub
              [label]="title(output()) + (v.length > 1 ? ' ' + 'xyz'[i] : '')"
              [value]="x"
              [step]="0.005"
              [decimals]="v.length > 1 ? 2 : 3"
              (live)="set(i, $event, false)"
              (done)="set(i, $event, true)"
            />
          }
        </span>
      </div>
    } @else {
      <p>
        @if (fedFrom(); as from) {
          Fed by <b>{{ from }}</b>.
        } @else {
          Nothing feeds it.
        }
      </p>
    }
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
      @if (!fedFrom() && output() !== 'surface') {
        <button class="pill" (click)="give()" title="The same everywhere">a number</button>
      }
      @if (fedFrom()) {
        <button class="pill" (click)="acts.remove()">let go</button>
      }
    </div>
  `,
  styles: `
    .outname {
      font-size: 14px;
    }
    .values {
      display: flex;
      align-items: center;
      gap: 2px;
    }
    input[type='color'] {
      width: 26px;
      height: 20px;
      padding: 0;
      border: 1px solid var(--edge);
      border-radius: 6px;
      background: none;
    }
  `,
  styleUrl: './card.scss',
})
export class OutputCard {
  readonly model = inject(MasterModel);
  private readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  readonly output = input.required<MasterOutput>();
  readonly title = outputTitle;
  /** The numbers that it is; null where something feeds it, or nothing. */
  readonly numbers = computed(() => {
    const source = this.model.master()?.outputs[this.output()];
    return source?.from === 'value' ? source.value : null;
  });
  readonly hex = (v: readonly number[]): string => hexOf(v.map((x) => Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, x))))));
  /** Begins with what it is while nothing feeds it. */
  give(): void {
    const name = this.output();
    if (name === 'surface') return;
    const value = name === 'height' ? [0] : [...ROLE_FACTS[name].neutral];
    this.model.edit(`Set ${outputTitle(name)}`, (d) => (d.outputs[name] = { from: 'value', value }));
  }
  private put(value: number[], done: boolean): void {
    const name = this.output();
    this.model.draft((d) => (d.outputs[name] = { from: 'value', value }));
    if (done) this.model.commit(`Set ${outputTitle(name)}`);
  }
  set = (i: number, v: number, done: boolean): void =>
    this.put(
      (this.numbers() ?? [0]).map((x, k) => (k === i ? v : x)),
      done,
    );
  setColour = (hex: string, done: boolean): void => this.put(linearOf(hex), done);
  private readonly specimen = inject(StageSpecimen);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  /** How often what is seen through is drawn, from where the specimen is framed; null for what is not. */
  private readonly counted = signal<Overdraw | null>(null);
  private readonly latest = new Latest<Overdraw>(
    (counted) => this.counted.set(counted),
    (error) => this.notices.error(error),
  );
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
  outHelp = (name: string): string => OUT_HELP[name as MasterOutput] ?? `${ROLE_FACTS[name as Role].label}: stands in for that of the surface.`;
  readonly drawn = DRAWN_CHOICES;
  drawAs = (as: DrawnAs): void => this.model.edit(`Drawn ${as}`, (d) => void (d.drawn = as));
  cutAt = (cut: number): void => this.model.edit(`Cut below ${cut.toFixed(2)}`, (d) => void (d.cut = Math.min(1, Math.max(0, cut))));
  /** What a choice costs. */
  readonly overdraw = computed(() => {
    const [master, over] = [this.model.master(), this.counted()];
    if (!master || master.drawn === 'solid') return 'Each pixel is paid once, by what is in front.';
    if (master.drawn === 'cut-out') return 'All or nothing, by opacity. What is cut away is worked out all the same.';
    const goes = master.drawn === 'glass' ? 'Mixed with what is behind, by opacity.' : 'Added to what is behind, times opacity.';
    const unfed = master.outputs.opacity ? '' : ' Nothing feeds opacity: it covers all.';
    if (!over) return `${goes}${unfed}`;
    const paid =
      over.most <= 1
        ? 'Drawn once wherever it is seen, and paid beside what is behind.'
        : `Drawn ${over.mean.toFixed(1)} times where it is seen, ${over.most} times at most: as often is it paid.`;
    const sorted =
      master.drawn === 'glass' && over.most > 2
        ? ' Glass in front of glass is mixed in the order of the mesh: where that matters, part it into slots.'
        : '';
    return `${goes} ${paid}${sorted}${unfed}`;
  });

  constructor() {
    effect(() => {
      const drawn = this.model.master()?.drawn;
      if (drawn !== 'glass' && drawn !== 'additive') return untracked(() => this.counted.set(null));
      // On an asset, of its own slots alone.
      const [form, spans] = [this.specimen.form(), this.specimen.ownSpans()];
      const { position, index } = spans ? withSpans(form, spans) : form;
      const orbit = frameBounds(this.specimen.bounds());
      this.latest.ask(() => this.meshes.run('overdraw', { mesh: { position, index }, orbit }));
    });
  }
}
