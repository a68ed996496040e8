import { CdkConnectedOverlay } from '@angular/cdk/overlay';
import { jobResult } from '@pebble/contracts/jobs';
import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChildren } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiClose, mdiPlus } from '@mdi/js';
import type { AnyDocument, OutputChannel, PictureWeight, ReadyRecipe, RecipeDocument, RecipeFile, Role } from '@pebble/core';
import {
  OUTPUT_CHANNELS,
  READY_RECIPES,
  ROLES,
  ROLE_FACTS,
  filesOf,
  leftOut,
  lossesAt,
  changes,
  inOrder,
  isColourFile,
  nameSlug,
  parseChannelLayout,
  placeName,
  textureBytes,
  weightAt,
} from '@pebble/core';
import type { PlannedFile } from '@pebble/usecases';
import { availableRoles, libraryOf, planRecipe, surfacesBehind } from '@pebble/usecases';
import { ComputeService } from '../../services/compute.service';
import { DocumentsService } from '../../services/documents.service';
import { JobsService } from '../../services/jobs.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { Frame } from '../../ui/frame';
import { Icon } from '../../ui/icon';
import { Picture } from '../../ui/picture';
import type { FilePreview } from '../../workers/protocol';
import type { RouteEdit } from './crossing-card';
import { CrossingCard } from './crossing-card';
import { FILE_WAYS, JPEG_SHARE, blockBytes, putWay, wayOfFile } from './file-ways';
import { Naming } from './naming';
import type { SourceRow } from './routing';
import { crossingOf, sourceRows } from './routing';
import { bytesText } from '../../ui/bytes';
import { saveFile } from '../../ui/save-file';
import { ByKey } from '../../ui/latest';
import { nameFrom } from '../../ui/name';
import { newId } from '../../ui/new';

const PREVIEW = 256;
/** Side of what files are weighed by, once all previews are there. */
const WEIGHED = 512;
const FRESH: RecipeDocument = {
  kind: 'recipe',
  version: 1,
  name: 'New recipe',
  template: '{set}_{file}',
  size: 1024,
  sources: {},
  files: { orm: { order: 1, label: 'orm', depth: 8, channels: parseChannelLayout('r=occlusion,g=roughness,b=metallic') } },
};

/** A crossing of the grid that is fed, and what its card is opened at. */
interface Crossed {
  fileId: string;
  channel: OutputChannel;
  at: HTMLElement;
  name: string;
  warning: string | null;
}

/** Output files, the routing grid that feeds their channels, and the zip. */
@Component({
  selector: 'pb-pack',
  imports: [CdkConnectedOverlay, CrossingCard, Frame, Icon, Naming, Picture, MatMenuModule, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './pack.view.html',
  styleUrl: './pack.view.scss',
})
export class PackView {
  readonly documents = inject(DocumentsService);
  readonly jobs = inject(JobsService);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly crossings = viewChildren<ElementRef<HTMLButtonElement>>('crossing');
  readonly icons = { close: mdiClose, plus: mdiPlus };
  readonly letters = OUTPUT_CHANNELS;
  readonly sizes = [256, 512, 1024, 2048, 4096];
  readonly recipes = this.documents.list('recipe');
  private readonly surfaces = this.documents.list('surface');
  private readonly blends = this.documents.list('blend');
  private readonly specimens = this.documents.list('specimen');
  private readonly projects = this.documents.list('project');
  private readonly targets = this.documents.list('target');
  private readonly assets = this.documents.list('asset');
  private readonly asked = signal<string | null>(null);
  private readonly chosen = signal<string | null>(null);
  /** The crossing whose card is open. */
  readonly opened = signal<Crossed | null>(null);
  readonly skipped = signal<ReadonlySet<string>>(new Set());
  readonly previews = signal<ReadonlyMap<string, FilePreview>>(new Map());
  private readonly weights = signal<ReadonlyMap<string, PictureWeight>>(new Map());
  private readonly previewing = new ByKey((error) => this.notices.error(error));
  readonly jobId = signal<string | null>(null);
  private downloaded = new Set<string>();

  /** The recipe that is to be opened. */
  readonly recipeAsked = input<string>(undefined, { alias: 'recipe' });
  readonly recipeId = computed(() => this.recipes().find((r) => r.id === this.asked())?.id ?? this.recipes().at(0)?.id ?? null);
  readonly recipe = computed(() => this.documents.body(this.recipeId(), 'recipe'));
  readonly all = computed<Record<string, AnyDocument>>(() => Object.fromEntries([...this.surfaces(), ...this.blends()].map((d) => [d.id, d.body])));
  /** With what blends lie on. */
  private readonly known = computed<Record<string, AnyDocument>>(() => ({
    ...this.all(),
    ...Object.fromEntries([...this.specimens(), ...this.projects(), ...this.targets()].map((d) => [d.id, d.body])),
  }));
  readonly files = computed(() => inOrder(this.recipe()?.files ?? {}));
  /** What is packed, in order. */
  readonly sources = computed(() =>
    inOrder(this.recipe()?.sources ?? {}).flatMap(({ id }) => {
      const body = this.all()[id];
      return body ? [{ id, body }] : [];
    }),
  );
  readonly addable = computed(() =>
    Object.entries(this.all())
      .filter(([id]) => !this.recipe()?.sources[id])
      .map(([id, body]) => ({ id, body })),
  );
  readonly sourceId = computed(() => this.sources().find((s) => s.id === this.chosen())?.id ?? this.sources().at(0)?.id ?? null);
  readonly source = computed(() => this.all()[this.sourceId() ?? '']);
  readonly rows = computed(() => sourceRows(this.source(), this.files(), this.known()));
  readonly plan = computed(() => {
    const recipe = this.recipe();
    return recipe ? planRecipe(recipe, this.known()) : [];
  });
  /** Places of the mesh that the chosen source is packed as; none where its files do not depend on one. */
  readonly places = computed(() => {
    const own = this.plan().filter((f) => f.sourceId === this.sourceId());
    return [...new Set(own.flatMap((f) => (f.place ? [placeName(f.place)] : [])))];
  });
  private readonly chosenPlace = signal<string | null>(null);
  readonly place = computed(() => this.places().find((p) => p === this.chosenPlace()) ?? this.places().at(0) ?? null);
  showPlace = (place: string): void => this.chosenPlace.set(place);
  /** What the files of the chosen source cannot hold, each thing once. */
  readonly notes = computed(() => [
    ...new Set(
      this.plan().flatMap((f) => (f.note && f.sourceId === this.sourceId() && f.place && placeName(f.place) === this.place() ? [f.note] : [])),
    ),
  ]);
  readonly going = computed(() => this.plan().filter((f) => !this.skipped().has(f.key)));
  readonly blocked = computed(() => this.going().filter((f) => f.problem));
  /** Why nothing can be packed; null when it can. */
  readonly whyNot = computed(() => {
    if (!this.plan().length) return 'Add a surface or blend to pack, and a file.';
    if (!this.going().length) return 'Every file is unticked.';
    const blocked = this.blocked();
    return blocked.length
      ? `${blocked.length === 1 ? '1 file' : `${blocked.length} files`} above cannot be made: untick, or change the routes.`
      : null;
  });
  readonly job = computed(() => this.jobs.job(this.jobId()));
  readonly total = computed(() => this.going().reduce((sum, f) => sum + this.about(f), 0));

  constructor() {
    effect(() => {
      const id = this.recipeAsked();
      if (id) untracked(() => this.asked.set(id));
    });
    effect(() => this.workbench.open(this.recipeId()));
    effect(() => {
      const runtime = this.plan().filter((f) => f.sourceId === this.sourceId() && !f.problem);
      this.workbench.meter.set(
        runtime.length ? { samples: runtime.length, operations: 0, bytes: runtime.reduce((n, f) => n + this.runtimeBytes(f), 0) } : null,
      );
    });
    effect(() => {
      // The shown source first, the others after it: their sizes are listed, too.
      const plan = [...this.plan()].sort((a, b) => Number(b.sourceId === this.sourceId()) - Number(a.sourceId === this.sourceId()));
      for (const file of plan) if (!file.problem) this.preview(file);
    });
    effect(() => {
      const job = this.job();
      if (job?.status === 'done' && !this.downloaded.has(job.id)) {
        this.downloaded.add(job.id);
        this.download();
      }
    });
  }

  private preview(planned: PlannedFile): void {
    const file = this.recipe()?.files[planned.fileId];
    const source = this.all()[planned.sourceId];
    const project = this.documents.list('project')().at(0)?.body;
    if (!file || (source?.kind !== 'surface' && source?.kind !== 'blend')) return;
    const library = libraryOf(this.all());
    const surfaces = Object.fromEntries(surfacesBehind(source, library).map((id) => [id, library.surfaces[id]]));
    const blends = source.kind === 'blend' ? (library.blends ?? {}) : {};
    const on = source.kind === 'blend' ? this.documents.body(source.specimen, 'specimen') : undefined;
    const specimens = source.kind === 'blend' && on ? { [source.specimen]: on } : {};
    const key = JSON.stringify([
      file.channels,
      file.depth,
      file.dither,
      source,
      Object.values(surfaces).map((s) => s.maps),
      blends,
      specimens,
      project?.exportNormal,
      planned.place,
    ]);
    const { place } = planned;
    const exportNormal = project?.exportNormal ?? 'y+';
    const args = { file, source, surfaces, blends, specimens, place, exportNormal };
    const make = () => this.compute.run('preview', { ...args, size: PREVIEW });
    const weigh = () => this.compute.run('weigh', { ...args, size: WEIGHED });
    this.previewing.ask(planned.key, key, make, (made) => {
      this.previews.update((m) => new Map(m).set(planned.key, made));
      this.weights.update((m) => new Map(m).set(planned.key, made.weight));
      this.previewing.ask(`weight of ${planned.key}`, key, weigh, (weight) => this.weights.update((m) => new Map(m).set(planned.key, weight)));
    });
  }

  previewOf = (fileId: string): FilePreview | undefined => this.previews().get(this.plannedOf(fileId)?.key ?? '');
  /** A file of the chosen source, as the chosen place shows it. */
  plannedOf = (fileId: string): PlannedFile | undefined =>
    this.plan().find((f) => f.sourceId === this.sourceId() && f.fileId === fileId && (f.place === null || placeName(f.place) === this.place()));
  /** Bytes that a file will have, from its small preview; before that, its size without compression. */
  about(file: PlannedFile): number {
    const { as } = file.way;
    if (as === 'ktx2') return blockBytes(file);
    if (as === 'tga') return file.rawBytes;
    const weight = this.weights().get(file.key);
    return (weight ? weightAt(weight, file.width, file.height) : file.rawBytes) * (as === 'jpg' ? JPEG_SHARE : 1);
  }
  runtimeBytes = (f: PlannedFile): number =>
    f.way.as === 'ktx2' && f.way.block !== 'plain' ? blockBytes(f) : textureBytes(f.width, f.height, f.channels === 1 ? 'BC4' : 'BC7');
  readonly size = bytesText;
  kind = (file: RecipeFile): string => {
    const source = this.source();
    return source?.kind === 'surface' || source?.kind === 'blend' ? (isColourFile(file.channels) ? 'colour, sRGB' : 'data, linear') : '';
  };
  crossing = crossingOf;
  feeds = (row: SourceRow, file: RecipeFile, c: OutputChannel): string => `${row.label} feeds ${c.toUpperCase()} of ${file.label}`;
  channelText = (file: RecipeFile, c: OutputChannel): string => {
    const route = file.channels[c];
    return `${c.toUpperCase()} ${!route ? '–' : route.from === 'constant' ? +route.value.toFixed(2) : `${route.invert ? '1 − ' : ''}${changes(route) ? '~' : ''}${ROLE_FACTS[route.role].label.toLowerCase()}`}`;
  };
  pictureOf = (fileId: string, c: OutputChannel): ImageBitmap | null => this.previewOf(fileId)?.channels.find((x) => x.name === c)?.picture ?? null;

  edit(label: string, change: (d: RecipeDocument) => void): void {
    const id = this.recipeId();
    if (id) this.documents.edit(id, 'recipe', label, change);
  }

  route(row: SourceRow, fileId: string, channel: OutputChannel): void {
    this.edit(`Route ${row.label} to ${channel.toUpperCase()}`, (d) => {
      d.files[fileId].channels[channel] = structuredClone(row.route);
    });
  }
  draftRoute({ fileId, channel }: Crossed, { route }: RouteEdit): void {
    const id = this.recipeId();
    if (id) this.documents.draft(id, 'recipe', (d) => void (d.files[fileId].channels[channel] = route));
  }
  commitRoute(at: Crossed, edit: RouteEdit): void {
    this.draftRoute(at, edit);
    const id = this.recipeId();
    if (id) this.documents.commit(id, edit.label);
  }
  setDither = (id: string, on: boolean): void =>
    this.edit(on ? 'Dither' : 'Do not dither', (d) => {
      if (on) d.files[id].dither = true;
      else delete d.files[id].dither;
    });
  /** Whether finer steps of what feeds a file are lost unless they are dithered. */
  dithers = (file: RecipeFile): boolean => {
    const source = this.source();
    const known = (role: Role) => (source?.kind === 'surface' ? (source.maps[role] ?? null) : null);
    const plain = { ...file, dither: false };
    return OUTPUT_CHANNELS.some((c) => {
      const route = file.channels[c];
      return route?.from === 'map' && lossesAt(plain, c, known(route.role)).some((l) => l.code === 'depth');
    });
  };
  /** What of the shown source goes into no file, and why that may be well. */
  readonly left = computed(() => {
    const source = this.source();
    if (source?.kind !== 'surface' && source?.kind !== 'blend') return null;
    const even = new Set(
      source.kind === 'surface'
        ? ROLES.filter((role) => source.maps[role]?.channels === 1 && source.maps[role]?.findings?.some((f) => f.code === 'channel-constant'))
        : [],
    );
    const list = leftOut(this.files(), availableRoles(source, this.known()), even, null);
    return list.length ? `Left out: ${list.map(({ role, why }) => `${ROLE_FACTS[role].label.toLowerCase()}, which ${why}`).join('; ')}.` : null;
  });
  clear({ fileId, channel }: Crossed): void {
    this.opened.set(null);
    this.edit(`Clear ${channel.toUpperCase()}`, (d) => {
      delete d.files[fileId].channels[channel];
    });
  }
  addFile(): void {
    const key = newId().slice(0, 8);
    this.edit('Add a file', (d) => {
      d.files[key] = { order: (inOrder(d.files).at(-1)?.order ?? 0) + 1, label: `file${Object.keys(d.files).length + 1}`, depth: 8, channels: {} };
    });
  }
  removeFile = (id: string): void =>
    this.edit('Remove a file', (d) => {
      delete d.files[id];
    });
  setLabel(id: string, text: string): void {
    const label = nameFrom(text, 60);
    if (label) this.edit(`Call the file ${label}`, (d) => void (d.files[id].label = label));
  }
  setDepth = (id: string, depth: 8 | 16): void =>
    this.edit(`${depth} bits a channel`, (d) => {
      d.files[id].depth = depth;
    });
  /** Kinds of file, KTX2 by how it keeps its texels. */
  readonly ways = FILE_WAYS;
  wayOfFile = wayOfFile;
  wayText = (file: RecipeFile): string => FILE_WAYS.find((w) => w.value === wayOfFile(file))?.means ?? '';
  setWay = (id: string, value: string): void =>
    this.edit(`Write ${FILE_WAYS.find((w) => w.value === value)?.name ?? value}`, (d) => putWay(d.files[id], value));
  setSize = (size: number): void =>
    this.edit(`Size ${size}`, (d) => {
      d.size = size;
    });
  addSource = (id: string): void =>
    this.edit(`Pack ${this.all()[id].name}`, (d) => {
      d.sources[id] = { order: (inOrder(d.sources).at(-1)?.order ?? 0) + 1 };
    });
  removeSource = (id: string): void =>
    this.edit(`Do not pack ${this.all()[id]?.name ?? 'it'}`, (d) => {
      delete d.sources[id];
    });
  show = (id: string): void => this.chosen.set(id);
  openRecipe = (id: string): void => this.asked.set(id);
  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.edit(`Rename to ${name}`, (d) => void (d.name = name));
  }
  tick(key: string): void {
    this.skipped.update((s) => {
      const next = new Set(s);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  }

  readonly ready = READY_RECIPES;
  async create(ready?: ReadyRecipe): Promise<void> {
    try {
      const first = this.sourceId() ?? this.blends().at(0)?.id ?? this.surfaces().at(0)?.id;
      const body = {
        ...structuredClone(FRESH),
        ...(ready ? { name: ready.name, files: filesOf(ready) } : {}),
        sources: first ? { [first]: { order: 1 } } : {},
      };
      this.asked.set(await this.documents.create(body, ready ? `New recipe: ${ready.name}` : 'New recipe'));
    } catch (error) {
      this.notices.error(error);
    }
  }

  /** The recipe without what it packs here: others have other surfaces. */
  exportRecipe(): void {
    const recipe = this.recipe();
    if (recipe) saveFile(`${nameSlug(recipe.name)}.recipe.json`, JSON.stringify({ ...recipe, sources: {} }, null, 2), 'application/json');
  }
  async importRecipe(event: Event): Promise<void> {
    const box = event.target as HTMLInputElement;
    const file = box.files?.[0];
    box.value = '';
    if (!file) return;
    try {
      const given = JSON.parse(await file.text()) as RecipeDocument;
      if (given.kind !== 'recipe') throw new Error(`${file.name} is no recipe`);
      const sources = this.recipe()?.sources ?? {};
      this.asked.set(await this.documents.create({ ...given, sources }, `Read ${file.name}`));
    } catch (error) {
      this.notices.error(error instanceof SyntaxError ? `${file.name} is not JSON: ${error.message}` : error);
    }
  }

  async pack(): Promise<void> {
    const recipe = this.recipeId();
    if (!recipe) return;
    const job = await this.jobs.start('pack', { recipe, skip: [...this.skipped()] });
    if (job) this.jobId.set(job.id);
  }

  zipHref(): string {
    const { blob, fileName } = this.packed() ?? {};
    return `/api/blobs/${blob ?? ''}?name=${encodeURIComponent(fileName ?? `${nameSlug(this.recipe()?.name ?? 'pack')}.zip`)}`;
  }
  zipBytes = (): number => this.packed()?.bytes ?? 0;
  private packed = () => jobResult('pack', this.job());
  private download(): void {
    const link = document.createElement('a');
    link.href = this.zipHref();
    link.download = '';
    link.click();
  }

  /** Arrow keys move over the crossings of the grid. */
  moveFocus(event: KeyboardEvent, row: number, column: number): void {
    const by = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    if (!by) return;
    event.preventDefault();
    const columns = this.files().length * 4;
    const next = (row + by[0]) * columns + Math.min(columns - 1, Math.max(0, column + by[1]));
    this.crossings()[next]?.nativeElement.focus();
  }
}
