import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal } from '@angular/core';
import type { IdShare, Layer, UvSet } from '@pebble/core';
import { MAX_LAYERS, between, inOrder, isSpecimenName, makeCue, makeLayer, partShares } from '@pebble/core';
import { ComputeService } from '../../../services/compute.service';
import { NoticesService } from '../../../services/notices.service';
import { ScrubField } from '../../../ui/scrub-field';
import { BlendModel } from '../blend-model';
import { newKey } from '../../../ui/new';
import { LaidBy } from '../sentence/laid-by';
import { isShown } from './layer-tone';
import { StageSpecimen } from '../../../stage/stage-specimen';

/** Seams of layers that IDs part: hard, draped over what is below, without shade. */
const PARTED = { soft: 0.02, follow: 1, contact: 0 };

/** A surface for each colour of an ID map, or each part of the specimen, in one step. */
@Component({
  selector: 'pb-id-card',
  imports: [LaidBy, ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="popover" role="group" aria-label="Surfaces by ID">
      <label
        >Told apart by
        <select class="field" aria-label="What tells them apart" (change)="source.set($any($event.target).value)">
          <option value="" [selected]="!source()">parts of the specimen</option>
          @for (s of maps(); track s.id) {
            <option [value]="s.id" [selected]="source() === s.id">ID map of {{ s.name }}</option>
          }
        </select></label
      >
      @if (source()) {
        <label
          >Colours nearer than
          <span class="token"
            ><pb-scrub
              label="Colours nearer than this are one"
              [value]="tolerance()"
              [min]="0"
              [max]="1.7"
              [step]="0.004"
              [initial]="0.06"
              (live)="tolerance.set($event)"
              (done)="tolerance.set($event)"
          /></span>
          are one</label
        >
        <label pbLaidBy [set]="set()" (picked)="set.set($event)"></label>
      }
      <div class="ids">
        @for (share of shares(); track share.id) {
          <span [class.chip]="source()" [style.background]="source() ? share.id : null"></span>
          <b>{{ share.id }}</b>
          <span class="num">{{ (share.share * 100).toFixed(1) }} %</span>
          <select class="field" [attr.aria-label]="'Surface for ' + share.id" (change)="choose(share.id, $any($event.target).value)">
            <option value="" [selected]="!chosen()[share.id]">as it is</option>
            @for (s of surfaces(); track s.id) {
              <option [value]="s.id" [selected]="chosen()[share.id] === s.id">{{ s.name }}</option>
            }
          </select>
        } @empty {
          <p class="quiet">Looking …</p>
        }
      </div>
      @if (more() > 0) {
        <p class="quiet">{{ more() }} more colours under one in a thousand: raise the distance to merge them.</p>
      }
      <p class="quiet">{{ says() }}</p>
      <div class="row">
        <button class="button main" [disabled]="!picked().length || picked().length > room()" (click)="make()">
          Make {{ picked().length }} layer{{ picked().length === 1 ? '' : 's' }}
        </button>
        <button class="button" (click)="closed.emit()">Leave it</button>
      </div>
    </div>
  `,
  styles: `
    .popover {
      position: fixed;
      left: 12px;
      bottom: 132px;
      width: 400px;
      max-height: 70vh;
      overflow: auto;
      z-index: 20;
      display: grid;
      gap: 8px;
    }
    label,
    .row {
      display: flex;
      align-items: center;
      gap: 10px;
    }
    .ids {
      display: grid;
      grid-template-columns: 18px 1fr auto 150px;
      gap: 6px 10px;
      align-items: center;
    }
    .chip {
      width: 16px;
      height: 16px;
      border-radius: 8px;
      border: 1px solid var(--edge);
    }
  `,
})
export class IdCard {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  readonly closed = output();
  /** Id of a surface with an ID map; empty for the parts of the specimen. */
  readonly source = signal('');
  readonly tolerance = signal(0.06);
  /** Meshes that were brought in have coordinates that their ID maps were drawn for; ours have the extent. */
  readonly set = signal<UvSet | undefined>(isSpecimenName(this.specimen.name()) ? undefined : 1);
  readonly chosen = signal<Readonly<Record<string, string>>>({});
  private readonly found = signal<IdShare[]>([]);

  readonly maps = computed(() => Object.entries(this.model.surfaces()).flatMap(([id, s]) => (s.maps.id ? [{ id, name: s.name }] : [])));
  readonly surfaces = computed(() => Object.entries(this.model.surfaces()).flatMap(([id, s]) => (isShown(s) ? [{ id, name: s.name }] : [])));
  private readonly all = computed<IdShare[]>(() => (this.source() ? this.found() : partShares(this.specimen.mesh(), this.specimen.parts())));
  readonly shares = computed(() => this.all().filter((s) => s.share >= 0.001));
  readonly more = computed(() => this.all().length - this.shares().length);
  readonly picked = computed(() => this.shares().filter((s) => this.chosen()[s.id]));
  readonly room = computed(() => MAX_LAYERS - this.model.layers().length);
  readonly says = computed(() =>
    this.picked().length > this.room()
      ? `There is room for ${this.room()} more layers: a blend has ${MAX_LAYERS} at most.`
      : 'Each becomes a layer whose sentence names its colour or part; it can be changed like any other.',
  );

  constructor() {
    let run = 0;
    effect(() => {
      const stage = this.model.surfaces()[this.source()]?.maps.id?.stage;
      const tolerance = this.tolerance();
      const mine = ++run;
      if (!stage) return;
      this.compute.run('ids', { stage, tolerance }).then(
        (shares) => mine === run && this.found.set(shares),
        (error: unknown) => this.notices.error(error),
      );
    });
  }

  choose(id: string, surface: string): void {
    this.chosen.update((c) => ({ ...c, [id]: surface }));
  }
  make(): void {
    const [source, set] = [this.source(), this.set()];
    // A little softness at the tolerance: filtered rims do not flicker.
    const width = 0.02;
    this.model.edit(`Surfaces by ${source ? 'ID colours' : 'parts'}`, (d) => {
      for (const { id } of this.picked()) {
        const surface = this.chosen()[id];
        const cue = source
          ? makeCue('id', { surface: source, colour: id, centre: Math.max(0.01, this.tolerance()), width, ...(set ? { set } : {}) })
          : makeCue('part', { part: id });
        const top = inOrder(d.layers).at(-1);
        const layer: Layer = makeLayer(surface, `${this.model.nameOf(surface)} on ${id}`, between(top?.order, undefined), { coverage: { c1: cue } });
        d.layers[newKey()] = { ...layer, seam: { ...layer.seam, ...PARTED } };
      }
    });
    this.closed.emit();
  }
}
