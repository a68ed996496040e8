import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router } from '@angular/router';
import type { ImportRequest, UploadedFile } from '@pebble/contracts';
import type { BlendDocument, GeneratorName, MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { GENERATORS, ROLES, ROLE_FACTS, densityGap, densityOf, inOrder, makeCue, makeLayer, textureBytes } from '@pebble/core';
import { ApiService } from '../../services/api.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { Frame } from '../../ui/frame';
import { ScrubField } from '../../ui/scrub-field';
import { ImportForm } from './import-form';
import { MadeOf } from './made-of';
import { MapStrip } from './map-strip';
import { Spread } from './spread';
import { StripView } from './strip-view';
import { SurfaceTrial } from './trial';
import type { Variation } from './variations';
import { Variations } from './variations';
import { Wall } from './wall';

type Filter = 'all' | 'notes' | 'no-height';

/** The wall of pebbles, the strip of maps of the chosen surface, and its facts. */
@Component({
  selector: 'pb-surfaces',
  imports: [Frame, ImportForm, MadeOf, MapStrip, MatMenuModule, MatTooltipModule, ScrubField, Spread, Variations, Wall],
  providers: [StripView, SurfaceTrial],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './surfaces.view.html',
  styleUrl: './surfaces.view.scss',
  host: { '(dragover)': 'hover($event)', '(dragleave)': 'over.set(false)', '(drop)': 'drop($event)' },
})
export class SurfacesView {
  readonly documents = inject(DocumentsService);
  readonly jobs = inject(JobsService);
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly router = inject(Router);
  readonly view = inject(StripView);
  readonly trial = inject(SurfaceTrial);
  readonly repetitions = [1, 2, 4, 8];
  readonly main = viewChild<MapStrip>('main');
  readonly generators = Object.entries(GENERATORS).map(([name, g]) => ({ name: name as GeneratorName, title: g.title }));
  readonly surfaces = this.documents.list('surface');
  readonly chosenId = signal<string | null>(null);
  /** Surfaces picked in order, to become a blend. */
  readonly picked = signal<readonly string[]>([]);
  /** The surface that is shown beside the chosen one, at the same scale. */
  readonly besideId = signal<string | null>(null);
  readonly sheet = signal(false);
  readonly wanted = signal(512);
  readonly filter = signal<Filter>('all');
  readonly search = signal('');
  readonly over = signal(false);
  readonly upload = signal<{ done: number; count: number } | null>(null);
  readonly uploaded = signal<readonly UploadedFile[]>([]);
  private abort: AbortController | null = null;

  readonly chosen = computed(() => this.documents.body(this.chosenId(), 'surface'));
  readonly shown = computed(() => {
    const text = this.search().trim().toLowerCase();
    const kept: Record<Filter, (s: SurfaceDocument) => boolean> = {
      all: () => true,
      notes: (s) => s.notes.length > 0,
      'no-height': (s) => !s.maps.height,
    };
    return this.surfaces().filter(
      (s) => kept[this.filter()](s.body) && (!text || `${s.body.name} ${Object.keys(s.body.maps).join(' ')}`.toLowerCase().includes(text)),
    );
  });
  readonly filters = computed(() => {
    const count = (f: (s: SurfaceDocument) => boolean) => this.surfaces().filter((s) => f(s.body)).length;
    return [
      { id: 'all' as const, text: `All ${this.surfaces().length}` },
      { id: 'notes' as const, text: `With notes ${count((s) => s.notes.length > 0)}` },
      { id: 'no-height' as const, text: `No height ${count((s) => !s.maps.height)}` },
    ];
  });
  readonly others = computed(() => this.surfaces().filter((s) => s.id !== this.chosenId()));
  readonly beside = computed(() => (this.besideId() === this.chosenId() ? null : this.documents.body(this.besideId(), 'surface')));
  readonly stripHeight = computed(() => (this.beside() ? 300 : 208));
  readonly densityWarning = computed(() => {
    const [a, b] = [this.chosen(), this.beside()];
    if (!a || !b) return null;
    const gap = densityGap([a, b].map((body) => ({ density: densityOf(body) })));
    return gap && `densities differ ${gap.ratio.toFixed(1)}×: ${Math.round(gap.coarse.density)} and ${Math.round(gap.fine.density)} px/m`;
  });
  /** Whole repetitions that a pane shows across, when it is just so many. */
  readonly across = computed(() => {
    const times = this.view.window().acrossM / (this.chosen()?.sizeM ?? 1);
    return this.repetitions.find((n) => Math.abs(n - times) < 1e-6);
  });
  readonly making = computed(() => this.jobs.open().filter((j) => j.kind !== 'pack' && j.id !== this.trial.job()?.id));
  readonly rows = computed(() => {
    const surface = this.chosen();
    return surface ? ROLES.flatMap((role) => (surface.maps[role] ? [{ role, label: ROLE_FACTS[role].label, entry: surface.maps[role] }] : [])) : [];
  });

  constructor() {
    effect(() => {
      const list = this.surfaces();
      if (!list.some((s) => s.id === this.chosenId())) this.chosenId.set(list.at(0)?.id ?? null);
    });
    effect(() => this.workbench.open(this.chosenId()));
    effect(() => {
      const id = this.chosenId();
      untracked(() => {
        const surface = this.chosen();
        this.trial.end();
        if (!id || !surface) return;
        this.view.frame(surface.sizeM);
        this.trial.warm(surface);
      });
    });
    effect(() => {
      const surface = this.chosen();
      const maps = Object.entries(surface?.maps ?? {}) as [Role, MapEntry][];
      this.workbench.meter.set(
        surface
          ? {
              samples: maps.length,
              operations: 0,
              bytes: maps.reduce((sum, [role, m]) => sum + textureBytes(m.width, m.height, this.format(role)), 0),
            }
          : null,
      );
    });
  }

  format = (role: Role): 'BC7' | 'BC5' | 'BC4' => (role === 'normal' ? 'BC5' : ROLE_FACTS[role].components === 3 ? 'BC7' : 'BC4');
  bytes = (n: number): string => (n >= 2 ** 20 ? `${(n / 2 ** 20).toFixed(2)} MB` : `${(n / 1024).toFixed(0)} kB`);
  runtime = (role: Role, m: MapEntry): string => this.bytes(textureBytes(m.width, m.height, this.format(role)));
  reads = (m: MapEntry): string =>
    `${m.colourSpace === 'srgb' ? 'sRGB' : m.colourSpace}${m.normalDirection ? `, ${m.normalDirection.toUpperCase().replace('-', '−')}` : ''}, ${m.depth} bit`;
  density = (s: SurfaceDocument): number => Math.round(densityOf(s));
  /** Side in texels that the wanted density needs, as a power of two. */
  needs(s: SurfaceDocument): string {
    const side = 2 ** Math.ceil(Math.log2(Math.max(1, this.wanted() * s.sizeM)));
    return `needs ${side}²`;
  }

  choose({ id, add }: { id: string; add: boolean }): void {
    this.chosenId.set(id);
    if (add) this.pick(id);
  }

  pick(id: string): void {
    this.picked.update((list) => (list.includes(id) ? list.filter((x) => x !== id) : [...list, id]));
  }

  draft(key: 'sizeM' | 'reliefM', value: number): void {
    const id = this.chosenId();
    if (id)
      this.documents.draft(id, 'surface', (d) => {
        d[key] = value;
      });
  }

  set(key: 'sizeM' | 'reliefM', value: number): void {
    this.draft(key, value);
    const id = this.chosenId();
    if (id) this.documents.commit(id, key === 'sizeM' ? `Size ${value.toFixed(2)} m` : `Relief ${(value * 1000).toFixed(1)} mm`);
  }

  rename(name: string): void {
    const id = this.chosenId();
    if (id && name.trim())
      this.documents.edit(id, 'surface', `Rename to ${name.trim()}`, (d) => {
        d.name = name.trim();
      });
  }

  flipGreen(): void {
    // The direction belongs to the import: the file is read again with the other one, and its pixels follow.
    const id = this.chosenId();
    const surface = this.chosen();
    const normal = surface?.maps.normal;
    if (!id || !surface || !normal) return;
    const maps = (Object.entries(surface.maps) as [Role, MapEntry][]).map(([role, m]) => ({
      blob: m.blob,
      fileName: m.fileName,
      role,
      normalDirection: role === 'normal' ? (normal.normalDirection === 'y-' ? ('y+' as const) : ('y-' as const)) : ('y+' as const),
    }));
    void this.jobs.start('/imports', {
      surfaces: [{ name: `${surface.name} (green turned)`, sizeM: surface.sizeM, reliefM: surface.reliefM, maps }],
    });
  }

  generate(name: GeneratorName, variation?: Variation): void {
    const seed = Math.floor(Math.random() * 0xffffff);
    void this.jobs.start('/generate', { name, seed, size: 1024, ...variation });
  }
  takeVariation(variation: Variation): void {
    const id = this.chosenId();
    this.sheet.set(false);
    if (!id) return;
    this.trial.turn(id, variation);
    void this.trial.keep();
  }
  keepVariation(variation: Variation): void {
    const generator = this.chosen()?.generator;
    if (generator) this.generate(generator.name, variation);
  }

  async blend(): Promise<void> {
    const list = this.picked().flatMap((id) => {
      const body = this.documents.body(id, 'surface');
      return body ? [{ id, body }] : [];
    });
    const layers = Object.fromEntries(list.map(({ id, body }, i) => [`layer${i + 1}`, makeLayer(id, body.name, i + 1)]));
    inOrder(layers)
      .slice(1)
      .forEach((l, i) => {
        layers[l.id].coverage = { even: makeCue('noise', { order: 1, centre: 0.5, width: 0.25, sizeM: 0.6, octaves: 4, seed: i + 3 }) };
      });
    const body: BlendDocument = {
      kind: 'blend',
      version: 1,
      name: list
        .map((l) => l.body.name)
        .join(' and ')
        .slice(0, 80),
      extentM: Math.max(...list.map((l) => l.body.sizeM)),
      specimen: 'patch',
      cut: { ax: 0.06, ay: 0.55, bx: 0.94, by: 0.45 },
      layers,
    };
    try {
      const id = await this.documents.create(body, 'New blend');
      this.picked.set([]);
      await this.router.navigate(['/blend', id]);
    } catch (error) {
      this.notices.error(error);
    }
  }

  hover(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.over.set(true);
  }

  drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    void this.take([...(event.dataTransfer?.files ?? [])]);
  }

  pickFiles(event: Event): void {
    const box = event.target as HTMLInputElement;
    void this.take([...(box.files ?? [])]);
    box.value = '';
  }

  private async take(files: File[]): Promise<void> {
    if (!files.length || this.upload()) return;
    this.abort = new AbortController();
    this.upload.set({ done: 0, count: files.length });
    try {
      this.uploaded.set(await this.api.upload<UploadedFile[]>(files, (done) => this.upload.set({ done, count: files.length }), this.abort.signal));
    } catch (error) {
      if ((error as Error).name !== 'AbortError') this.notices.error(error);
    } finally {
      this.upload.set(null);
    }
  }

  cancelUpload = (): void => this.abort?.abort();

  async accept(request: ImportRequest): Promise<void> {
    if (await this.jobs.start('/imports', request)) this.uploaded.set([]);
  }

  loadDemo = (): void => void this.jobs.start('/demo');
  remove = (): void => {
    const id = this.chosenId();
    if (id) void this.documents.remove(id);
  };
}
