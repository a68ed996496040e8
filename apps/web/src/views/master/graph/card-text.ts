// What cards say, and how they are drawn.
import type { CardGraph, CardPlaces, GraphCard, GraphContext, MasterDocument, MasterOutput, PortType } from '@pebble/core';
import { ROLE_FACTS, frameCard, inputsOf, isRole, isStep, linesOf, outputsOf, stepKind } from '@pebble/core';
import type { MasterLooks } from '../../../workers/master-protocol';

const BARS: Partial<Record<PortType, number>> = { float: 1, vec2: 2, vec3: 3, vec4: 4, surface: 3, any: 1, either: 1 };
export const outputTitle = (name: string): string => (name === 'surface' || !isRole(name) ? name : ROLE_FACTS[name].label.toLowerCase());

export function bars(master: MasterDocument, card: GraphCard, port: string, side: 'in' | 'out', context: GraphContext): number {
  if (card.kind === 'output') return port === 'surface' ? 3 : ROLE_FACTS[port as 'height'].components;
  const op = master.operations[card.id];
  const found = (side === 'in' ? inputsOf(op, context) : outputsOf(op, context)).find((p) => p.name === port)?.type;
  return (found && BARS[found]) ?? 1;
}

export function cardText(card: GraphCard, master: MasterDocument, looks: MasterLooks | null) {
  const none = {
    lines: [] as { port: string; text: string; reads: boolean; top: number }[],
    pebble: false,
    bypassed: false,
    mistake: '',
    help: '',
    of: '',
  };
  if (card.kind === 'output') {
    const source = master.outputs[card.inputs[0] as MasterOutput];
    const name = outputTitle(card.inputs[0]);
    return { ...none, name, small: 'output', says: `Output ${name}`, of: source?.from === 'link' ? source.operation : '' };
  }
  if (card.kind === 'frame') {
    const frame = Object.entries(master.frames).find(([id]) => frameCard(id) === card.id);
    const inside = Object.values(master.operations).filter((o) => o.frame === frame?.[0]).length;
    return { ...none, name: frame?.[1].name ?? 'frame', small: `${inside} operations`, says: `Frame ${frame?.[1].name}, folded`, of: '' };
  }
  const op = master.operations[card.id];
  const kind = op && isStep(op.step) ? stepKind(op.step) : null;
  const price = looks?.prices[card.id];
  const mistake = looks?.mistakes[card.id]?.message ?? looks?.notes.find((n) => n.operation === card.id)?.message ?? '';
  const wrong = looks?.mistakes[card.id] !== undefined;
  const cost = !price ? '' : price.samples ? `${price.samples} smp · ${price.operations} ops` : price.operations ? `${price.operations} ops` : 'free';
  const name = op?.name || (op?.step ?? card.id);
  const lines = op
    ? linesOf(master, card.id).map((port, i) => {
        const source = op.inputs[port];
        const called =
          source.from === 'parameter'
            ? master.parameters[source.parameter]?.name
            : source.from === 'published'
              ? master.published[source.published]?.name
              : '';
        return { port, text: called ?? 'gone', reads: source.from === 'published', top: 43 + i * 17 };
      })
    : [];
  return {
    ...none,
    name,
    small: op?.name ? `${cost} · ${op.step}` : cost,
    says: `${name}${op?.name ? `, ${op.step}` : ''}, ${cost}${wrong ? `. ${mistake}` : ''}`,
    lines,
    pebble: Object.values(op?.inputs ?? {}).some((s) => s.from === 'parameter'),
    bypassed: op?.bypassed ?? false,
    mistake: wrong ? mistake : '',
    help: mistake || op?.note || (kind?.help ?? ''),
    of: card.id,
  };
}

/** A rail with its corners rounded. */
export function rounded(points: readonly { x: number; y: number }[]): string {
  let d = `M${points[0].x},${points[0].y}`;
  for (let i = 1; i < points.length - 1; i++) {
    const [a, b, c] = [points[i - 1], points[i], points[i + 1]];
    const r = Math.min(7, Math.hypot(b.x - a.x, b.y - a.y) / 2, Math.hypot(c.x - b.x, c.y - b.y) / 2);
    const toward = (p: { x: number; y: number }) => ({ x: b.x + Math.sign(p.x - b.x) * r, y: b.y + Math.sign(p.y - b.y) * r });
    const [from, to] = [toward(a), toward(c)];
    d += `L${from.x},${from.y}Q${b.x},${b.y} ${to.x},${to.y}`;
  }
  const end = points[points.length - 1];
  return `${d}L${end.x},${end.y}`;
}

export function boundsOf({ graph, places }: { graph: CardGraph; places: CardPlaces }) {
  const all = graph.cards.filter((c) => places[c.id]);
  return {
    left: Math.min(...all.map((c) => places[c.id].x)),
    top: Math.min(...all.map((c) => places[c.id].y)),
    right: Math.max(...all.map((c) => places[c.id].x + c.width)),
    bottom: Math.max(...all.map((c) => places[c.id].y + c.height)),
  };
}
