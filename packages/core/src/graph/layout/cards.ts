import type { MasterDocument, MasterOutput } from '../../document';
import { MASTER_OUTPUTS } from '../../document';
import { inOrder } from '../../order';
import { reached } from '../key';
import { isStep } from '../catalogue';
import type { GraphContext } from '../step';
import { NO_CONTEXT, inputsOf, outputsOf } from '../step';

/** What is laid out: an operation, an output that is fed, or a folded frame. */
export interface GraphCard {
  id: string;
  kind: 'operation' | 'output' | 'frame';
  /** Ports at the left and at the right, from the top. */
  inputs: readonly string[];
  outputs: readonly string[];
  width: number;
  height: number;
  /** The first output that it feeds, by its place among all; those that feed none come last. */
  lane: number;
  order: number;
}
export interface GraphLink {
  from: string;
  fromPort: string;
  to: string;
  toPort: string;
}
export interface CardGraph {
  cards: readonly GraphCard[];
  links: readonly GraphLink[];
  /** Outputs that nothing feeds. */
  rest: readonly MasterOutput[];
}

export const CARD_WIDTH = 156;
/** Height of a card with a picture, and of each line under it. */
const HEAD = 46;
const LINE = 17;
/** Least distance of ports from one another. */
export const PORT_GAP = 9;
const outputCard = (name: MasterOutput): string => `>${name}`;
export const frameCard = (id: string): string => `#${id}`;

/** Ports of an operation that are drawn: those that may be linked, beside the map. */
export function portsOf(document: MasterDocument, id: string, context: GraphContext = NO_CONTEXT): { inputs: string[]; outputs: string[] } {
  const op = document.operations[id];
  if (!op || !isStep(op.step)) return { inputs: Object.keys(op?.inputs ?? {}), outputs: ['out'] };
  return {
    inputs: inputsOf(op, context)
      .filter((i) => i.type !== 'map' && !i.name.includes('.'))
      .map((i) => i.name),
    outputs: outputsOf(op, context).map((o) => o.name),
  };
}

/** Lines under the head of a card: inputs that follow a parameter or a published value. */
export const linesOf = (document: MasterDocument, id: string): string[] =>
  Object.entries(document.operations[id]?.inputs ?? {}).flatMap(([port, { from }]) => (from === 'parameter' || from === 'published' ? [port] : []));

const heightOf = (lines: number, ports: number): number => Math.max(HEAD + lines * LINE + (lines ? 5 : 0), 18 + ports * PORT_GAP);

/** Cards and links of a document. Links through published values are not drawn: that is what they are for. */
export function cardsOf(document: MasterDocument, context: GraphContext = NO_CONTEXT): CardGraph {
  const lanes = new Map<string, number>();
  MASTER_OUTPUTS.forEach((name, lane) => {
    const source = document.outputs[name];
    if (source) for (const id of reached(document, [source])) if (!lanes.has(id)) lanes.set(id, lane);
  });
  const folded = (id: string): string | null => {
    const frame = document.operations[id]?.frame ?? null;
    return frame !== null && document.frames[frame]?.folded ? frame : null;
  };
  const cardOf = (id: string): string => {
    const frame = folded(id);
    return frame === null ? id : frameCard(frame);
  };
  const cards = new Map<string, GraphCard>();
  const links: GraphLink[] = [];
  const linked = (from: string | null, fromPort: string, to: string, toPort: string) => {
    if (from === null || !Object.hasOwn(document.operations, from)) return;
    const card = cardOf(from);
    if (card === to) return;
    links.push({ from: card, fromPort: card === from ? fromPort : `${from}.${fromPort}`, to, toPort });
  };
  const operations = inOrder(document.operations);
  for (const { id, order } of operations) {
    const lane = lanes.get(id) ?? MASTER_OUTPUTS.length;
    const frame = folded(id);
    if (frame === null) {
      const { inputs, outputs } = portsOf(document, id, context);
      const drawn = outputs.length > 1 ? usedOutputs(document, id, outputs) : outputs;
      const height = heightOf(linesOf(document, id).length, Math.max(inputs.length, drawn.length));
      cards.set(id, { id, kind: 'operation', inputs, outputs: drawn, width: CARD_WIDTH, height, lane, order });
    } else {
      const name = frameCard(frame);
      const before = cards.get(name);
      cards.set(name, {
        id: name,
        kind: 'frame',
        inputs: [],
        outputs: [],
        width: CARD_WIDTH,
        height: HEAD,
        lane: Math.min(lane, before?.lane ?? lane),
        order: Math.min(order, before?.order ?? order),
      });
    }
  }
  for (const { id, inputs } of operations)
    for (const [port, source] of Object.entries(inputs)) {
      const to = cardOf(id);
      if (source.from === 'link') linked(source.operation, source.port, to, to === id ? port : `${id}.${port}`);
    }
  // A folded frame has the ports by which it hangs together with the rest.
  for (const [name, card] of cards)
    if (card.kind === 'frame') {
      const inputs = [...new Set(links.filter((l) => l.to === name).map((l) => l.toPort))];
      const outputs = [...new Set(links.filter((l) => l.from === name).map((l) => l.fromPort))];
      cards.set(name, { ...card, inputs, outputs, height: heightOf(0, Math.max(inputs.length, outputs.length)) });
    }
  const rest: MasterOutput[] = [];
  MASTER_OUTPUTS.forEach((name, lane) => {
    const source = document.outputs[name];
    if (!source) return rest.push(name);
    const id = outputCard(name);
    cards.set(id, { id, kind: 'output', inputs: [name], outputs: [], width: 140, height: HEAD, lane, order: lane });
    linked(source.from === 'link' ? source.operation : null, source.from === 'link' ? source.port : '', id, name);
    return lane;
  });
  return { cards: [...cards.values()], links, rest };
}

/** Outputs of a step with many that are read somewhere; the first where none is. */
function usedOutputs(document: MasterDocument, id: string, outputs: readonly string[]): string[] {
  const used = new Set<string>();
  const look = (source: { from: string; operation?: string; port?: string }) => {
    if (source.from === 'link' && source.operation === id && source.port) used.add(source.port);
  };
  for (const op of Object.values(document.operations)) Object.values(op.inputs).forEach(look);
  Object.values(document.outputs).forEach(look);
  for (const p of Object.values(document.published)) if (p.operation === id) used.add(p.port);
  const found = outputs.filter((o) => used.has(o));
  return found.length ? found : outputs.slice(0, 1);
}
