import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiChevronDown, mdiDiceMultipleOutline, mdiPlus } from '@mdi/js';
import type { Cue, CueKind, Join, Layer, Seam } from '@pebble/core';
import { DEFAULT_SEAM, JOIN_WORDS, breakUpPrice, cuePrice, cueWords, inOrder, makeCue } from '@pebble/core';
import { Icon } from '../../ui/icon';
import { ScrubField } from '../../ui/scrub-field';
import { BlendModel } from './blend-model';

/** A number of the seam, as a token of the sentence. */
interface SeamToken {
  word: string;
  before?: string;
  label: string;
  /** How the step of undo is called. */
  what: string;
  min: number;
  max: number;
  step: number;
  factor?: number;
  unit?: string;
  decimals?: number;
  initial: number;
  get: (layer: Layer) => number;
  set: (layer: Layer, value: number) => void;
}

const share = { min: 0, max: 1, step: 0.005, factor: 0.01, unit: '%', decimals: 0 };
const millimetres = { max: 10, step: 0.0002, factor: 0.001, unit: 'mm', decimals: 1 };
const seamNumber = (key: 'soft' | 'liftM' | 'follow' | 'bias' | 'contact') => ({
  initial: DEFAULT_SEAM[key],
  get: (l: Layer) => l.seam[key],
  set: (l: Layer, v: number) => void (l.seam[key] = v),
});
const TOKENS: readonly SeamToken[] = [
  { word: 'soft', label: 'Softness', what: 'softness', min: 0, max: 1, step: 0.004, ...seamNumber('soft') },
  { word: 'lift', label: 'Lift in millimetres', what: 'lift', min: -10, ...millimetres, ...seamNumber('liftM') },
  { word: 'follow', label: 'Follow in per cent', what: 'follow', ...share, ...seamNumber('follow') },
  { word: 'bias', label: 'Bias', what: 'bias', min: 0.01, max: 0.99, step: 0.004, ...seamNumber('bias') },
  {
    word: 'broken up by',
    label: 'Broken up by, in millimetres',
    what: 'break up the seam',
    min: 0,
    ...millimetres,
    initial: 0,
    get: (l) => l.seam.broken.byM,
    set: (l, v) => void (l.seam.broken.byM = v),
  },
  { word: 'shaded', label: 'Contact darkening in per cent', what: 'contact darkening', ...share, ...seamNumber('contact') },
  {
    word: '',
    before: 'at strength',
    label: 'Strength in per cent',
    what: 'strength',
    ...share,
    initial: 1,
    get: (l) => l.strength,
    set: (l, v) => void (l.strength = v),
  },
];

/** The chosen layer as a sentence: where it is, and how it meets what lies below. Every token is edited in place. */
@Component({
  selector: 'pb-sentence',
  imports: [ScrubField, MatMenuModule, MatTooltipModule, Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './sentence.html',
  styleUrl: './sentence.scss',
})
export class Sentence {
  readonly model = inject(BlendModel);
  readonly icons = { down: mdiChevronDown, plus: mdiPlus, dice: mdiDiceMultipleOutline };
  readonly joins = Object.entries(JOIN_WORDS).map(([id, word]) => ({ id: id as Join, word }));
  readonly kinds: readonly { kind: CueKind; name: string; price: string }[] = [
    { kind: 'vertexColour', name: 'vertex colour', price: `+${cuePrice('vertexColour')} ops` },
    { kind: 'noise', name: 'noise', price: `+${cuePrice('noise')} ops` },
    { kind: 'constant', name: 'an even coverage', price: `+${cuePrice('constant')} ops` },
  ];
  readonly layer = this.model.selected;
  readonly cues = computed(() => {
    const layer = this.layer();
    return layer ? inOrder(layer.coverage) : [];
  });
  readonly isGround = computed(() => this.model.selectedId() === this.model.groundId());
  readonly price = computed(() => this.model.prices()[this.model.selectedId() ?? '']);
  readonly breakUp = breakUpPrice();
  readonly tokens = TOKENS;
  words = cueWords;
  joinWord = (join: Join): string => JOIN_WORDS[join];

  private get id(): string {
    return this.model.selectedId() as string;
  }
  private name = (): string => this.layer()?.name ?? '';

  draftCue(cue: string, change: Partial<Cue>): void {
    const { id } = this;
    this.model.draft((d) => {
      Object.assign(d.layers[id].coverage[cue], change);
    });
  }
  setCue(cue: string, change: Partial<Cue>, what: string): void {
    this.draftCue(cue, change);
    this.model.commit(`${this.name()}: ${what}`);
  }
  addCue(kind: CueKind): void {
    const { id } = this;
    const key = crypto.randomUUID().slice(0, 8);
    const order = (this.cues().at(-1)?.order ?? 0) + 1;
    this.model.edit(`${this.name()}: add ${kind === 'vertexColour' ? 'vertex colour' : kind}`, (d) => {
      d.layers[id].coverage[key] = makeCue(kind, { order, seed: Math.floor(Math.random() * 0xffff) });
    });
  }
  removeCue(cue: string): void {
    const { id } = this;
    this.model.edit(`${this.name()}: remove a cue`, (d) => {
      delete d.layers[id].coverage[cue];
    });
  }
  draftToken(token: SeamToken, value: number): void {
    const { id } = this;
    this.model.draft((d) => token.set(d.layers[id], value));
  }
  setToken(token: SeamToken, value: number): void {
    this.draftToken(token, value);
    this.model.commit(`${this.name()}: ${token.what}`);
  }
  draftBroken(change: Partial<Seam['broken']>): void {
    const { id } = this;
    this.model.draft((d) => {
      Object.assign(d.layers[id].seam.broken, change);
    });
  }
  setBroken(change: Partial<Seam['broken']>, what: string): void {
    this.draftBroken(change);
    this.model.commit(`${this.name()}: ${what}`);
  }
  seed = (): number => Math.floor(Math.random() * 0xffffff);
}
