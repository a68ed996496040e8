import type { CdkDragDrop } from '@angular/cdk/drag-drop';
import { CdkDrag, CdkDropList } from '@angular/cdk/drag-drop';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  Injector,
  afterNextRender,
  computed,
  effect,
  inject,
  signal,
  viewChild,
} from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiDotsHorizontal, mdiPlus } from '@mdi/js';
import type { BlendDocument, Coverage, Cue, Layer, LayerContent } from '@pebble/core';
import { DEFAULT_CONSTANT, DEFAULT_WATER, between, copyLayerInto, inOrder, makeCue, makeLayer } from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { NoticesService } from '../../../services/notices.service';
import { Icon } from '../../../ui/icon';
import { Word } from '../../../ui/words';
import { AssetModel } from '../../../stage/asset-model';
import { BlendModel } from '../blend-model';
import { newKey, newSeed } from '../../../ui/new';
import { CoverageTarget } from '../coverage-target';
import { Prices } from '../prices';
import { IdCard } from './id-card';
import { holds, isShown, layerTone } from './layer-tone';
import { nameFrom } from '../../../ui/name';
import { closedByEscape } from '../../../ui/escape';

/** Layers past which their labels fold together. */
const FOLDS_PAST = 8;
/** More layers than this stand closer. */
const CLOSE_PAST = 4;

/** The layers as strata, from the top; dragged to reorder. */
@Component({
  selector: 'pb-strata',
  imports: [CdkDrag, CdkDropList, MatMenuModule, MatTooltipModule, Icon, IdCard, Word],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './strata.html',
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      padding: 10px 6px 6px 12px;
      min-height: 0;
      gap: 4px;
    }
    .list {
      display: flex;
      flex-direction: column;
      gap: 3px;
      min-height: 0;
      max-height: var(--rows, none);
      overflow: auto;
    }
    .foot {
      display: flex;
      align-items: center;
      flex: none;
    }
    .layer {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 30px;
      padding: 0 2px 0 6px;
      border-radius: 15px;
      cursor: pointer;
    }
    .layer:hover {
      background: color-mix(in srgb, var(--raise) 60%, transparent);
    }
    .layer.on {
      background: var(--raise);
      box-shadow: inset 0 0 0 1px var(--edge);
    }
    /* A few more stand closer, so that the lowest is in sight. */
    .close {
      gap: 1px;
    }
    .close .layer {
      height: 26px;
    }
    /* Many layers fold together like strata do; the chosen one stays open. */
    .folded {
      gap: 0;
    }
    .folded .layer:not(.on):not(:focus-within) {
      height: 17px;
      font-size: 12px;
      .swatch {
        width: 14px;
        height: 11px;
        margin: 0 4px;
      }
      .more {
        visibility: hidden;
      }
    }
    .swatch {
      background: var(--tone);
    }
    .swatch.off {
      background: transparent;
      border: 2px solid var(--tone);
    }
    .swatch.even {
      border-radius: 6px;
    }
    /* The name comes first: tags shrink, and go, before it. */
    .layer .tag {
      flex: 0 10 auto;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .layer .tag.warn {
      flex-shrink: 1;
    }
    .group {
      cursor: pointer;
      max-width: 64px;
    }
    .layer > * {
      flex-shrink: 0;
    }
    .layer {
      flex: none;
    }
    .end {
      color: var(--quiet);
      font-size: 11px;
      padding-left: 8px;
    }
    .group.off {
      text-decoration: line-through;
    }
    .seek {
      padding: 4px 16px;
    }
    .name {
      font-weight: 600;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
      flex: 1 1 72px;
      min-width: 56px;
      text-align: left;
    }
    .off .name {
      color: var(--quiet);
      font-weight: 500;
    }
    small {
      color: var(--quiet);
      font-size: 11px;
      white-space: nowrap;
    }
    .more {
      width: 24px;
      height: 24px;
    }
    .add {
      align-self: flex-start;
    }
    .cdk-drag-preview {
      box-shadow: var(--shadow);
      background: var(--raise);
    }
    .cdk-drag-placeholder {
      opacity: 0.35;
    }
  `,
})
export class Strata {
  readonly model = inject(BlendModel);
  readonly FOLDS_PAST = FOLDS_PAST;
  readonly CLOSE_PAST = CLOSE_PAST;
  private readonly documents = inject(DocumentsService);
  private readonly all = this.documents.list('surface');
  readonly surfaces = computed(() => this.all().filter(({ body }) => isShown(body)));
  private readonly blends = this.documents.list('blend');
  readonly icons = { more: mdiDotsHorizontal, plus: mdiPlus };
  private readonly target = inject(CoverageTarget);
  private readonly prices = inject(Prices);
  private readonly notices = inject(NoticesService);
  readonly assets = inject(AssetModel);
  /** Whether surfaces are being given to IDs. */
  readonly byIds = signal(false);
  tone = (layer: Layer): string => layerTone(layer, this.model.surfaces(), this.model.blends());
  /** Blends that may be a layer of the open one. */
  readonly others = computed(() => {
    const own = this.model.id();
    return this.blends().filter((b) => b.id !== own && !holds(b.body, own ?? '', this.model.blends()));
  });
  /** A menu is open from which a surface or blend may be chosen, that which is pointed at before others. */
  offer = (first?: string): void => this.model.offer([...(first ? [first] : []), ...[...this.surfaces(), ...this.others()].map(({ id }) => id)]);
  readonly groups = computed(() => Object.entries(this.model.blend()?.groups ?? {}).map(([id, g]) => ({ id, ...g })));
  group = (id: string | null) => (id === null ? null : (this.model.blend()?.groups[id] ?? null));
  problem = (layer: string): string | null => this.model.problems().find((p) => p.layer === layer)?.message ?? null;
  inside = (blend: BlendDocument): number => Object.keys(blend.layers).length;

  private readonly list = viewChild<ElementRef<HTMLElement>>('list');
  /** Layers below what is in sight. */
  readonly below = signal(0);

  constructor() {
    closedByEscape(() => this.byIds.set(false), this.byIds);
    const [injector, host] = [inject(Injector), inject<ElementRef<HTMLElement>>(ElementRef).nativeElement];
    effect(() => {
      this.model.selectedId();
      this.model.layers();
      // The chosen layer is in sight, such as one that was just added at the top of a long list.
      const read = () => {
        host.querySelector('[aria-current=true]')?.scrollIntoView({ block: 'nearest' });
        this.look();
      };
      afterNextRender({ read }, { injector });
    });
    const observer = new ResizeObserver(() => this.look());
    observer.observe(host);
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  look(): void {
    const list = this.list()?.nativeElement;
    const end = list?.getBoundingClientRect().bottom ?? 0;
    const hidden = [...(list?.children ?? [])].filter((layer) => layer.getBoundingClientRect().bottom > end + 4);
    this.below.set(hidden.length);
  }

  private name = (id: string): string => this.model.blend()?.layers[id]?.name ?? 'layer';

  choose(id: string): void {
    this.target.groupId.set(null);
    this.model.selectedId.set(id);
  }
  toggle(id: string, event: Event): void {
    event.stopPropagation();
    const on = !this.model.blend()?.layers[id]?.on;
    this.model.edit(`Switch ${on ? 'on' : 'off'} ${this.name(id)}`, (d) => {
      d.layers[id].on = on;
    });
  }
  solo(id: string): void {
    const solo = !this.model.blend()?.layers[id]?.solo;
    this.model.edit(solo ? `Solo ${this.name(id)}` : `End solo of ${this.name(id)}`, (d) => {
      for (const [key, layer] of Object.entries(d.layers)) layer.solo = solo && key === id;
    });
  }
  duplicate(id: string): void {
    const key = newKey();
    this.model.edit(`Duplicate ${this.name(id)}`, (d) => {
      const above = inOrder(d.layers).find((l) => l.order > d.layers[id].order)?.order;
      d.layers[key] = { ...structuredClone(d.layers[id]), name: `${d.layers[id].name} copy`, order: between(d.layers[id].order, above), solo: false };
    });
    this.model.selectedId.set(key);
  }
  /** Blends that a layer can be copied to: those on the asset first. */
  readonly places = computed(() => {
    const own = this.model.id();
    const on = (b: { id: string }) => Number(this.assets.slotsWith(b.id).length > 0);
    return this.blends()
      .filter((b) => b.id !== own)
      .sort((a, b) => on(b) - on(a));
  });
  /** Copies a layer on top of another blend. */
  copyTo(id: string, other: string): void {
    const from = this.model.blend();
    if (!from) return;
    const body = this.blends().find((b) => b.id === other)?.body;
    this.documents.edit(other, 'blend', `Copy ${this.name(id)} here from ${from.name}`, (d) => copyLayerInto(d, from, id, newKey()));
    this.notices.say(`${this.name(id)} lies on top of ${body?.name} now`);
  }
  remove(id: string): void {
    this.model.edit(`Remove ${this.name(id)}`, (d) => {
      delete d.layers[id];
    });
  }
  private put(name: string, shows: LayerContent): void {
    const key = newKey();
    this.model.edit(`Add ${name}`, (d) => {
      const top = inOrder(d.layers).at(-1);
      d.layers[key] = this.fresh(name, shows, top?.order);
    });
    this.model.selectedId.set(key);
  }
  /** A layer as it is added over another, or on nothing. */
  private fresh(name: string, shows: LayerContent, below: number | undefined): Layer {
    const above = below !== undefined;
    const coverage =
      shows.kind === 'water'
        ? {}
        : firstCue(above, shows.kind === 'constant' ? makeCue('constant') : makeCue('noise', { width: 0.25, seed: newSeed() }));
    return makeLayer(shows, name, between(below, undefined), { coverage });
  }
  /** What one more layer costs a pixel. */
  price = (name: string, shows: LayerContent): string =>
    this.prices.layer(`${shows.kind} ${'surface' in shows ? shows.surface : 'blend' in shows ? shows.blend : ''}`, () =>
      this.fresh(name, shows, this.model.layers().length ? 1 : undefined),
    );
  readonly water: LayerContent = { kind: 'water', ...DEFAULT_WATER };
  readonly constant: LayerContent = { kind: 'constant', ...DEFAULT_CONSTANT };
  /** A surface or a blend, by its id. */
  readonly content = (id: string): LayerContent => (this.model.blends()[id] ? { kind: 'blend', blend: id } : { kind: 'surface', surface: id });
  /** What it would cost to show something else. */
  priceInstead = (layer: string, shown: string): string => this.prices.shows(layer, shown, this.content(shown));
  add = (id: string, name: string): void => this.put(name, this.content(id));
  addWater(): void {
    const stack = this.model.stack();
    // To begin with it stands in the lowest fifth.
    const levelM = stack ? +(stack.lo + 0.2 * (stack.hi - stack.lo)).toPrecision(2) : 0;
    this.put('Standing water', { kind: 'water', ...DEFAULT_WATER, levelM });
  }
  addConstant(): void {
    this.put('Constant values', this.constant);
  }
  into(layer: string, group: string | null): void {
    const key = group ?? newKey();
    this.model.edit(group === null ? 'New group' : `Group ${this.name(layer)}`, (d) => {
      if (group === null) d.groups[key] = { name: `Group ${Object.keys(d.groups).length + 1}`, on: true, coverage: {} };
      d.layers[layer].group = key;
    });
  }
  leave(layer: string): void {
    this.model.edit(`${this.name(layer)}: in no group`, (d) => {
      const { group } = d.layers[layer];
      d.layers[layer].group = null;
      if (group !== null && !Object.values(d.layers).some((l) => l.group === group)) delete d.groups[group];
    });
  }
  toggleGroup(id: string): void {
    const group = this.group(id);
    if (group) this.model.edit(`Switch ${group.on ? 'off' : 'on'} ${group.name}`, (d) => void (d.groups[id].on = !group.on));
  }
  renameGroup(id: string, text: string): void {
    const name = nameFrom(text, 80);
    if (name) this.model.edit(`Rename to ${name}`, (d) => void (d.groups[id].name = name));
  }
  showGroup(id: string, layer: string): void {
    this.model.selectedId.set(layer);
    this.target.groupId.set(id);
  }
  change(id: string, shown: string, name: string): void {
    this.model.edit(`Show ${name} in ${this.name(id)}`, (d) => {
      Object.assign(d.layers[id], { shows: this.content(shown), name });
    });
  }
  drop = (event: CdkDragDrop<unknown>): void => this.move(event.previousIndex, event.currentIndex);

  /** Moves a layer; indices count from the top. */
  move(from: number, to: number): void {
    const list = this.model.layers();
    if (from === to || to < 0 || to >= list.length) return;
    const { id } = list[from];
    const others = list.filter((l) => l.id !== id);
    const order = between(others[to]?.order, others[to - 1]?.order);
    this.model.edit(`Move ${this.name(id)} ${to < from ? 'up' : 'down'}`, (d) => {
      d.layers[id].order = order;
    });
  }
  key(event: KeyboardEvent, id: string): void {
    const index = this.model.layers().findIndex((l) => l.id === id);
    if (event.altKey && event.key === 'ArrowUp') this.move(index, index - 1);
    else if (event.altKey && event.key === 'ArrowDown') this.move(index, index + 1);
    else return;
    event.preventDefault();
  }
}

/** A coverage to begin with; the ground has none. */
const firstCue = (above: boolean, cue: Cue): Coverage => (above ? { c1: cue } : {});
