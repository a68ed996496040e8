import { JOBS } from '@pebble/contracts/jobs';
import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router } from '@angular/router';
import type { GeneratorName, MapEntry, Role, SurfaceDocument } from '@pebble/core';
import { DEFAULT_FACTS, GENERATORS, ROLES, ROLE_FACTS, densityGap, densityOf, slotsOf, tallOf } from '@pebble/core';
import { IMAGE_ENDINGS } from '@pebble/formats/images';
import { COMPANION_ENDINGS, MESH_ENDINGS } from '@pebble/formats/mesh-names';
import { RAW_ENDINGS } from '@pebble/formats/raw';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { breathe } from '../../ui/breathe';
import { Frame } from '../../ui/frame';
import { ScrubField } from '../../ui/scrub-field';
import type { MendOrder } from './findings';
import { Findings } from './findings';
import type { HookedMesh } from './import-form';
import { ImportForm } from './import-form';
import { Replacing } from './replacing';
import { blendOf } from './blend-of';
import { droppedFiles, tellingFile } from './dropped';
import { Intake } from './intake';
import type { MapRow } from './map-rows';
import { mapRows } from './map-rows';
import { KeptTable } from './kept-table';
import { MadeOf } from './made-of';
import { MapSteps } from './map-steps';
import { MapStrip } from './map-strip';
import type { Mend } from './mends';
import { moveTo, offersOf, readAs, turnGreen } from './mends';
import { QuarrySheet } from './quarry';
import { TerrainSheet } from './terrain-sheet';
import { SlotTrial } from './slot-trial';
import { SpecimenModel } from './specimen/specimen-model';
import { SpecimenPage } from './specimen/specimen-page';
import { SpecimenTray } from './specimen/specimen-tray';
import { Spread } from './spread';
import { StripView } from './strip-view';
import { SurfaceTrial } from './trial';
import type { Variation } from './variations';
import { Variations } from './variations';
import { Wall, stoneOfSpecimen, stoneOfSurface } from './wall';
import { bytesText } from '../../ui/bytes';
import { nameFrom } from '../../ui/name';
import { closedByEscape } from '../../ui/escape';

type Accepted = Parameters<ImportForm['accepted']['emit']>[0];
type Filter = 'all' | 'notes' | 'no-height' | 'specimens';

/** Something about it is worth a look. */
const doubtful = ({ notes, maps }: SurfaceDocument): boolean =>
  notes.length > 0 || Object.values(maps).some((m) => m.findings?.some((f) => f.severity !== 'info'));

/** The wall of pebbles, the strip of maps of the chosen surface, and its facts. */
@Component({
  selector: 'pb-surfaces',
  imports: [
    Findings,
    Frame,
    ImportForm,
    KeptTable,
    MadeOf,
    MapSteps,
    MapStrip,
    MatMenuModule,
    MatTooltipModule,
    QuarrySheet,
    TerrainSheet,
    ScrubField,
    SpecimenPage,
    SpecimenTray,
    Spread,
    Variations,
    Wall,
  ],
  providers: [Intake, Replacing, SlotTrial, SpecimenModel, StripView, SurfaceTrial],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './surfaces.view.html',
  styleUrls: ['./tray.scss', './surfaces.view.scss'],
  host: { '(dragenter)': 'hover($event)', '(dragover)': 'hover($event)', '(dragleave)': 'over.set(false)', '(drop)': 'drop($event)' },
})
export class SurfacesView {
  readonly documents = inject(DocumentsService);
  readonly jobs = inject(JobsService);
  readonly intake = inject(Intake);
  private readonly notices = inject(NoticesService);
  readonly workbench = inject(WorkbenchService);
  private readonly router = inject(Router);
  readonly slot = inject(SlotTrial);
  readonly view = inject(StripView);
  readonly trial = inject(SurfaceTrial);
  readonly specimen = inject(SpecimenModel);
  readonly pictureKinds = [...IMAGE_ENDINGS, ...RAW_ENDINGS].join();
  readonly kinds = [this.pictureKinds, ...MESH_ENDINGS, ...COMPANION_ENDINGS].join();
  readonly repetitions = [1, 2, 4, 8];
  readonly main = viewChild<MapStrip>('main');
  private readonly slotBar = viewChild<ElementRef<HTMLElement>>('slotBar');
  readonly generators = Object.entries(GENERATORS).map(([name, g]) => ({ name: name as GeneratorName, title: g.title }));
  readonly surfaces = this.documents.list('surface');
  readonly chosenId = signal<string | null>(null);
  /** What is to be shown, from an address. */
  readonly surfaceAsked = input<string>(undefined, { alias: 'surface' });
  readonly specimenAsked = input<string>(undefined, { alias: 'specimen' });
  readonly assetAsked = input<string>(undefined, { alias: 'asset' });
  /** Surfaces picked in order, to become a blend. */
  readonly picked = signal<readonly string[]>([]);
  /** The surface that is shown beside the chosen one, at the same scale. */
  readonly besideId = signal<string | null>(null);
  readonly sheet = signal(false);
  readonly quarry = signal(false);
  readonly terrain = signal(false);
  showTerrain(id: string): void {
    this.terrain.set(false);
    this.filter.set('specimens');
    this.specimen.wanted.set(id);
  }
  readonly wanted = signal(512);
  readonly filter = signal<Filter>('all');
  readonly search = signal('');
  readonly over = signal(false);

  /** Where slots of meshes lie on their textures, once that is known. */
  private readonly covers = signal<ReadonlyMap<string, ReadonlyMap<string, Uint8Array>>>(new Map());
  /** Meshes that what was dropped may be hooked up to: those that came along, else the one that is open. */
  readonly hookable = computed<HookedMesh[]>(() => {
    const came = this.intake.asking()?.meshes ?? [];
    // What has no coordinates can wear nothing by them.
    const all = this.specimen.specimens().filter(({ body }) => Object.values(body.parts).every((p) => p.level > 0 || p.sets > body.uvSet));
    const along = all.filter((s) => came.includes(s.body.file.blob));
    const open = this.bodies() ? all.filter((s) => s.id === this.specimen.id()) : [];
    return (along.length ? along : open).map(({ id, body }) => ({
      id,
      name: body.name,
      slots: slotsOf(body),
      along: along.length > 0,
      covers: this.covers().get(id),
    }));
  });
  /** Imports what was asked about, and hooks it up when it is there. */
  async accept({ requests, again, hookings }: Accepted): Promise<void> {
    for (const { specimen, wears } of hookings) {
      const sideM = await this.specimen.sideOf(specimen);
      // What was finished for a mesh is as large as its texture is on it.
      const own = new Set(wears.map(([, at]) => at));
      requests
        .flatMap((r) => r.surfaces)
        .forEach((surface, at) => {
          if (own.has(at) && surface.sizeM === DEFAULT_FACTS.sizeM && sideM) surface.sizeM = sideM;
        });
    }
    await this.intake.accept(requests, again, (made) => {
      for (const { specimen, wears } of hookings) void this.specimen.hookUp(specimen, new Map(wears.map(([slot, at]) => [slot, made[at]])));
    });
  }

  /** Whether the wall shows specimens instead of surfaces. */
  readonly bodies = computed(() => this.filter() === 'specimens');
  readonly chosen = computed(() => (this.bodies() ? null : this.documents.body(this.chosenId(), 'surface')));
  /** Metres that the chosen surface is high, where it is not square. */
  readonly highM = computed(() => {
    const surface = this.chosen();
    const tall = surface ? tallOf(surface.maps) : 1;
    return surface && tall !== 1 ? surface.sizeM * tall : null;
  });
  /** The chosen surface with the map that is tried in a slot. */
  readonly seen = computed(() => {
    const surface = this.chosen();
    return surface && this.slot.tried(surface);
  });
  readonly shown = computed(() => {
    const text = this.search().trim().toLowerCase();
    const kept: Record<Filter, (s: SurfaceDocument) => boolean> = {
      all: () => true,
      notes: doubtful,
      'no-height': (s) => !s.maps.height,
      specimens: () => false,
    };
    return this.surfaces().filter(
      (s) => kept[this.filter()](s.body) && (!text || `${s.body.name} ${Object.keys(s.body.maps).join(' ')}`.toLowerCase().includes(text)),
    );
  });
  readonly stones = computed(() => {
    const text = this.search().trim().toLowerCase();
    if (!this.bodies()) return this.shown().map(({ id, body }) => stoneOfSurface(id, body));
    return this.specimen
      .specimens()
      .map(({ id, body }) => stoneOfSpecimen(id, body))
      .filter((s) => s.name.toLowerCase().includes(text));
  });
  readonly filters = computed(() => {
    const count = (f: (s: SurfaceDocument) => boolean) => this.surfaces().filter((s) => f(s.body)).length;
    return [
      { id: 'all' as const, text: `All ${this.surfaces().length}` },
      { id: 'notes' as const, text: `With notes ${count(doubtful)}` },
      { id: 'no-height' as const, text: `No height ${count((s) => !s.maps.height)}` },
      { id: 'specimens' as const, text: `Specimens ${this.specimen.specimens().length}` },
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
  readonly making = computed(() => this.jobs.open().filter((j) => JOBS[j.kind].onWall && j.id !== this.trial.job()?.id));
  readonly rows = computed<MapRow[]>(() => {
    const [surface, { id, body }] = [this.chosen(), this.workbench.target()];
    return surface ? mapRows(surface, body, id) : [];
  });
  readonly tabs = [
    { id: 'hold' as const, text: 'What maps hold' },
    { id: 'kept' as const, text: 'How they are kept' },
    { id: 'made' as const, text: 'How they are made' },
  ];
  readonly tab = signal<'hold' | 'kept' | 'made'>('hold');
  readonly replacing = inject(Replacing);
  private readonly remapJob = signal<string | null>(null);
  readonly remapping = computed(() => this.jobs.open().find((j) => j.id === this.remapJob()) ?? null);
  readonly freeRoles = computed(() => ROLES.filter((r) => !this.chosen()?.maps[r]).map((id) => ({ id, label: ROLE_FACTS[id].label })));

  constructor() {
    closedByEscape(() => this.sheet.set(false), this.sheet);
    closedByEscape(() => this.quarry.set(false), this.quarry);
    closedByEscape(() => this.terrain.set(false), this.terrain);
    closedByEscape(
      () => this.replacing.asked.set(null),
      () => this.replacing.asked() !== null,
    );
    effect(() => {
      const list = this.surfaces();
      if (!list.some((s) => s.id === this.chosenId())) this.chosenId.set(list.at(0)?.id ?? null);
    });
    effect(() => {
      const [surface, asset] = [this.surfaceAsked(), this.assetAsked()];
      const specimen = this.specimenAsked() ?? this.documents.body(asset ?? null, 'asset')?.specimen;
      untracked(() => {
        if (surface) {
          this.filter.set('all');
          this.chosenId.set(surface);
        } else if (specimen) {
          this.filter.set('specimens');
          this.specimen.wanted.set(specimen);
          this.specimen.assetWanted.set(asset ?? null);
        }
      });
    });
    effect(() => this.workbench.open(this.bodies() ? this.specimen.shownId() : this.chosenId()));
    // Meshes that were dropped are shown as soon as they are there.
    effect(() => {
      const blobs = this.intake.cameWith();
      const fresh = this.specimen.specimens().filter((s) => blobs.includes(s.body.file.blob));
      if (fresh.length < blobs.length || !blobs.length) return;
      this.intake.cameWith.set([]);
      this.filter.set('specimens');
      this.specimen.wanted.set(fresh[fresh.length - 1].id);
    });
    effect(() => {
      if (!this.intake.asking()) return;
      for (const { id, covers } of this.hookable())
        if (!covers) void this.specimen.coversOf(id).then((found) => this.covers.update((m) => new Map(m).set(id, found)));
    });
    // Arrow keys go to the slot as soon as it is there.
    effect(() => this.slotBar()?.nativeElement.focus());
    effect(() => {
      const id = this.chosenId();
      untracked(() => {
        const surface = this.chosen();
        this.trial.end();
        this.slot.end();
        if (!id || !surface) return;
        this.view.frame(surface.sizeM);
        this.trial.warm(surface);
      });
    });
    effect(() => {
      const rows = this.rows();
      this.workbench.meter.set(
        this.chosen() ? { samples: rows.length, operations: 0, bytes: rows.reduce((sum, r) => sum + r.runtime.bytes, 0) } : null,
      );
    });
  }

  readonly bytes = bytesText;
  reads = (m: MapEntry): string =>
    `${m.colourSpace === 'srgb' ? 'sRGB' : m.colourSpace}${m.normalDirection ? `, ${m.normalDirection.toUpperCase().replace('-', '−')}` : ''}, ${m.depth} bit`;
  density = (s: SurfaceDocument): number => Math.round(densityOf(s));
  /** Side in texels that the wanted density needs, as a power of two. */
  needs(s: SurfaceDocument): string {
    const side = 2 ** Math.ceil(Math.log2(Math.max(1, this.wanted() * s.sizeM)));
    return `needs ${side}²`;
  }

  choose({ id, add }: { id: string; add: boolean }): void {
    if (this.bodies()) return this.specimen.wanted.set(id);
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

  rename(text: string): void {
    const [id, name] = [this.chosenId(), nameFrom(text)];
    if (id && name) this.documents.edit(id, 'surface', `Rename to ${name}`, (d) => void (d.name = name));
  }

  generate(name: GeneratorName, variation?: Variation): void {
    const seed = Math.floor(Math.random() * 0xffffff);
    void this.jobs.start('generate', { name, seed, size: 1024, ...variation });
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
    try {
      const id = await this.documents.create(blendOf(list), 'New blend');
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
    if (event.dataTransfer)
      droppedFiles(event.dataTransfer, this.kinds)
        .then((files) => this.intake.take(files))
        .catch((error: unknown) => this.notices.error(error));
  }

  pickFiles(event: Event): void {
    const box = event.target as HTMLInputElement;
    const picked = [...(box.files ?? [])];
    box.value = '';
    // A browser has asked the system about each of them in this task already.
    void breathe().then(() => this.intake.take(picked.map((file) => tellingFile(file, file.webkitRelativePath))));
  }

  /** What can be done with a map in one click. */
  actions({ role, entry }: MapRow): Mend[] {
    const other = entry.colourSpace === 'linear' ? 'srgb' : 'linear';
    const coloured = ROLE_FACTS[role].colourSpace === 'srgb' ? readAs(role, entry, other) : null;
    return [
      ...(role === 'normal' ? [{ label: 'Turn green over', changes: [turnGreen(role, entry)] }] : []),
      ...(coloured ? [{ label: other === 'linear' ? 'Read as linear colour' : 'Read as sRGB colour', changes: [coloured] }] : []),
      ...offersOf(role).map((offer) => ({ ...offer, label: this.chosen()?.maps[offer.changes[0].role] ? `${offer.label}, anew` : offer.label })),
    ];
  }

  async remap({ label, changes }: MendOrder): Promise<void> {
    const id = this.chosenId();
    const job = id ? await this.intake.remap(id, label, changes) : null;
    this.remapJob.set(job?.id ?? null);
  }

  move({ role, entry, label }: MapRow, to: Role): void {
    void this.remap({ label: `${label} is ${ROLE_FACTS[to].label.toLowerCase()}`, changes: moveTo(role, entry, to) });
  }

  tryMaps(role: Role): void {
    const id = this.chosenId();
    if (id) this.slot.start(id, role);
  }

  slotKey(event: KeyboardEvent): void {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step) this.slot.step(step);
    else if (event.key === 'Enter' && event.target === event.currentTarget) this.takeSlot();
    else if (event.key === 'Escape') this.slot.end();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  takeSlot(): void {
    const taken = this.slot.taken();
    this.slot.end();
    if (taken) void this.remap(taken);
  }

  loadDemo = (): void => void this.jobs.start('demo');
  remove = (): void => {
    const id = this.chosenId();
    if (id) void this.documents.remove(id);
  };
}
