import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiChevronDown, mdiDiceMultipleOutline, mdiPlus } from '@mdi/js';
import type { Cue, CueKind, Join, Seam } from '@pebble/core';
import { JOIN_WORDS, breakUpPrice, cuePrice, cueWords, inOrder, makeCue } from '@pebble/core';
import { Icon } from '../../ui/icon';
import { ScrubField } from '../../ui/scrub-field';
import { BlendModel } from './blend-model';

type SeamNumber = 'soft' | 'liftM' | 'follow' | 'bias' | 'contact';

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
  draftSeam(key: SeamNumber, value: number): void {
    const { id } = this;
    this.model.draft((d) => {
      d.layers[id].seam[key] = value;
    });
  }
  setSeam(key: SeamNumber, value: number, what: string): void {
    this.draftSeam(key, value);
    this.model.commit(`${this.name()}: ${what}`);
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
  draftStrength(value: number): void {
    const { id } = this;
    this.model.draft((d) => {
      d.layers[id].strength = value;
    });
  }
  setStrength(value: number): void {
    this.draftStrength(value);
    this.model.commit(`${this.name()}: strength`);
  }
  seed = (): number => Math.floor(Math.random() * 0xffffff);
}
