import type { CdkDragDrop } from '@angular/cdk/drag-drop';
import { CdkDrag, CdkDragHandle, CdkDropList } from '@angular/cdk/drag-drop';
import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  Injector,
  afterNextRender,
  computed,
  effect,
  inject,
  signal,
  untracked,
} from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiChevronDown, mdiDiceMultipleOutline, mdiPlus } from '@mdi/js';
import type { Cue, CueKind, Join, MeshPicture, Role, Seam, WeatheringName } from '@pebble/core';
import {
  JOINS,
  SentenceError,
  WEATHERING,
  coverageText,
  cueKind,
  cueKinds,
  cueTailWords,
  cueWords,
  joinPhrase,
  parseCoverage,
  shownId,
  waterOf,
} from '@pebble/core';
import { Icon } from '../../../ui/icon';
import { Picture } from '../../../ui/picture';
import { Field } from '../../../ui/field';
import { ScrubField } from '../../../ui/scrub-field';
import { BlendModel } from '../blend-model';
import { newSeed } from '../../../ui/new';
import { CoverageTarget } from '../coverage-target';
import { CueCard } from './cue-card';
import type { CueField } from './cue-fields';
import { controlsOf, lineFields } from './cue-fields';
import { CueLooks } from './cue-look';
import { LayerCard } from '../layers/layer-card';
import { Word } from '../../../ui/words';
import { SEAM_FIELDS, WATER_FIELDS } from '../layers/layer-fields';
import { ToParameter } from '../to-parameter';
import { LayerToken } from '../layers/layer-token';
import { Pointing } from '../../../stage/pointing';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { Prices } from '../prices';
import { closedByEscape } from '../../../ui/escape';

/** The chosen layer as a sentence: where it is, and how it meets what lies below. Every token is edited in place. */
@Component({
  selector: 'pb-sentence',
  imports: [
    Word,
    Field,
    Picture,
    ScrubField,
    MatMenuModule,
    MatTooltipModule,
    Icon,
    CueCard,
    LayerCard,
    LayerToken,
    ToParameter,
    CdkDrag,
    CdkDragHandle,
    CdkDropList,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './sentence.html',
  styleUrl: './sentence.scss',
})
export class Sentence {
  readonly model = inject(BlendModel);
  readonly target = inject(CoverageTarget);
  private readonly specimen = inject(StageSpecimen);
  private readonly looks = inject(CueLooks);
  private readonly pointing = inject(Pointing);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly icons = { down: mdiChevronDown, plus: mdiPlus, dice: mdiDiceMultipleOutline };
  readonly joins = Object.entries(JOINS).map(([id, { words }]) => ({ id: id as Join, word: words }));
  /** What weathering there is; prices and pictures come while its list is open. */
  readonly weathering = computed(() =>
    Object.entries(WEATHERING).map(([key, { title, help }]) => {
      const id = key as WeatheringName;
      return { id, title, help, price: this.weathers() ? this.prices.weathering(id) : '', picture: this.weathered().get(id) };
    }),
  );
  private readonly weathers = signal(false);
  private readonly weathered = signal<ReadonlyMap<WeatheringName, ImageBitmap>>(new Map());
  previewWeathering(): void {
    this.weathers.set(true);
    this.weathered.set(new Map());
    const show = async (name: WeatheringName, { data, width, height }: MeshPicture) => {
      const picture = await createImageBitmap(new ImageData(data, width, height));
      this.weathered.update((m) => new Map(m).set(name, picture));
    };
    void this.looks.previewWeathering(Object.keys(WEATHERING) as WeatheringName[], (name, picture) => void show(name, picture));
  }
  endWeathering = (): void => this.weathers.set(false);
  readonly layer = this.model.selected;
  readonly waterOf = waterOf;
  readonly cues = this.target.cues;
  readonly isGround = computed(() => !this.target.isGroup() && this.model.selectedId() === this.model.groundId());
  readonly price = computed(() => this.model.prices()[this.model.selectedId() ?? '']);
  private readonly prices = inject(Prices);
  readonly breakUp = computed(() => this.prices.extra('broken'));
  readonly tokens = computed(() => (this.layer()?.shows.kind === 'water' ? WATER_FIELDS : SEAM_FIELDS));
  readonly named = computed(() => Object.entries(this.model.blend()?.coverages ?? {}).map(([id, c]) => ({ id, name: c.name })));
  readonly fields = lineFields;
  readonly tail = cueTailWords;
  words = (cue: Cue): string => cueWords(cue, this.model.nameOf);

  /** What the list of cues is searched for. */
  readonly sought = signal('');
  readonly kinds = computed(() =>
    cueKinds()
      .map(({ kind, title, help }) => ({ kind: kind as CueKind, title, help, price: this.adding() ? this.prices.cue(kind as CueKind) : '' }))
      .filter((k) => `${k.title} ${k.help}`.toLowerCase().includes(this.sought().trim().toLowerCase())),
  );

  /** Whether the list is open: prices are told then. */
  readonly adding = signal(false);
  /** What new cues would look at on the specimen, as far as that was worked out. */
  readonly previews = signal<ReadonlyMap<CueKind, ImageBitmap>>(new Map());
  preview(): void {
    this.adding.set(true);
    this.previews.set(new Map());
    const show = async (kind: CueKind, { data, width, height }: MeshPicture) => {
      const picture = await createImageBitmap(new ImageData(data, width, height));
      this.previews.update((m) => new Map(m).set(kind, picture));
    };
    void this.looks.preview(
      cueKinds().map((k) => k.kind as CueKind),
      (kind, picture) => void show(kind, picture),
    );
  }
  endPreview(): void {
    this.adding.set(false);
    this.looks.endPreview();
  }

  /** The cue whose card is open, and where it stands; `look` is the card of the layer. */
  readonly open = signal<{ card: string; left: number; bottom: number } | null>(null);
  /** The sentence as text, while it is written as such. */
  private readonly injector = inject(Injector);
  readonly writing = signal<string | null>(null);
  readonly wrong = signal<string | null>(null);
  readonly naming = signal(false);

  constructor() {
    effect(() => {
      // Another layer, another sentence.
      this.model.selectedId();
      this.target.groupId();
      untracked(() => this.close());
    });
    closedByEscape(
      () => this.close(),
      () => this.open() !== null || this.writing() !== null || this.naming(),
    );
  }

  close(): void {
    this.open.set(null);
    this.writing.set(null);
    this.wrong.set(null);
    this.naming.set(false);
  }
  toggle(card: string, event: Event, width: number): void {
    if (this.open()?.card === card) return this.open.set(null);
    const token = (event.currentTarget as HTMLElement).getBoundingClientRect();
    // Above the token, and inside the window: the tray cuts off what stands out of it.
    this.open.set({ card, left: Math.max(8, Math.min(token.left, innerWidth - width - 12)), bottom: innerHeight - token.top + 10 });
  }
  setJoin(id: string, join: Join): void {
    this.target.setCue(id, 'join cues otherwise', (c) => void (c.join = join));
  }
  draftCue(id: string, field: CueField, value: number): void {
    this.target.draftCue(id, (c) => field.set(c, value));
  }
  /** Where a number of a cue stands in the blend. */
  pathOf(id: string, field: CueField): string {
    const path = this.target.path();
    return path ? `${path.of}.${path.id}.coverage.${id}.${field.path}` : '';
  }
  doneCue(id: string, field: CueField, value: number): void {
    this.target.setCue(id, field.label.toLowerCase(), (c) => field.set(c, value));
  }
  /** The number that tells one random picture of a cue from another; null where it has none. */
  readonly seedOf = (cue: Cue): { key: string; label: string } | null => controlsOf(cue).find((c) => c.as === 'seed') ?? null;
  reroll(id: string, { key, label }: { key: string; label: string }): void {
    this.target.setCue(id, label.toLowerCase(), (c) => void Object.assign(c, { [key]: newSeed() }));
  }
  /** A join as it is heard where it stands. */
  joinAt(index: number, join: Join): string {
    const joins = this.cues().map((c) => c.join);
    const before = joins[0] === 'and' ? joins.slice(1, index) : joins.slice(0, index);
    return joinPhrase(join, before).replace(/^,? /, '');
  }
  add(kind: CueKind): void {
    const layer = this.layer();
    const surfaces = Object.entries(this.model.surfaces());
    const roles = Object.fromEntries(surfaces.map(([id, s]) => [id, new Set(Object.keys(s.maps) as Role[])]));
    const there = { surface: (layer && shownId(layer)) ?? '', roles, parts: this.specimen.parts(), seed: newSeed };
    this.target.add(kind, cueKind(kind).begin?.(there) as Partial<Cue> | undefined);
    this.sought.set('');
  }
  drop(event: CdkDragDrop<unknown>): void {
    this.target.move(event.previousIndex, event.currentIndex);
  }
  key(event: KeyboardEvent, index: number): void {
    if (!event.altKey) return;
    if (event.key === 'ArrowLeft') this.target.move(index, index - 1);
    else if (event.key === 'ArrowRight') this.target.move(index, index + 1);
    else return;
    event.preventDefault();
  }

  write(): void {
    this.open.set(null);
    this.wrong.set(null);
    this.writing.set(coverageText(this.target.coverage(), this.model.nameOf));
    const focus = () => this.host.nativeElement.querySelector<HTMLTextAreaElement>('textarea')?.select();
    afterNextRender({ read: focus }, { injector: this.injector });
  }
  /** Takes a sentence that was typed or pasted; one that cannot be read is left to be mended. */
  read(text: string): void {
    try {
      this.target.replace(parseCoverage(text, { idOf: this.model.idOf }).coverage);
      this.close();
    } catch (error) {
      if (!(error instanceof SentenceError)) throw error;
      this.wrong.set(error.message);
      const box = this.host.nativeElement.querySelector<HTMLTextAreaElement>('textarea');
      box?.focus();
      box?.setSelectionRange(error.at, error.at + Math.max(1, error.found.length));
    }
  }
  textKey(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Enter') {
      event.preventDefault();
      this.read((event.target as HTMLTextAreaElement).value);
    }
  }
  nameIt(name: string): void {
    this.target.nameIt(name);
    this.naming.set(false);
  }

  draftBroken(change: Partial<Seam['broken']>): void {
    const id = this.model.selectedId() as string;
    this.model.draft((d) => Object.assign(d.layers[id].seam.broken, change));
  }
  setBroken(change: Partial<Seam['broken']>, what: string): void {
    this.draftBroken(change);
    this.model.commit(`${this.layer()?.name}: ${what}`);
  }
  setWater(change: { murk?: string; scatter?: string }): void {
    const id = this.model.selectedId() as string;
    this.model.edit(
      `${this.layer()?.name}: colour of the water`,
      ({ layers }) => void (layers[id].shows.kind === 'water' && Object.assign(layers[id].shows, change)),
    );
  }
  seed = newSeed;
}
