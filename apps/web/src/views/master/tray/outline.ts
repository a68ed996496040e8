import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { MasterDocument, Source } from '@pebble/core';
import { MASTER_OUTPUTS, inOrder, matchScore, reached } from '@pebble/core';
import { outputTitle } from '../graph/card-text';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

interface Line {
  key: string;
  depth: number;
  text: string;
  card: string | null;
  again: boolean;
}

/** The graph as text: every output, and what feeds it, indented. */
@Component({
  selector: 'pb-outline',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <input
      class="field"
      placeholder="find by name, parameter or map"
      aria-label="Find in the outline"
      (input)="query.set($any($event.target).value)"
    />
    <div class="lines" role="tree" aria-label="Outline of the graph">
      @for (line of lines(); track line.key) {
        <button
          role="treeitem"
          [attr.aria-level]="line.depth + 1"
          [class.on]="line.card !== null && line.card === selection.cardId()"
          [class.quiet]="line.again"
          [style.padding-left.px]="6 + line.depth * 13"
          (click)="selection.choose(line.card)"
        >
          {{ line.text }}{{ line.again ? ' (above)' : '' }}
        </button>
      } @empty {
        <p class="quiet">Nothing is called so.</p>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      padding: 8px 12px;
      gap: 6px;
    }
    .lines {
      overflow: auto;
      min-height: 0;
      font: 12px/18px var(--mono);
    }
    button {
      display: block;
      width: 100%;
      text-align: left;
      white-space: nowrap;
      border-radius: 6px;
      font: inherit;
    }
    button.on {
      background: var(--glaze-soft);
    }
    button:hover {
      background: color-mix(in srgb, var(--ink) 7%, transparent);
    }
  `,
})
export class Outline {
  private readonly model = inject(MasterModel);
  private readonly looks = inject(Looks);
  readonly selection = inject(Selection);
  readonly query = signal('');

  readonly lines = computed<Line[]>(() => {
    const master = this.model.master();
    if (!master) return [];
    const query = this.query().trim();
    return query ? this.found(master, query) : this.all(master);
  });

  private all(master: MasterDocument): Line[] {
    const lines: Line[] = [];
    const told = new Set<string>();
    const tell = (port: string, source: Source, depth: number, path: string) => {
      const key = `${path}/${port}`;
      const from = source.from === 'link' ? source.operation : null;
      const text = `${port} ← ${sourceText(master, source)}`;
      const again = from !== null && told.has(from);
      lines.push({ key, depth, text, card: from, again });
      if (from === null || again || !master.operations[from] || depth > 60) return;
      told.add(from);
      for (const [p, s] of Object.entries(master.operations[from].inputs)) tell(p, s, depth + 1, key);
    };
    for (const name of MASTER_OUTPUTS) {
      const source = master.outputs[name];
      if (!source) continue;
      lines.push({ key: name, depth: 0, text: `output ${outputTitle(name)}`, card: `>${name}`, again: false });
      tell('', source, 1, name);
    }
    const used = reached(master);
    const idle = inOrder(master.operations).filter(({ id }) => !used.has(id));
    if (idle.length) lines.push({ key: 'idle', depth: 0, text: 'feeds no output', card: null, again: false });
    for (const { id } of idle) lines.push({ key: `idle ${id}`, depth: 1, text: nameOf(master, id), card: id, again: false });
    return lines;
  }

  private found(master: MasterDocument, query: string): Line[] {
    const nameOfMap = this.model.nameOf;
    return inOrder(master.operations).flatMap(({ id, step, name, inputs, settings, note }) => {
      const parameters = Object.values(inputs).map((s) => sourceText(master, s));
      const maps = ['surface', 'blend'].flatMap((k) => (settings[k] ? [nameOfMap(String(settings[k]))] : []));
      const score = matchScore(query, name || step, [step, note, ...parameters, ...maps].join(' '));
      return score > 0 ? [{ key: id, depth: 0, text: [name || step, ...(name ? [step] : []), ...maps].join(' · '), card: id, again: false }] : [];
    });
  }
}

const sourceText = (master: MasterDocument, source: Source): string =>
  source.from === 'link'
    ? `${nameOf(master, source.operation)}${source.port === 'out' ? '' : `.${source.port}`}`
    : source.from === 'parameter'
      ? `parameter ${master.parameters[source.parameter]?.name ?? 'gone'}`
      : source.from === 'published'
        ? `reads ${master.published[source.published]?.name ?? 'gone'}`
        : source.value.map((v) => Number(v.toFixed(3))).join(' ');
