// What of a graph can be left out without a pixel changing, and the graph without it.
import type { DagNode, Price } from '../compile';
import { Builder, optimise } from '../compile';
import type { MasterDocument, Source } from '../document';
import { linkTo, valueOf } from '../document';
import { materialPrice } from '../material';
import { inOrder } from '../order';
import { feed, placesFed, upstream } from './edits';
import { feeder } from './key';
import { GraphLowering, parameterValue } from './lower';
import { MasterMaterials } from './material';
import type { GraphContext, GraphValue } from './step';
import { GraphError, isSurface, valueParts } from './step';

/** Why an operation can go: nothing needs it, it is one number, it is there twice, it hands on what comes in, or another gives the same. */
export type Redundant = 'dead' | 'constant' | 'repeated' | 'does nothing' | 'equal';

export interface Redundancy {
  operation: string;
  kind: Redundant;
  /** What each of its outputs that is read is replaced by; none where nothing reads it. */
  instead: Readonly<Record<string, Source>>;
}
/** Findings with what taking each alone saves a pixel, and the graph without all of them. */
export interface Simplified {
  findings: (Redundancy & { saves: Price })[];
  after: MasterDocument;
  before: Price;
  price: Price;
}

/** Every operation, each after all that may feed it: both sides of switches count. */
function allInFlow(d: MasterDocument): string[] {
  const done = new Set<string>();
  const begun = new Set<string>();
  // The one that was made first is the one that stays.
  const waiting = inOrder(d.operations)
    .reverse()
    .map(({ id }) => ({ id, ready: false }));
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { id, ready } = next;
    if (ready) done.add(id);
    else if (!begun.has(id)) {
      begun.add(id);
      waiting.push({ id, ready: true });
      for (const source of Object.values(d.operations[id].inputs)) {
        const from = feeder(d, source);
        if (from !== null && d.operations[from] && !begun.has(from)) waiting.push({ id: from, ready: false });
      }
    }
  }
  return [...done];
}

/** Operations that something needs: an output, or somebody elsewhere who reads a published value. */
function needed(d: MasterDocument): Set<string> {
  const roots = [...Object.values(d.outputs).flatMap((s) => feeder(d, s) ?? []), ...Object.values(d.published).map((p) => p.operation)];
  return new Set(roots.flatMap((id) => [id, ...upstream(d, id)]));
}

/** What a value is, as text: equal for two exactly when the compiler proves them equal. */
function textOf(value: GraphValue, name: (node: DagNode) => DagNode): string {
  return valueParts(value)
    .map((n) => name(n).id)
    .join();
}
/**
 * Looks for what can be left out. Numbers that were typed in count as what they are; parameters and switches as anything
 * that they may be set to, so nothing goes that somebody may still turn.
 */
export function findRedundant(d: MasterDocument, context: GraphContext): Redundancy[] {
  const lowering = new GraphLowering(new Builder(), d, context, true, null, true);
  const order = allInFlow(d);
  const given = new Map<string, Readonly<Record<string, GraphValue>>>();
  for (const id of order)
    try {
      given.set(id, lowering.of(id));
    } catch (error) {
      if (!(error instanceof GraphError)) throw error;
    }
  const nodes = [...given.values()].flatMap((of) => Object.values(of).flatMap(valueParts));
  const names = Object.keys(d.parameters).map((id) => lowering.b.value(parameterValue(id)));
  const { outputs } = optimise(Object.fromEntries([...nodes, ...names].map((node, i) => [`${i}`, node])));
  const best = new Map<DagNode, DagNode>();
  [...nodes, ...names].forEach((node, i) => best.set(node, outputs[`${i}`]));
  const simplest = (node: DagNode): DagNode => best.get(node) as DagNode;

  const live = needed(d);
  const findings: Redundancy[] = [];
  /** Where each value came up first. */
  const first = new Map<string, { source: Source; operation: string }>();
  const published = new Set(Object.values(d.published).map((p) => `${p.operation}.${p.port}`));
  for (const id of order) {
    const of = given.get(id);
    const op = d.operations[id];
    if (!live.has(id)) {
      findings.push({ operation: id, kind: 'dead', instead: {} });
      continue;
    }
    if (!of) continue;
    const read = new Set(Object.keys(of).filter((port) => placesFed(d, id, port).length || published.has(`${id}.${port}`)));
    const instead: Record<string, Source> = {};
    const from: string[] = [];
    // What is bypassed is somebody's trial, and a switch is there to be flipped.
    const kept = op.bypassed || op.step === 'switch';
    for (const [port, value] of kept ? [] : Object.entries(of)) {
      if (!read.has(port)) continue;
      const node = isSurface(value) ? null : simplest(value);
      const parameter = node?.op === 'value' ? Object.keys(d.parameters).find((p) => parameterValue(p) === node.attrs['name']) : undefined;
      const before = first.get(textOf(value, simplest));
      if (node?.op === 'constant' && !published.has(`${id}.${port}`)) instead[port] = valueOf(...(node.attrs['value'] as readonly number[]));
      else if (parameter !== undefined && !published.has(`${id}.${port}`)) instead[port] = { from: 'parameter', parameter };
      else if (before) {
        instead[port] = before.source;
        from.push(before.operation);
      }
    }
    if (read.size && Object.keys(instead).length === read.size) {
      findings.push({ operation: id, kind: kindOf(d, id, instead, from), instead });
      continue;
    }
    for (const [port, value] of Object.entries(of)) {
      const text = textOf(value, simplest);
      if (!first.has(text)) first.set(text, { source: linkTo(id, port), operation: id });
    }
  }
  return findings;
}

function kindOf(d: MasterDocument, id: string, instead: Redundancy['instead'], from: readonly string[]): Redundant {
  const sources = Object.values(instead);
  if (sources.every((s) => s.from === 'value')) return 'constant';
  const above = new Set(upstream(d, id));
  if (sources.every((s) => s.from === 'parameter' || (s.from === 'link' && above.has(s.operation)))) return 'does nothing';
  return from.every((other) => d.operations[other].step === d.operations[id].step) ? 'repeated' : 'equal';
}

/** The graph without what was found; operations that only those needed go too. */
export function withoutRedundant(d: MasterDocument, findings: readonly Redundancy[]): MasterDocument {
  const after = JSON.parse(JSON.stringify(d)) as MasterDocument;
  const before = needed(d);
  for (const { operation, instead } of findings)
    for (const [port, source] of Object.entries(instead)) {
      for (const at of placesFed(after, operation, port)) feed(after, at, source);
      if (source.from !== 'link') continue;
      for (const entry of Object.values(after.published))
        if (entry.operation === operation && entry.port === port) Object.assign(entry, { operation: source.operation, port: source.port });
    }
  const now = needed(after);
  const found = new Set(findings.map((f) => f.operation));
  for (const id of Object.keys(after.operations)) if (!now.has(id) && (before.has(id) || found.has(id))) delete after.operations[id];
  for (const key of Object.keys(after.frames)) if (!Object.values(after.operations).some((o) => o.frame === key)) delete after.frames[key];
  return after;
}

/** Everything that was found, with what it saves. */
export function simplified(d: MasterDocument, context: GraphContext): Simplified {
  const materials = new MasterMaterials();
  const priceOf = (of: MasterDocument): Price => materialPrice(materials.of(of, context));
  const found = findRedundant(d, context);
  const before = priceOf(d);
  const after = withoutRedundant(d, found);
  const findings = found.map((f) => {
    const { samples, operations } = priceOf(withoutRedundant(d, [f]));
    return { ...f, saves: { samples: before.samples - samples, operations: before.operations - operations } };
  });
  return { findings, after, before, price: priceOf(after) };
}
