import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, afterNextRender, computed, inject, linkedSignal, output, signal, viewChild } from '@angular/core';
import type { GraphContext, GraphStep, MasterOperation, Price, Source } from '@pebble/core';
import {
  findSteps,
  givesSurface,
  inOrder,
  inputsOf,
  isStep,
  linkTo,
  matchScore,
  outputsOf,
  stepKind,
  stepPrice,
  stepPrices,
  wouldCircle,
} from '@pebble/core';
import { inSlices } from '../../../ui/breathe';
import { Acts } from '../acts';
import { nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

interface Hit {
  score: number;
  key: string;
  name: string;
  group: string;
  help: string;
  price: string;
  step?: string;
  settings?: MasterOperation['settings'];
  source?: Source;
  goes?: string;
}
/** Prices of steps by themselves, worked out once. */
const PRICES = new Map<string, Price>();

/** What can be added, linked or gone to, found by name, other names and purpose. */
@Component({
  selector: 'pb-search',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="popover" role="dialog" [attr.aria-label]="title()" (keydown)="key($event)" (pointerdown)="$event.stopPropagation()">
      <input
        #box
        class="field"
        role="combobox"
        aria-controls="hits"
        aria-expanded="true"
        [attr.aria-activedescendant]="'hit-' + at()"
        [placeholder]="title()"
        [attr.aria-label]="title()"
        (input)="query.set($any($event.target).value)"
        (blur)="left()"
        data-testid="search"
      />
      <div id="hits" role="listbox">
        @for (hit of hits(); track hit.key; let i = $index) {
          <button
            role="option"
            tabindex="-1"
            [id]="'hit-' + i"
            [class.on]="i === at()"
            [attr.aria-selected]="i === at()"
            (pointerdown)="$event.preventDefault()"
            (click)="take(hit)"
          >
            <b>{{ hit.name }}</b> <span class="quiet group">{{ hit.group }}</span>
            <span class="tag" [class.free]="hit.price === 'free'">{{ hit.price }}</span>
            <small>{{ hit.help }}</small>
          </button>
        } @empty {
          <p class="quiet">Nothing is called so or meant by it. Try what it is for: "darken edges", "repeat", "random by object".</p>
        }
      </div>
    </div>
  `,
  styles: `
    :host {
      position: absolute;
      left: 50%;
      top: 52px;
      bottom: 10px;
      width: 460px;
      margin-left: -230px;
      z-index: 6;
      pointer-events: none;
    }
    .popover {
      max-height: 100%;
      display: flex;
      flex-direction: column;
      padding: 10px;
      pointer-events: auto;
    }
    input {
      width: 100%;
    }
    #hits {
      overflow: auto;
      margin-top: 6px;
    }
    button {
      display: grid;
      grid-template-columns: auto 1fr auto;
      gap: 0 8px;
      width: 100%;
      text-align: left;
      padding: 4px 8px;
      border-radius: 8px;
    }
    button.on {
      background: var(--glaze-soft);
    }
    small {
      grid-column: 1 / 4;
      color: var(--quiet);
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .group {
      font-size: 11px;
    }
  `,
})
export class SearchCard {
  private readonly model = inject(MasterModel);
  private readonly acts = inject(Acts);
  private readonly selection = inject(Selection);
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  readonly done = output<void>();
  readonly query = signal('');
  private readonly prices = signal(PRICES.size);
  private readonly aim = this.acts.aim();

  readonly title = computed(() => {
    const [aim, master] = [this.aim, this.model.master()];
    if (!aim || !master) return '';
    if (aim.kind === 'feed') return `What feeds ${aim.at.operation ? `${nameOf(master, aim.at.operation)} · ` : 'the output '}${aim.at.port}?`;
    if (aim.kind === 'after') return `What comes after ${nameOf(master, aim.from.operation)}?`;
    return aim.kind === 'replace' ? `What stands in for ${nameOf(master, aim.id)}?` : 'Add an operation';
  });

  readonly hits = computed<Hit[]>(() => {
    this.prices();
    const query = this.query();
    const there = query.trim() || this.aim?.kind === 'feed' ? this.there(query) : [];
    // Something of the same name that is there already comes right after the step itself, something with a name of its own before it.
    const all = [...there.slice(0, 8), ...this.masters(query), ...this.steps(query)];
    return query.trim() ? all.sort((a, b) => b.score - a.score).slice(0, 60) : all;
  });
  readonly at = linkedSignal<number, number>({ source: () => (this.query(), 0), computation: () => 0 });

  constructor() {
    afterNextRender(() => this.box().nativeElement.focus());
    void inSlices(pricesOf(PRICES.size ? [] : stepPrices(), this.model.usable(), this.context()), ([name, price]) => {
      PRICES.set(name, price);
      if (PRICES.size % 12 === 0) this.prices.set(PRICES.size);
    }).then(() => this.prices.set(PRICES.size));
  }

  /** Whether surfaces or numbers are wanted where the search was opened. */
  private readonly wants = computed<'surface' | 'numbers' | 'both'>(() => {
    const [aim, master] = [this.aim, this.model.master()];
    if (!aim || !master || aim.kind === 'free') return 'both';
    if (aim.kind === 'after') return givesSurface(master, linkTo(aim.from.operation, aim.from.port), this.context()) ? 'surface' : 'numbers';
    if (aim.kind === 'replace') {
      return outputsOf(master.operations[aim.id], this.context())[0]?.type === 'surface' ? 'surface' : 'numbers';
    }
    const { operation, port } = aim.at;
    if (!operation) return port === 'surface' ? 'surface' : 'numbers';
    const type = inputsOf(master.operations[operation], this.context()).find((i) => i.name === port)?.type;
    return type === 'surface' ? 'surface' : type === 'either' ? 'both' : 'numbers';
  });

  /** Whether a step takes in, or gives, what is wanted. */
  private fits(kind: GraphStep, settings: MasterOperation['settings']): boolean {
    const [wants, context, takesIn] = [this.wants(), this.context(), this.aim?.kind === 'after'];
    const inputs = kind.inputs({ settings, inputs: {} }, context);
    const types = takesIn ? inputs.map((i) => i.type) : kind.outputs({ settings }, context).map((o) => o.type);
    if (takesIn && !inputs.length) return false;
    if (wants === 'both') return true;
    const surface = types.some((t) => t === 'surface' || t === 'either');
    const numbers = types.some((t) => t !== 'surface' && t !== 'map');
    return wants === 'surface' ? surface : numbers;
  }
  /** The project with every master that may be used, not only those that are. */
  private readonly context = computed<GraphContext>(() => ({
    ...this.model.context(),
    masters: { ...this.model.context().masters, ...Object.fromEntries(this.model.usable().map((m) => [m.id, m.body])) },
  }));
  /** Masters of the project, each as one operation. */
  private masters(query: string): Hit[] {
    const own = stepKind('own');
    return this.model.usable().flatMap(({ id, body }) => {
      const settings = { master: id };
      const score = query.trim() ? matchScore(query, body.name, `master own operation ${body.help}`) : 0;
      if (score <= 0 || !this.fits(own, settings)) return [];
      const [key, help] = [`own ${id}`, body.help || 'a master of this project, as one operation'];
      return [{ score, key, name: body.name, group: 'own', help, price: priceText(PRICES.get(key)), step: 'own', settings }];
    });
  }

  private steps(query: string): Hit[] {
    return findSteps(query, (kind) => {
      return this.fits(kind, {});
    }).map(({ kind, score }) => ({
      score,
      key: `+${kind.name}`,
      name: kind.name,
      group: kind.group,
      help: kind.help,
      price: priceText(PRICES.get(kind.name)),
      step: kind.name,
    }));
  }

  /** What is in the graph already: outputs, parameters and published values to link, operations to go to. */
  private there(query: string): Hit[] {
    const [aim, master] = [this.aim, this.model.master()];
    if (!master || !aim || aim.kind === 'replace') return [];
    const feeds = aim.kind === 'feed' ? aim.at : null;
    const wants = this.wants();
    const found: Hit[] = [];
    const add = (hit: Omit<Hit, 'score'>, words = '', bonus = 8) => {
      const score = matchScore(query, hit.name, words);
      if (score > 0 && query.trim()) found.push({ ...hit, score: score + bonus });
    };
    for (const { id, step, name } of inOrder(master.operations)) {
      if (!isStep(step)) continue;
      const called = name || step;
      if (!feeds) {
        add({ key: `=${id}`, name: called, group: 'go to', help: name ? step : stepKind(step).help, price: '', goes: id }, step);
        continue;
      }
      if (id === feeds.operation || wouldCircle(master, id, feeds.operation)) continue;
      for (const { name: port, label = port } of outputsOf(master.operations[id], this.context())) {
        if (wants !== 'both' && givesSurface(master, linkTo(id, port), this.context()) !== (wants === 'surface')) continue;
        add(
          {
            key: `=${id}.${port}`,
            name: port === 'out' ? called : `${called} ${label}`,
            group: 'link',
            help: `from ${step} in this graph`,
            price: 'free',
            source: linkTo(id, port),
          },
          `${step} ${port}`,
          name ? 8 : -8,
        );
      }
    }
    if (feeds)
      for (const { id, name, holds } of inOrder(master.parameters))
        if (holds.kind !== 'map' && (wants === 'both' || (holds.kind === 'surface') === (wants === 'surface')))
          add({
            key: `p${id}`,
            name,
            group: 'parameter',
            help: 'follows this parameter',
            price: 'free',
            source: { from: 'parameter', parameter: id },
          });
    if (feeds)
      for (const { id, name, operation } of inOrder(master.published))
        if (!wouldCircle(master, operation, feeds.operation))
          add({
            key: `n${id}`,
            name,
            group: 'published',
            help: 'reads this value by its name',
            price: 'free',
            source: { from: 'published', published: id },
          });
    return found.sort((a, b) => b.score - a.score);
  }

  take(hit: Hit | undefined): void {
    const aim = this.aim;
    if (!hit || !aim) return;
    this.close();
    if (hit.goes) this.selection.choose(hit.goes);
    else if (hit.source && aim.kind === 'feed') this.acts.link(aim.at, hit.source, hit.name);
    else if (hit.step) this.acts.put(hit.step, aim, hit.settings && { settings: hit.settings, name: hit.name });
  }
  key(event: KeyboardEvent): void {
    const act = {
      Escape: () => this.close(),
      Enter: () => this.take(this.hits()[this.at()]),
      Tab: () => this.take(this.hits()[this.at()]),
      ArrowDown: () => this.move(1),
      ArrowUp: () => this.move(-1),
    }[event.key];
    event.stopPropagation();
    if (!act) return;
    event.preventDefault();
    act();
  }
  private move(by: number): void {
    this.at.update((at) => Math.min(this.hits().length - 1, Math.max(0, at + by)));
    setTimeout(() => document.getElementById(`hit-${this.at()}`)?.scrollIntoView({ block: 'nearest' }));
  }
  left(): void {
    setTimeout(() => this.acts.aim() === this.aim && this.close());
  }
  private close(): void {
    this.acts.aim.set(null);
    this.done.emit();
  }
}

/** Prices of steps and of masters as steps, a few at a time. */
function* pricesOf(steps: Iterable<[string, Price]>, masters: readonly { id: string }[], context: GraphContext): Generator<[string, Price]> {
  yield* steps;
  for (const { id } of masters) yield [`own ${id}`, stepPrice(stepKind('own'), context, { master: id })];
}

export const priceText = (price: Price | undefined): string =>
  !price
    ? '…'
    : price.samples
      ? `+${price.samples} sample${price.samples > 1 ? 's' : ''}, ${price.operations} ops`
      : price.operations > 0
        ? `+${price.operations} ops`
        : 'free';
