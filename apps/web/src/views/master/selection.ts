import { Injectable, computed, inject, linkedSignal, signal, untracked } from '@angular/core';
import type { GraphPort, MasterOutput } from '@pebble/core';
import { MASTER_OUTPUTS, firstOutput, isOutput, isStep, portsOf, sourceAt, stepKind } from '@pebble/core';
import { MasterModel } from './master-model';

/** What is chosen on the canvas: an operation or an output of the graph, several, and the input that keys go to. */
@Injectable()
export class Selection {
  private readonly model = inject(MasterModel);
  /** The chosen card: an operation, or `>` and the name of an output. */
  private readonly card = signal<string | null>(null);
  readonly more = signal<ReadonlySet<string>>(new Set());

  /** The chosen operation, while it is there. */
  readonly id = computed(() => {
    const [id, master] = [this.card(), this.model.master()];
    return id && master && Object.hasOwn(master.operations, id) ? id : null;
  });
  /** The chosen output of the graph. */
  readonly output = computed<MasterOutput | null>(() => {
    const name = this.card()?.slice(1) ?? '';
    return this.card()?.startsWith('>') && isOutput(name) ? name : null;
  });
  readonly cardId = computed(() => this.id() ?? (this.output() ? `>${this.output()}` : null));
  /** All chosen operations. */
  readonly ids = computed(() => {
    const master = this.model.master();
    const id = this.id();
    return [...new Set([...(id ? [id] : []), ...this.more()])].filter((i) => master && Object.hasOwn(master.operations, i));
  });
  readonly operation = computed(() => {
    const [id, master] = [this.id(), this.model.master()];
    return id && master ? master.operations[id] : null;
  });
  readonly step = computed(() => {
    const op = this.operation();
    return op && isStep(op.step) ? stepKind(op.step) : null;
  });
  /** Inputs of what is chosen, as they are walked through. */
  readonly inputs = computed<readonly string[]>(() => {
    const [id, output, master] = [this.id(), this.output(), this.model.master()];
    return output ? [output] : id && master ? portsOf(master, id, this.model.context()).inputs : [];
  });
  /** Which of them keys go to. */
  readonly input = linkedSignal<string | null, string | null>({
    source: () => this.cardId(),
    // Only another card begins anew, not every change of the document.
    computation: () => untracked(this.inputs)[0] ?? null,
  });
  /** The place that is fed by what is typed, linked or added. */
  readonly at = computed<GraphPort | null>(() => {
    const [id, output, port] = [this.id(), this.output(), this.input()];
    if (output) return { operation: '', port: output };
    return id && port && this.inputs().includes(port) ? { operation: id, port } : null;
  });
  /** The output of the chosen operation that is looked at and linked from. */
  readonly port = linkedSignal<string | null, string>({
    source: () => this.id(),
    computation: (id) => {
      const master = untracked(this.model.master);
      return id && master ? firstOutput(master, id, untracked(this.model.context)) : 'out';
    },
  });

  choose(card: string | null, together = false): void {
    if (together && card && !card.startsWith('>')) {
      const before = this.ids();
      const next = new Set(before.includes(card) ? before.filter((i) => i !== card) : [...before, card]);
      this.more.set(next);
      this.card.set(next.has(card) ? card : ([...next][0] ?? null));
      return;
    }
    this.more.set(new Set());
    this.card.set(card);
  }
  chooseAll(ids: readonly string[]): void {
    this.card.set(ids.at(-1) ?? null);
    this.more.set(new Set(ids));
  }

  /** Goes to what feeds the input that is at hand. */
  walkBack(): void {
    const [at, master] = [this.at(), this.model.master()];
    const source = at && master ? sourceAt(master, at) : undefined;
    if (source?.from === 'link') this.choose(source.operation);
    else if (source?.from === 'published' && master?.published[source.published]) this.choose(master.published[source.published].operation);
  }
  /** Goes to what the chosen operation feeds, and to the input that it feeds there. */
  walkOn(): void {
    const [id, master] = [this.id(), this.model.master()];
    if (!id || !master) return;
    const feeds = (s: { from: string; operation?: string }) => s.from === 'link' && s.operation === id;
    for (const [to, op] of Object.entries(master.operations))
      for (const [port, source] of Object.entries(op.inputs))
        if (feeds(source)) {
          this.choose(to);
          return this.input.set(port);
        }
    const output = MASTER_OUTPUTS.find((name) => {
      const source = master.outputs[name];
      return source && feeds(source);
    });
    if (output) this.choose(`>${output}`);
  }
  /** The next input, or the one before. */
  walkInputs(by: 1 | -1): boolean {
    const list = this.inputs();
    const at = list.indexOf(this.input() ?? '') + by;
    if (at < 0 || at >= list.length) return false;
    this.input.set(list[at]);
    return true;
  }
}
