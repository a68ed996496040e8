import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { GraphContext, MasterDocument } from '@pebble/core';
import { cardsOf, frameCard, layCards } from '@pebble/core';
import { nameOf } from '../looks';

/** A graph in small, to be looked at beside another: cards by their names, links, and those that are marked. */
@Component({
  selector: 'pb-small-graph',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.viewBox]="box()" role="img" [attr.aria-label]="label()">
      @for (l of links(); track $index) {
        <path [attr.d]="l" />
      }
      @for (c of cards(); track c.id) {
        <g [class.out]="c.out" [class.marked]="marked().has(c.id)">
          <rect [attr.x]="c.x" [attr.y]="c.y" [attr.width]="c.width" [attr.height]="c.height" rx="10" />
          <text [attr.x]="c.x + 10" [attr.y]="c.y + 25">{{ c.name }}</text>
        </g>
      }
    </svg>
  `,
  styles: `
    svg {
      display: block;
      width: 100%;
      height: 100%;
    }
    rect {
      fill: var(--raise);
      stroke: var(--line);
      stroke-width: 2;
    }
    .out rect {
      fill: var(--ink);
    }
    .out text {
      fill: var(--ground);
    }
    .marked rect {
      fill: color-mix(in srgb, var(--warn) 22%, var(--raise));
      stroke: var(--warn);
      stroke-width: 4;
    }
    path {
      fill: none;
      stroke: var(--quiet);
      stroke-width: 3;
    }
    text {
      font-size: 19px;
      fill: var(--ink);
    }
  `,
})
export class SmallGraph {
  readonly document = input.required<MasterDocument>();
  readonly context = input.required<GraphContext>();
  readonly marked = input<ReadonlySet<string>>(new Set());
  readonly label = input('');

  private readonly laid = computed(() => {
    const graph = cardsOf(this.document(), this.context());
    return { graph, places: layCards(graph) };
  });
  readonly cards = computed(() => {
    const { graph, places } = this.laid();
    const document = this.document();
    const nameIn = (id: string, kind: string) =>
      kind === 'operation'
        ? nameOf(document, id)
        : kind === 'frame'
          ? (Object.entries(document.frames).find(([f]) => frameCard(f) === id)?.[1].name ?? '')
          : id.slice(1);
    return graph.cards.map(({ id, kind, width, height }) => ({
      id,
      ...places[id],
      width,
      height,
      out: kind === 'output',
      name: nameIn(id, kind).slice(0, 16),
    }));
  });
  readonly links = computed(() => {
    const { graph, places } = this.laid();
    const sizes = new Map(graph.cards.map((c) => [c.id, c]));
    return graph.links.map(({ from, to }) => {
      const [a, z] = [sizes.get(from), sizes.get(to)];
      if (!a || !z) return '';
      const [x0, y0, x1, y1] = [places[from].x + a.width, places[from].y + a.height / 2, places[to].x, places[to].y + z.height / 2];
      const middle = (x0 + x1) / 2;
      return `M${x0} ${y0} L${middle} ${y0} L${middle} ${y1} L${x1} ${y1}`;
    });
  });
  readonly box = computed(() => {
    const cards = this.cards();
    const [x0, y0] = [Math.min(...cards.map((c) => c.x)), Math.min(...cards.map((c) => c.y))];
    const [x1, y1] = [Math.max(...cards.map((c) => c.x + c.width)), Math.max(...cards.map((c) => c.y + c.height))];
    return cards.length ? `${x0 - 10} ${y0 - 10} ${x1 - x0 + 20} ${y1 - y0 + 20}` : '0 0 1 1';
  });
}
