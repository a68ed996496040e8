import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, output, signal, untracked, viewChild } from '@angular/core';
import type { CardGraph, CardPlaces, MasterDocument, MasterOutput } from '@pebble/core';
import { CARD_WIDTH, inOrder, inputsOf, linkTo, portHeight, reached, sourceAt } from '@pebble/core';
import { follow } from '../../../ui/follow';
import { THUMB } from '../../../workers/master-protocol';
import { Acts } from '../acts';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { CardLayout } from '../places';
import { Selection } from '../selection';
import { bars, boundsOf, cardText, outputTitle, rounded } from './card-text';

/** Below this share of its size a card is no longer read. */
const READABLE = 0.72;
/** Pixels of moving before a press is a drag. */
const SLACK = 5;
interface PortShown {
  name: string;
  top: number;
  bars: undefined[];
  at: boolean;
  fed: boolean;
}

/** The graph in lanes that end at its outputs. Nobody drags cards: the program lays them, and keeps what an edit did not touch. */
@Component({
  selector: 'pb-graph',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './graph-canvas.html',
  styleUrl: './graph-canvas.scss',
})
export class GraphCanvas {
  readonly model = inject(MasterModel);
  readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  private readonly layout = inject(CardLayout);
  private readonly looks = inject(Looks);
  private readonly host = viewChild.required<ElementRef<HTMLElement>>('host');
  private readonly world = viewChild.required<ElementRef<HTMLElement>>('world');
  /** Somebody wants to turn what is chosen; a digit that was typed comes along. */
  readonly edit = output<string | void>();
  readonly thumb = THUMB;
  readonly eased = signal(false);
  readonly dragged = signal<string | null>(null);
  private view = { x: 0, y: 0, k: 1 };
  private fitted: string | null = null;
  private readable = false;
  readonly title = outputTitle;

  readonly says = computed(() => {
    const [master, id, out] = [this.model.master(), this.selection.id(), this.selection.output()];
    const port = this.selection.input();
    if (!master) return '';
    if (out) return `Output ${outputTitle(out)} is chosen`;
    return id ? `${nameOf(master, id)} is chosen${port ? `, input ${port}` : ''}` : `${Object.keys(master.operations).length} operations`;
  });

  readonly laid = this.layout.laid;
  readonly rest = computed(() => this.laid()?.graph.rest ?? []);
  /** Cards whose way to an output goes through the selection, or that it hangs on. */
  private readonly hot = computed(() => {
    const [laid, chosen] = [this.laid(), new Set([...this.selection.ids(), ...(this.selection.cardId() ? [this.selection.cardId() as string] : [])])];
    const found = new Set<string>();
    if (!laid || !chosen.size) return found;
    for (const { from, to } of laid.graph.links) if (chosen.has(from) || chosen.has(to)) found.add(`${from}>${to}`);
    return found;
  });

  private readonly paths = computed(() => {
    const laid = this.laid();
    return (laid?.graph.links ?? []).map((link, i) => ({
      key: `${link.from}.${link.fromPort}>${link.to}.${link.toPort}`,
      ends: `${link.from}>${link.to}`,
      d: rounded(laid?.rails[i] ?? []),
    }));
  });
  readonly rails = computed(() => {
    const hot = this.hot();
    return this.paths().map((path) => ({ ...path, hot: hot.has(path.ends) }));
  });

  readonly cards = computed(() => {
    const [laid, master, looks] = [this.laid(), this.model.master(), this.looks.all()];
    if (!laid || !master) return [];
    const { graph, places } = laid;
    const chosen = new Set(this.selection.ids());
    const own = this.selection.cardId();
    const at = this.selection.at();
    const used = reached(master);
    return graph.cards.flatMap((card) => {
      const place = places[card.id];
      if (!place) return [];
      const shown = cardText(card, master, looks);
      const ports = (list: readonly string[], side: 'in' | 'out'): PortShown[] =>
        list.map((name, i) => {
          const [operation, port] = card.kind === 'output' ? ['', name] : [card.id, name];
          return {
            name,
            top: portHeight(list.length, i, card.height),
            bars: new Array<undefined>(bars(master, card, name, side, this.model.context())),
            at: side === 'in' && at?.operation === operation && at.port === port && (card.kind !== 'output' || own === card.id),
            fed: side === 'out' || sourceAt(master, { operation, port }) !== undefined,
          };
        });
      return [
        {
          ...shown,
          id: card.id,
          kind: card.kind,
          at: `translate(${place.x}px, ${place.y}px)`,
          width: card.width,
          height: card.height,
          on: chosen.has(card.id) || own === card.id,
          idle: card.kind === 'operation' && !used.has(card.id),
          inputs: ports(card.inputs, 'in'),
          outputs: ports(card.outputs, 'out'),
        },
      ];
    });
  });

  readonly frames = computed(() => {
    const [laid, master] = [this.laid(), this.model.master()];
    if (!laid || !master) return [];
    return inOrder(master.frames).flatMap(({ id, name, folded }) => {
      const inside = laid.graph.cards.filter((c) => master.operations[c.id]?.frame === id && laid.places[c.id]);
      if (folded || !inside.length) return [];
      const x = Math.min(...inside.map((c) => laid.places[c.id].x)) - 14;
      const y = Math.min(...inside.map((c) => laid.places[c.id].y)) - 24;
      const right = Math.max(...inside.map((c) => laid.places[c.id].x + c.width)) + 14;
      const bottom = Math.max(...inside.map((c) => laid.places[c.id].y + c.height)) + 10;
      return [{ id, name, at: `translate(${x}px, ${y}px)`, width: right - x, height: bottom - y }];
    });
  });

  constructor() {
    effect(() => {
      const laid = this.laid();
      const id = this.model.id();
      if (!laid || this.fitted === id) return;
      this.fitted = id;
      this.readable = false;
      setTimeout(() => {
        this.fit();
        setTimeout(() => this.eased.set(true), 60);
      });
    });
    effect(() => {
      if (this.model.id() !== this.fitted) this.eased.set(false);
    });
    // Pictures are drawn when they come, off what lays the page out.
    effect(() => {
      const pictures = this.looks.all()?.pictures;
      this.cards();
      if (pictures) requestAnimationFrame(() => this.drawThumbs(pictures));
    });
    // What is chosen is brought into view.
    effect(() => {
      const card = this.selection.cardId();
      const laid = this.laid();
      if (card && laid?.places[card]) untracked(() => this.reveal(card, laid));
    });
    const observer = new ResizeObserver(() => this.place());
    setTimeout(() => observer.observe(this.host().nativeElement));
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  focus = (): void => this.host().nativeElement.focus({ preventScroll: true });

  private readonly drawn = new WeakMap<HTMLCanvasElement, unknown>();
  private drawThumbs(pictures: Record<string, { rgba: Uint8ClampedArray<ArrayBuffer> }>): void {
    for (const canvas of this.world().nativeElement.querySelectorAll<HTMLCanvasElement>('canvas[data-thumb]')) {
      const picture = pictures[canvas.dataset['thumb'] ?? ''];
      if (this.drawn.get(canvas) === picture) continue;
      this.drawn.set(canvas, picture);
      const context = canvas.getContext('2d');
      if (picture && context) context.putImageData(new ImageData(picture.rgba, THUMB, THUMB), 0, 0);
      canvas.style.visibility = picture ? 'visible' : 'hidden';
    }
  }

  /** Panning touches one style, so that no card is laid out anew. */
  private place(): void {
    const { x, y, k } = this.view;
    this.world().nativeElement.style.transform = `translate(${x}px, ${y}px) scale(${k})`;
  }
  /** All of it; asked once more, as large as can be read, its outputs in sight. */
  fit(): void {
    const laid = this.laid();
    const box = this.host().nativeElement.getBoundingClientRect();
    if (!laid?.graph.cards.length || !box.width) return;
    const { left, top, right, bottom } = boundsOf(laid);
    const whole = Math.min(1.1, (box.width - 60) / Math.max(1, right - left), (box.height - 112) / Math.max(1, bottom - top));
    this.readable = !this.readable || whole > READABLE;
    const k = this.readable ? Math.max(READABLE, whole) : Math.max(0.15, whole);
    const x = k > whole ? box.width - 36 - right * k : (box.width - (right + left) * k) / 2;
    const ends = laid.graph.cards.filter((c) => c.kind === 'output');
    const centre = k > whole && ends.length ? ends.reduce((sum, c) => sum + laid.places[c.id].y + c.height / 2, 0) / ends.length : (top + bottom) / 2;
    const y = 54 + (box.height - 106) / 2 - centre * k;
    // Nothing of the top is lost above the bar where all of it fits below.
    this.view = { k, x, y: (bottom - top) * k <= box.height - 106 ? y : 60 - top * k };
    this.place();
  }
  private reveal(card: string, { graph, places }: { graph: CardGraph; places: CardPlaces }): void {
    const box = this.host().nativeElement.getBoundingClientRect();
    const { width, height } = graph.cards.find((c) => c.id === card) ?? { width: CARD_WIDTH, height: 46 };
    const { x, y, k } = this.view;
    const [left, top] = [places[card].x * k + x, places[card].y * k + y];
    const dx = left < 20 ? 20 - left : left + width * k > box.width - 20 ? box.width - 20 - left - width * k : 0;
    const dy = top < 52 ? 52 - top : top + height * k > box.height - 14 ? box.height - 14 - top - height * k : 0;
    if (!dx && !dy) return;
    this.view = { k, x: x + dx, y: y + dy };
    this.place();
  }
  zoom(event: WheelEvent): void {
    event.preventDefault();
    const box = this.host().nativeElement.getBoundingClientRect();
    const { x, y, k } = this.view;
    const next = Math.min(2, Math.max(0.15, k * Math.exp(-event.deltaY * 0.0012)));
    const [px, py] = [event.clientX - box.left, event.clientY - box.top];
    this.view = { k: next, x: px - ((px - x) / k) * next, y: py - ((py - y) / k) * next };
    this.place();
  }
  press(event: PointerEvent): void {
    this.focus();
    let far = false;
    const { clientX, clientY } = event;
    follow(
      event,
      (dx, dy, e) => {
        far ||= Math.hypot(e.clientX - clientX, e.clientY - clientY) > SLACK;
        this.view = { ...this.view, x: this.view.x + dx, y: this.view.y + dy };
        this.place();
      },
      (kept) => {
        if (kept && !far) this.selection.choose(null);
      },
    );
  }
  pressCard(event: PointerEvent, id: string): void {
    event.stopPropagation();
    event.preventDefault();
    this.focus();
    if (!id.startsWith('#')) this.selection.choose(id, event.shiftKey || event.ctrlKey || event.metaKey);
  }
  chooseOutput(name: string): void {
    this.focus();
    this.selection.choose(`>${name}`);
  }

  /** Drags a link from a port: to another port, or to nothing, which asks what shall be there. */
  pressPort(event: PointerEvent, card: string, port: string, side: 'in' | 'out'): void {
    event.stopPropagation();
    this.focus();
    const box = this.host().nativeElement.getBoundingClientRect();
    const at = (e: PointerEvent) => ({ x: (e.clientX - box.left - this.view.x) / this.view.k, y: (e.clientY - box.top - this.view.y) / this.view.k });
    const start = at(event);
    let far = false;
    follow(
      event,
      (_, __, e) => {
        far ||= Math.hypot(e.clientX - event.clientX, e.clientY - event.clientY) > SLACK;
        const end = at(e);
        const turn = (start.x + end.x) / 2;
        if (far) this.dragged.set(`M${start.x},${start.y}H${turn}V${end.y}H${end.x}`);
      },
      (kept) => {
        this.dragged.set(null);
        if (!kept) return;
        if (!far) {
          if (side === 'in') {
            this.selection.choose(card);
            if (!card.startsWith('>')) this.selection.input.set(port);
          } else if (!card.startsWith('#')) {
            this.selection.choose(card);
            this.selection.port.set(port);
          }
          return;
        }
        this.drop(lastPointer(), card, port, side);
      },
    );
    let last = { x: event.clientX, y: event.clientY };
    const track = (e: PointerEvent) => (last = { x: e.clientX, y: e.clientY });
    addEventListener('pointermove', track);
    addEventListener('pointerup', () => removeEventListener('pointermove', track), { once: true });
    const lastPointer = () => last;
  }
  private drop({ x, y }: { x: number; y: number }, card: string, port: string, side: 'in' | 'out'): void {
    const target = document
      .elementsFromPoint(x, y)
      .find((e): e is HTMLElement => e instanceof HTMLElement && (e.dataset['port'] !== undefined || e.classList.contains('op')));
    const place = (name: string, p: string) => (name.startsWith('>') ? { operation: '', port: p } : { operation: name, port: p });
    const master = this.model.master();
    if (!master) return;
    const onCard = target?.id.startsWith('card-') ? target.id.slice(5) : null;
    const [kind, to, toPort] = target?.dataset['port']?.split(' ') ?? [];
    if (side === 'out') {
      if (kind === 'in') return void this.acts.link(place(to, toPort), linkTo(card, port), nameOf(master, card));
      // On a card without a port it goes to the first input that is free.
      if (onCard && onCard !== card) return this.linkToCard(master, onCard, card, port);
      return this.acts.aim.set({ kind: 'after', from: { operation: card, port } });
    }
    const at = place(card, port);
    if (kind === 'out') return void this.acts.link(at, linkTo(to, toPort), nameOf(master, to));
    if (onCard && master.operations[onCard] && onCard !== card) return void this.acts.link(at, linkTo(onCard), nameOf(master, onCard));
    this.acts.aim.set({ kind: 'feed', at });
  }
  private linkToCard(master: MasterDocument, to: string, from: string, port: string): void {
    if (to.startsWith('>')) return void this.acts.link({ operation: '', port: to.slice(1) }, linkTo(from, port), nameOf(master, from));
    const op = master.operations[to];
    const free = inputsOf(op, this.model.context()).find((i) => i.type !== 'map' && !op.inputs[i.name]);
    if (op && free) this.acts.link({ operation: to, port: free.name }, linkTo(from, port), nameOf(master, from));
  }

  key(event: KeyboardEvent): void {
    if (event.target !== this.host().nativeElement || event.altKey) return;
    const ctrl = event.ctrlKey || event.metaKey;
    const act = this.keys(event, ctrl);
    if (act === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  }
  private keys(event: KeyboardEvent, ctrl: boolean): (() => void) | undefined {
    const { selection, acts } = this;
    if (ctrl)
      return { KeyD: () => acts.duplicate(), KeyA: () => selection.chooseAll(Object.keys(this.model.master()?.operations ?? {})) }[event.code];
    if (event.key === 'Tab' && event.shiftKey) return undefined;
    if (/^[\d-]$/.test(event.key) && selection.at()) return () => this.edit.emit(event.key);
    const walk: Record<string, () => void> = {
      Tab: () => acts.search(),
      Enter: () => this.edit.emit(),
      ArrowLeft: () => selection.walkBack(),
      ArrowRight: () => selection.walkOn(),
      ArrowUp: () => void (selection.walkInputs(-1) || this.beside(-1)),
      ArrowDown: () => void (selection.walkInputs(1) || this.beside(1)),
      PageUp: () => this.beside(-1),
      PageDown: () => this.beside(1),
      Home: () => this.firstOutput(),
      Escape: () => selection.choose(null),
      Delete: () => acts.remove(),
      Backspace: () => acts.remove(),
    };
    const letters: Record<string, () => void> = {
      KeyF: () => this.fit(),
      KeyB: () => acts.bypass(),
      KeyR: () => acts.replace(),
      KeyP: () => acts.parameter(),
      KeyC: () => acts.colour(),
      KeyN: () => acts.publish(),
      KeyG: () => acts.frame(),
      KeyM: () => void acts.own(),
      KeyT: () => this.layout.tidy(),
    };
    return walk[event.key] ?? letters[event.code];
  }
  /** The card above or below, near the same lane. */
  private beside(by: 1 | -1): void {
    const [laid, card] = [this.laid(), this.selection.cardId()];
    if (!laid) return;
    if (!card) return this.firstOutput();
    const here = laid.places[card];
    const rest = laid.graph.rest;
    if (!here) {
      // Outputs that nothing feeds stand side by side.
      const next = rest[rest.indexOf(card.slice(1) as MasterOutput) + by];
      return next ? this.selection.choose(`>${next}`) : undefined;
    }
    const near = laid.graph.cards
      .filter(
        (c) =>
          c.kind !== 'frame' &&
          c.id !== card &&
          laid.places[c.id] &&
          Math.sign(laid.places[c.id].y - here.y) === by &&
          Math.abs(laid.places[c.id].x - here.x) < CARD_WIDTH,
      )
      .sort((a, b) => Math.abs(laid.places[a.id].y - here.y) - Math.abs(laid.places[b.id].y - here.y));
    if (near.length) return this.selection.choose(near[0].id);
    // Past the last output lie those that nothing feeds yet.
    if (card.startsWith('>') && by > 0 && rest.length) this.selection.choose(`>${rest[0]}`);
  }
  private firstOutput(): void {
    const fed = this.laid()?.graph.cards.find((c) => c.kind === 'output');
    const rest = this.laid()?.graph.rest ?? [];
    const id = fed?.id ?? (rest.length ? `>${rest[0]}` : null);
    this.selection.choose(id);
  }

  copy(event: ClipboardEvent): void {
    const text = this.acts.copyText();
    if (!text || event.target !== this.host().nativeElement) return;
    event.preventDefault();
    event.clipboardData?.setData('text/plain', text);
  }
  cut(event: ClipboardEvent): void {
    this.copy(event);
    if (event.defaultPrevented) this.acts.remove();
  }
  paste(event: ClipboardEvent): void {
    if (event.target !== this.host().nativeElement) return;
    event.preventDefault();
    this.acts.paste(event.clipboardData?.getData('text/plain') ?? '');
  }
}
