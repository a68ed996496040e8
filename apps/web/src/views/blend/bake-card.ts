import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { Router } from '@angular/router';
import type { BakeRequest } from '@pebble/contracts';
import { BLEND_ROLES, PACKED_FORMATS, placeName, textureBytes } from '@pebble/core';
import { picturePlaces } from '@pebble/usecases';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { MeshService } from '../../services/mesh.service';
import { NoticesService } from '../../services/notices.service';
import { StageSpecimen } from '../../stage/stage-specimen';
import { AssetModel } from '../../stage/asset-model';
import { BlendModel } from './blend-model';
import { bytesText } from '../../ui/bytes';
import { ByKey } from '../../ui/latest';
import { Picture } from '../../ui/picture';
import type { MeshRequests } from '../../workers/mesh-protocol';
import { closedByEscape } from '../../ui/escape';

type Overlapping = NonNullable<MeshRequests['overlap']['result']>;

/** What squares are told by among things that have ids. */
const SQUARE = 'square:';
const SIZES = [256, 512, 1024, 2048, 4096, 8192];

/** Makes a surface of the open blend: what it will be is said before, how far it is while it is made. */
@Component({
  selector: 'pb-bake-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Picture],
  template: `
    <button class="pill" [class.on]="open()" [attr.aria-expanded]="open()" (click)="open.set(!open())">make a surface …</button>
    @if (open()) {
      <div class="popover" role="group" aria-label="Make a surface of this blend">
        @if (job(); as j) {
          <p>{{ j.label }}</p>
          <progress [value]="j.progress" max="1"></progress>
          <p class="quiet">{{ j.note || 'waiting' }}</p>
          @if (running()) {
            <button class="button" (click)="jobs.cancel(j.id)">Cancel</button>
          } @else if (j.status === 'done') {
            <button class="button main" (click)="show()">See it among the surfaces</button>
            <button class="button" (click)="jobId.set(null)">Make another</button>
          } @else {
            <p>{{ j.status === 'cancelled' ? 'Cancelled: nothing was kept.' : j.error }}</p>
            <button class="button" (click)="jobId.set(null)">Try again</button>
          }
        } @else {
          <label
            >Side
            <select class="field" aria-label="Side in pixels" (change)="size.set(+$any($event.target).value)">
              @for (s of sizes; track s) {
                <option [value]="s" [selected]="s === size()">{{ s }} px</option>
              }
            </select></label
          >
          <label
            >Over
            <select class="field" aria-label="What it is baked over" (change)="choose($any($event.target).value)">
              @for (p of squares(); track p.value) {
                <option [value]="p.value" [selected]="onto() === p.value">{{ p.says }}</option>
              }
              @for (s of specimens(); track s.id) {
                <option [value]="s.id" [selected]="onto() === s.id">the texture of {{ s.body.name }}</option>
              }
              @for (s of slots(); track s.id) {
                <option [value]="'slot:' + s.id" [selected]="onto() === 'slot:' + s.id">{{ s.slot }} of {{ assets.body()?.name }}</option>
              }
            </select></label
          >
          @if (overlap(); as bad) {
            <pb-picture class="page" [picture]="bad.picture" label="The texture; red where places lie on each other" />
            <p role="alert">{{ bad.message }}.</p>
          } @else {
            <p class="quiet">{{ says() }}</p>
          }
          <button class="button main" [disabled]="overlap() !== null" (click)="start()">Make it</button>
        }
      </div>
    }
  `,
  styles: `
    :host {
      position: relative;
    }
    .popover {
      position: fixed;
      left: 12px;
      bottom: 132px;
      width: 300px;
      z-index: 20;
      display: grid;
      gap: 8px;
    }
    label {
      display: flex;
      justify-content: space-between;
      align-items: center;
      gap: 10px;
    }
    select {
      max-width: 200px;
    }
    progress {
      width: 100%;
    }
    .page {
      width: 160px;
      height: 160px;
      background: var(--ground);
      border-radius: 6px;
    }
  `,
})
export class BakeCard {
  private readonly model = inject(BlendModel);
  private readonly documents = inject(DocumentsService);
  private readonly router = inject(Router);
  private readonly on = inject(StageSpecimen);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  readonly jobs = inject(JobsService);
  readonly specimens = this.documents.list('specimen');
  readonly sizes = SIZES;
  readonly open = signal(false);
  readonly size = signal(1024);
  readonly assets = inject(AssetModel);
  /** Slots of the asset on the stage that the blend sits on; only brought-in meshes have a texture of their own. */
  readonly slots = computed(() => {
    const specimen = this.assets.body()?.specimen;
    return this.specimens().some((s) => s.id === specimen) ? this.assets.slots().filter((s) => s.blend === this.model.id()) : [];
  });
  /** The square of the blend, as each place of its specimen shows it where its coverages look at the mesh. */
  readonly squares = computed(() => {
    const [{ material }, blend] = [this.model.shaped(), this.model.blend()];
    const places = material && blend ? picturePlaces(material, BLEND_ROLES, blend, this.specimenBodies()) : [null];
    const extent = { value: SQUARE, says: 'its square over the extent, tiling', place: null };
    const named = places.flatMap((place) =>
      place ? [{ value: `${SQUARE}${placeName(place)}`, says: `its square as ${placeName(place)} shows it`, place }] : [],
    );
    return [...named, extent];
  });
  private readonly specimenBodies = computed(() => Object.fromEntries(this.specimens().map((s) => [s.id, s.body])));
  /** Id of a specimen, a slot of the asset, or one of the squares, that of the flat where none was chosen. */
  private readonly chosen = signal<string | null>(null);
  readonly onto = computed(() => this.chosen() ?? this.shown().value);
  /** The square that the flat shows. */
  private readonly shown = computed(() => this.squares().find((s) => s.place?.slot === this.on.place()?.slot) ?? this.squares()[0]);
  choose = (value: string): void => this.chosen.set(value);
  private readonly square = computed(() => this.squares().find((s) => s.value === this.onto()) ?? null);
  readonly jobId = signal<string | null>(null);
  readonly job = computed(() => this.jobs.job(this.jobId()));
  readonly running = computed(() => this.job()?.status === 'waiting' || this.job()?.status === 'running');
  readonly says = computed(() => {
    const extentM = this.model.blend()?.extentM ?? 1;
    const side = this.size();
    const bytes = (['colour', 'shape', 'height', 'rare'] as const).reduce((sum, unit) => sum + textureBytes(side, side, PACKED_FORMATS[unit]), 0);
    const memory = `${bytesText(bytes)} at runtime`;
    const square = this.square();
    if (!square) return `One texture without repetition, ${memory}.`;
    const once = square.place ? ` Where the mesh repeats it or turns elsewhere it looks otherwise.` : '';
    return `${Math.round(side / extentM)} px/m over ${extentM.toFixed(2)} m, ${memory}; maps that are the same everywhere are left out.${once}`;
  });

  constructor() {
    closedByEscape(() => this.open.set(false), this.open);
    effect(() => this.look());
    effect(() => {
      // Another blend has nothing to do with what was made of this one.
      this.model.id();
      this.jobId.set(null);
      this.chosen.set(null);
    });
  }

  async start(): Promise<void> {
    const started = await this.jobs.start('bake', { size: this.size(), ...this.place() }, this.model.id() ?? '');
    if (started) this.jobId.set(started.id);
  }
  private place(): Pick<BakeRequest, 'specimen' | 'asset' | 'slot' | 'place'> {
    const square = this.square();
    if (square) return { place: square.place };
    const [, slot] = this.onto().split('slot:');
    if (slot) return { asset: this.assets.id() ?? '', slot };
    return { specimen: this.onto() };
  }
  private readonly looking = new ByKey((error) => this.notices.error(error));
  private readonly found = signal<{ key: string; overlap: Overlapping | null } | null>(null);
  /** What it is to be baked into: a specimen, or a slot on one; null for a square. */
  private readonly texture = computed(() => {
    const slot = this.slots().find((s) => `slot:${s.id}` === this.onto());
    const id = slot ? this.assets.body()?.specimen : this.onto();
    const specimen = this.specimens().find((s) => s.id === id)?.body;
    return specimen ? { key: JSON.stringify([specimen.model, specimen.uvSet, specimen.stacking, slot]), specimen, slot } : null;
  });
  /** Places that lie on each other there, so that nothing can be made; null when all is well, or not known yet. */
  readonly overlap = computed(() => (this.found()?.key === this.texture()?.key ? (this.found()?.overlap ?? null) : null));
  private look(): void {
    const texture = this.open() ? this.texture() : null;
    if (!texture) return;
    const { key, specimen, slot } = texture;
    this.looking.ask(
      'overlap',
      key,
      () => this.meshes.run('overlap', { specimen, slot }),
      (overlap) => this.found.set({ key, overlap }),
    );
  }
  show = (): void => void this.router.navigate(['/surfaces']);
}
