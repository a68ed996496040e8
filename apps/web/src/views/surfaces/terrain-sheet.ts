import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import type { UploadedFile } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts/jobs';
import { HILLSIDE, TERRAIN_METRES, titleOf } from '@pebble/core';
import { IMAGE_ENDINGS } from '@pebble/formats/images';
import { RAW_ENDINGS } from '@pebble/formats';
import { ApiService } from '../../services/api.service';
import { JobsService } from '../../services/jobs.service';
import { nameFrom } from '../../ui/name';
import { ScrubField } from '../../ui/scrub-field';

/** Metres that are dear to change once layers lie on a terrain, and what each means. */
const METRES = [
  { key: 'acrossM', label: 'Across', about: 'from the first to the last sample of a row; its slopes follow from it' },
  { key: 'rangeM', label: 'Range', about: 'from black to white; slopes grow with it' },
  { key: 'footM', label: 'Foot', about: 'altitude of black above the sea, which rules by altitude mean' },
] as const;
type Key = (typeof METRES)[number]['key'];

/** Makes a terrain of heights, asked for what their numbers mean before anything lies on it. */
@Component({
  selector: 'pb-terrain',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h3>A terrain</h3>
      <span class="gap"></span>
      <button class="button" (click)="closed.emit()">Close</button>
    </header>
    <div class="line">
      <label class="pill" tabindex="0" (keydown.enter)="pick.click()"
        >Pick a picture of heights<input
          #pick
          class="visually-hidden"
          type="file"
          [accept]="kinds"
          data-testid="pick-heights"
          (change)="choose($event)"
      /></label>
      <span class="num from" [title]="from()">{{ from() }}</span>
      @if (file()) {
        <button class="pill" (click)="file.set(null)">Orrin Ridge instead</button>
      }
    </div>
    <p class="quiet">16-bit PNG, TIFF, raw 16-bit squares or OpenEXR; 257 to 4097 samples along a side divide best. 8 bits come as terraces.</p>
    <label class="row"
      >Name <input class="field" aria-label="Name of the terrain" maxlength="200" [value]="name()" (change)="typed.set($any($event.target).value)"
    /></label>
    @for (m of metres; track m.key) {
      <div class="row">
        <span>{{ m.label }}</span>
        <span class="token"
          ><pb-scrub
            [label]="'Metres: ' + m.label"
            [value]="facts()[m.key]"
            [min]="limits[m.key][0]"
            [max]="limits[m.key][1]"
            [step]="1"
            unit="m"
            [decimals]="1"
            [disabled]="!file()"
            (live)="set(m.key, $event)"
            (done)="set(m.key, $event)"
        /></span>
        <span class="quiet">{{ m.about }}</span>
      </div>
    }
    <p class="quiet">These are dear to change later: layers and rules that lie on the terrain are in its metres.</p>
    @if (problem(); as text) {
      <p class="problem" role="alert">{{ text }}</p>
    }
    <div class="line">
      <button class="button main" [disabled]="busy()" (click)="make()">{{ busy() ? 'Making it …' : 'Make the terrain' }}</button>
    </div>
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      align-content: start;
      min-width: 0;
      flex: 1;
    }
    header,
    .line {
      display: flex;
      align-items: center;
      gap: 10px;
    }
    .gap {
      flex: 1;
    }
    .from {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .row {
      display: grid;
      grid-template-columns: 64px 112px 1fr;
      align-items: center;
      gap: 10px;
    }
    label.row {
      grid-template-columns: 64px minmax(0, 280px);
    }
    p {
      margin: 0;
    }
    .problem {
      color: var(--error);
    }
  `,
})
export class TerrainSheet {
  private readonly api = inject(ApiService);
  private readonly jobs = inject(JobsService);
  readonly closed = output<void>();
  /** Tells the id of the specimen that was made. */
  readonly made = output<string>();
  readonly metres = METRES;
  readonly limits = TERRAIN_METRES;
  readonly kinds = [...IMAGE_ENDINGS, ...RAW_ENDINGS].join();
  readonly file = signal<File | null>(null);
  readonly typed = signal<string | null>(null);
  readonly name = computed(
    () => nameFrom(this.typed() ?? '') ?? (this.file() ? titleOf(this.file()?.name.replace(/\.[^.]*$/, '') ?? '') : 'Orrin Ridge hillside'),
  );
  private readonly own = signal<Partial<Record<Key, number>>>({});
  /** Of the hillside that ships its metres are what they are. */
  readonly facts = computed<Record<Key, number>>(() => (this.file() ? { acrossM: 512, rangeM: 100, footM: 0, ...this.own() } : { ...HILLSIDE }));
  readonly from = computed(() => this.file()?.name ?? 'the hillside of Orrin Ridge, 1025²');
  readonly sending = signal(false);
  readonly problem = signal<string | null>(null);
  private readonly jobId = signal<string | null>(null);
  private readonly job = computed(() => this.jobs.job(this.jobId()));
  readonly busy = computed(() => this.sending() || ['waiting', 'running'].includes(this.job()?.status ?? ''));

  constructor() {
    effect(() => {
      const job = this.job();
      if (job?.status === 'failed') untracked(() => this.problem.set(job.error));
      const id = jobResult('terrain', job)?.documents.at(0);
      if (id) untracked(() => this.made.emit(id));
    });
  }

  set = (key: Key, metres: number): void => this.own.update((o) => ({ ...o, [key]: metres }));
  choose(event: Event): void {
    const box = event.target as HTMLInputElement;
    const file = box.files?.[0];
    box.value = '';
    if (!file) return;
    this.file.set(file);
    this.problem.set(null);
  }
  async make(): Promise<void> {
    this.problem.set(null);
    this.sending.set(true);
    try {
      const file = this.file();
      const [sent] = file ? await this.api.upload<UploadedFile[]>([file], () => undefined, new AbortController().signal) : [null];
      if (sent && !sent.blob) return this.problem.set(sent.problem);
      const heights = sent?.blob ? { blob: sent.blob, fileName: sent.fileName } : null;
      const job = await this.jobs.start('terrain', { name: this.name(), heights, ...this.facts() });
      if (job) this.jobId.set(job.id);
    } catch (error) {
      this.problem.set((error as Error).message);
    } finally {
      this.sending.set(false);
    }
  }
}
