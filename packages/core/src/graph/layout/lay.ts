import type { CardGraph, GraphCard, GraphLink } from './cards';
import { PORT_GAP } from './cards';

export interface CardPlace {
  x: number;
  y: number;
}
export type CardPlaces = Record<string, CardPlace>;

/** From the left of one card to the left of the next that it feeds: as it is laid, and the least that a rail needs. */
const PITCH = 206;
const LEAST = 178;
/** Between two cards above each other, and between lanes. */
const GAP = 11;
const LANE_GAP = 20;
/** A card that moves less than this is taken for one that stays. */
const STAYS = 40;

interface Node {
  card: GraphCard;
  feeds: Node[];
  fed: Node[];
  x: number;
  y: number;
  /** Steps to the outputs. */
  column: number;
}

function nodesOf({ cards, links }: CardGraph): Map<string, Node> {
  const nodes = new Map<string, Node>(cards.map((card) => [card.id, { card, feeds: [], fed: [], x: 0, y: 0, column: 0 }]));
  for (const { from, to } of links) {
    const [a, b] = [nodes.get(from), nodes.get(to)];
    if (!a || !b || a === b || a.feeds.includes(b)) continue;
    a.feeds.push(b);
    b.fed.push(a);
  }
  return nodes;
}

/** Longest way to an end. A circle, which a document may hold, is cut where it is met. */
function setColumns(nodes: Iterable<Node>): void {
  const done = new Map<Node, number>();
  const under = new Set<Node>();
  const columnOf = (node: Node): number => {
    const found = done.get(node);
    if (found !== undefined) return found;
    if (under.has(node)) return 0;
    under.add(node);
    const ends = node.card.kind === 'output';
    const column = ends ? 0 : 1 + Math.max(0, ...node.feeds.map(columnOf));
    under.delete(node);
    done.set(node, column);
    return column;
  };
  for (const node of nodes) node.column = columnOf(node);
}

const middle = ({ y, card }: Node): number => y + card.height / 2;

/** Cards of a column one under another in their order, each as near as it may be to where it would like to be. */
function settle(column: Node[], wish: (node: Node) => number): void {
  // Pools of cards that touch each other, moved together to the mean of their wishes.
  const pools: { nodes: Node[]; height: number; wishes: number }[] = [];
  const top = (p: (typeof pools)[number]) => p.wishes / p.nodes.length;
  for (const node of column) {
    let pool = { nodes: [node], height: node.card.height + GAP, wishes: wish(node) };
    for (let last = pools.at(-1); last && top(last) + last.height > top(pool); last = pools.at(-1)) {
      pools.pop();
      pool = {
        nodes: [...last.nodes, ...pool.nodes],
        height: last.height + pool.height,
        wishes: last.wishes + pool.wishes - last.height * pool.nodes.length,
      };
    }
    pools.push(pool);
  }
  for (const pool of pools) {
    let y = top(pool);
    for (const node of pool.nodes) {
      node.y = y;
      y += node.card.height + GAP;
    }
  }
}

/** One lane by itself: the order of a walk from its end, then every card toward the middle of those that it hangs on. */
function layLane(nodes: readonly Node[]): void {
  const own = new Set(nodes);
  const columns = new Map<number, Node[]>();
  const seen = new Set<Node>();
  const walk = (node: Node) => {
    if (seen.has(node)) return;
    seen.add(node);
    columns.set(node.column, [...(columns.get(node.column) ?? []), node]);
    for (const before of node.fed) if (own.has(before)) walk(before);
  };
  [...nodes].sort((a, b) => a.column - b.column || a.card.order - b.card.order).forEach(walk);
  for (const column of columns.values()) {
    let y = 0;
    for (const node of column) {
      node.y = y;
      y += node.card.height + GAP;
    }
  }
  const order = [...columns.keys()].sort((a, b) => a - b);
  const toward = (list: readonly Node[], node: Node): number => {
    const near = list.filter((n) => own.has(n));
    return (near.length ? near.reduce((sum, n) => sum + middle(n), 0) / near.length : middle(node)) - node.card.height / 2;
  };
  for (let round = 0; round < 6; round++) {
    for (const c of order) settle(columns.get(c) as Node[], (n) => toward(n.feeds, n));
    for (const c of [...order].reverse()) settle(columns.get(c) as Node[], (n) => toward(n.fed.length ? n.fed : n.feeds, n));
  }
}

/** Everything anew: lanes under each other, all ending at the right. */
function layAll(nodes: ReadonlyMap<string, Node>): void {
  setColumns(nodes.values());
  const lanes = new Map<number, Node[]>();
  for (const node of nodes.values()) lanes.set(node.card.lane, [...(lanes.get(node.card.lane) ?? []), node]);
  let top = 0;
  for (const lane of [...lanes.keys()].sort((a, b) => a - b)) {
    const list = lanes.get(lane) as Node[];
    layLane(list);
    const first = Math.min(...list.map((n) => n.y));
    for (const node of list) {
      node.x = -node.column * PITCH;
      node.y = Math.round(node.y - first + top);
    }
    top = Math.max(...list.map((n) => n.y + n.card.height)) + LANE_GAP;
  }
}

/** What has to move, and by how much, so that a card may lie at `x`; cards that it feeds give way to the right, others to the left. */
function pushes(node: Node, x: number, side: 'feeds' | 'fed', moved: Map<Node, number> = new Map()): Map<Node, number> {
  const waiting: [Node, number][] = [[node, x]];
  for (let steps = 0; waiting.length && steps < 20000; steps++) {
    const [from, at] = waiting.pop() as [Node, number];
    for (const next of from[side]) {
      const now = moved.get(next) ?? next.x;
      const wanted = side === 'feeds' ? at + LEAST : at - LEAST;
      if (side === 'feeds' ? now >= wanted : now <= wanted) continue;
      moved.set(next, wanted);
      waiting.push([next, wanted]);
    }
  }
  return moved;
}

/** Outputs stand in one line. */
function alignEnds(nodes: ReadonlyMap<string, Node>, moved: Map<Node, number>): void {
  const ends = [...nodes.values()].filter((n) => n.card.kind === 'output');
  const right = Math.max(...ends.map((n) => moved.get(n) ?? n.x));
  if (ends.some((n) => moved.has(n))) for (const end of ends) if (end.x !== right) moved.set(end, right);
}
const cost = (moved: ReadonlyMap<Node, number>): number => [...moved].reduce((sum, [node, x]) => sum + (Math.abs(x - node.x) >= STAYS ? 1 : 0.01), 0);

/** Makes room for a card between those that feed it and those it feeds, at the least cost to others. */
function makeRoom(node: Node, nodes: ReadonlyMap<string, Node>, isNew: boolean): void {
  const right = Math.min(Infinity, ...node.feeds.map((n) => n.x)) - LEAST;
  const left = Math.max(-Infinity, ...node.fed.map((n) => n.x)) + LEAST;
  if (left <= right) {
    // There is room already: near to what it feeds, or to what feeds it where it feeds nothing.
    if (isNew) node.x = Number.isFinite(right) ? Math.max(left, right + LEAST - PITCH) : Number.isFinite(left) ? left - LEAST + PITCH : node.x;
    else node.x = Math.min(right, Math.max(left, node.x));
    return;
  }
  let best: { x: number; moved: Map<Node, number> } | null = null;
  for (const share of [0, 0.5, 1]) {
    const x = right + (left - right) * share;
    const moved = pushes(node, x, 'fed', pushes(node, x, 'feeds'));
    alignEnds(nodes, moved);
    if (!best || cost(moved) < cost(best.moved)) best = { x, moved };
  }
  if (!best) return;
  node.x = best.x;
  for (const [other, x] of best.moved) other.x = x;
}

const meets = (a: Node, b: Node, y: number): boolean =>
  a.x < b.x + b.card.width + 12 && b.x < a.x + a.card.width + 12 && y < b.y + b.card.height + GAP / 2 && b.y < y + a.card.height + GAP / 2;

/** The place nearest to a height at which a card lies on no other. */
function freeHeight(node: Node, wish: number, others: readonly Node[]): number {
  const near = others.filter((o) => o !== node && o.x < node.x + node.card.width + 12 && node.x < o.x + o.card.width + 12);
  const tries = [wish, ...near.flatMap((o) => [o.y - node.card.height - GAP, o.y + o.card.height + GAP])];
  return tries.sort((a, b) => Math.abs(a - wish) - Math.abs(b - wish)).find((y) => !near.some((o) => meets(node, o, y))) ?? wish;
}

/**
 * Where cards lie: x of their left, y of their top. Given where they lay, what an edit did not touch stays: only what has
 * to make room moves, and little of that by more than 40 px. Without, all is laid anew in lanes that end at the outputs.
 * @example layCards(cardsOf(master))
 */
export function layCards(graph: CardGraph, before: Readonly<CardPlaces> = {}): CardPlaces {
  const nodes = nodesOf(graph);
  const known = [...nodes.values()].filter((n) => Object.hasOwn(before, n.card.id));
  const fresh = [...nodes.values()].filter((n) => !Object.hasOwn(before, n.card.id));
  // Where most is new, nothing is lost by laying all of it.
  if (known.length * 2 < nodes.size || !known.some((n) => n.card.kind === 'operation')) layAll(nodes);
  else {
    for (const node of known) Object.assign(node, before[node.card.id]);
    keepMost(nodes, known, fresh);
  }
  return Object.fromEntries([...nodes].map(([id, { x, y }]) => [id, { x: Math.round(x), y: Math.round(y) }]));
}

function keepMost(nodes: ReadonlyMap<string, Node>, known: readonly Node[], fresh: readonly Node[]): void {
  setColumns(nodes.values());
  const ends = known.filter((n) => n.card.kind === 'output');
  const endX = ends.length ? Math.max(...ends.map((n) => n.x)) : 0;
  const started = new Map([...nodes.values()].map((n) => [n, n.x]));
  for (const node of fresh) {
    const near = [...node.feeds, ...node.fed].filter((n) => known.includes(n));
    node.x = node.card.kind === 'output' ? endX : near.length ? near[0].x - PITCH : endX - PITCH;
  }
  // From the ends inwards, so that what is fed is there before what feeds it.
  for (const node of [...fresh].sort((a, b) => a.column - b.column))
    if (node.card.kind === 'operation' || node.card.kind === 'frame') makeRoom(node, nodes, true);
  // A new link between two that were there may run backwards.
  for (const node of known) if (node.fed.some((n) => n.x + LEAST > node.x)) makeRoom(node, nodes, false);
  const placed = known.filter((n) => n.x === started.get(n));
  for (const node of known)
    if (!placed.includes(node)) {
      node.y = freeHeight(node, node.y, placed);
      placed.push(node);
    }
  for (const node of fresh) {
    const near = [...node.fed, ...node.feeds].filter((n) => placed.includes(n));
    const bottom = Math.max(0, ...placed.map((n) => n.y + n.card.height)) + GAP;
    const wish = near.length ? near.reduce((sum, n) => sum + middle(n), 0) / near.length - node.card.height / 2 : bottom;
    node.y = freeHeight(node, wish, placed);
    placed.push(node);
  }
  // Cards that grew push those under them down, and no others.
  for (const node of [...placed].sort((a, b) => a.y - b.y))
    if (placed.some((o) => o !== node && o.y < node.y && meets(node, o, node.y)))
      node.y = freeHeight(
        node,
        node.y,
        placed.filter((o) => o !== node && o.y <= node.y),
      );
}

/** Heights of the ports of a card, from its top. */
export const portHeight = (ports: number, index: number, height: number): number => {
  const span = Math.min(PORT_GAP, (height - 18) / Math.max(1, ports - 1));
  return (ports > 1 ? Math.max(15, (Math.min(46, height) - span * (ports - 1)) / 2) : 23) + index * span;
};

/** Where all rails run, by the links of a graph. */
export function railsOf(graph: CardGraph, places: Readonly<CardPlaces>): CardPlace[][] {
  const cards = new Map(graph.cards.map((c) => [c.id, c]));
  const boxes = graph.cards.map((card) => ({ card, ...places[card.id] }));
  const lines = [...new Set(boxes.flatMap(({ card, y }) => [y - 7, y + card.height + 7]))];
  return graph.links.map((link, i) => railOf(link, { cards, boxes, lines, places }, i));
}

interface Laid {
  cards: ReadonlyMap<string, GraphCard>;
  boxes: readonly ({ card: GraphCard } & CardPlace)[];
  /** Heights of the gaps between cards. */
  lines: readonly number[];
  places: Readonly<CardPlaces>;
}

/**
 * A rail: right-angled, from a port to a port, the last turn before the card that it feeds. Where another card lies in its
 * way it goes through the gap above or below.
 */
function railOf(link: GraphLink, { cards, boxes, lines, places }: Laid, index: number): CardPlace[] {
  const [a, b] = [cards.get(link.from) as GraphCard, cards.get(link.to) as GraphCard];
  const [pa, pb] = [places[link.from], places[link.to]];
  const port = (list: readonly string[], name: string) => Math.max(0, list.indexOf(name));
  const start = { x: pa.x + a.width, y: pa.y + portHeight(a.outputs.length, port(a.outputs, link.fromPort), a.height) };
  const end = { x: pb.x, y: pb.y + portHeight(b.inputs.length, port(b.inputs, link.toPort), b.height) };
  const turn = Math.max(start.x + 8, end.x - 12 - 5 * (index % 4));
  const early = start.x + 10 + 5 * (index % 3);
  const [from, to] = [Math.min(early, turn), Math.max(early, turn)];
  const between = boxes.filter((o) => o.card !== a && o.card !== b && o.x < Math.max(to, turn) && Math.min(from, start.x) < o.x + o.card.width);
  const clear = (y: number, left: number, right: number) =>
    !between.some((o) => o.x < right && left < o.x + o.card.width && o.y - 3 < y && y < o.y + o.card.height + 3);
  if (end.x > start.x && clear(start.y, start.x, turn)) return corners([start, { x: turn, y: start.y }, { x: turn, y: end.y }, end]);
  const away = (y: number): number => Math.abs(y - start.y) + Math.abs(y - end.y);
  const best = [end.y, ...lines].sort((p, q) => away(p) - away(q)).find((y) => clear(y, from, to)) ?? end.y;
  return corners([start, { x: early, y: start.y }, { x: early, y: best }, { x: turn, y: best }, { x: turn, y: end.y }, end]);
}

/** Without points in a straight line. */
const corners = (points: readonly CardPlace[]): CardPlace[] =>
  points.filter((p, i) => {
    const [before, after] = [points[i - 1], points[i + 1]];
    return !before || !after || !((before.x === p.x && p.x === after.x) || (before.y === p.y && p.y === after.y));
  });
