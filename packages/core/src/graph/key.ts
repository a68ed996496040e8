// What of a master counts, and what of it is compiled.
import type { MasterDocument, Source } from '../document';
import { MASTER_OUTPUTS } from '../document';
import type { GraphContext } from './step';
import { isStep, stepKind } from './step';

/** What of a document is compiled, as text: equal for two exactly when only values tell them apart. @param ids operations that count: those that outputs need */
export function masterKey(document: MasterDocument, context: GraphContext, ids: Iterable<string> = reached(document)): string {
  const wide = (operation: string, port: string, source: Source): string => {
    if (source.from === 'value') return `v${source.value.length}`;
    if (source.from === 'link') return `${source.operation}.${source.port}`;
    if (source.from === 'published') {
      const { operation: id = '', port: out = '' } = document.published[source.published] ?? {};
      return `${id}.${out}`;
    }
    const holds = document.parameters[source.parameter]?.holds;
    const kind = !holds
      ? 'gone'
      : holds.kind === 'number'
        ? holds.value.length
        : holds.kind === 'surface'
          ? `${holds.surface}/${[...(context.surfaces[holds.surface]?.roles ?? [])].sort().join('+')}`
          : holds.kind;
    return `p${source.parameter}:${kind}`;
  };
  const lines = [...ids].sort().map((id) => {
    const op = document.operations[id];
    if (!isStep(op.step)) return `${id}?${op.step}`;
    const kind = stepKind(op.step, id);
    const inputs = kind.inputs(op, context).map(({ name, initial }) => {
      const source = op.inputs[name];
      return source ? wide(id, name, source) : typeof initial === 'string' ? initial : `v${initial.length}`;
    });
    return `${id}=${op.step}${op.bypassed ? '!' : ''}(${inputs.join()})${JSON.stringify(op.settings)}${kind.shape?.(op, document, context) ?? ''}`;
  });
  const outputs = MASTER_OUTPUTS.map((name) => {
    const source = document.outputs[name];
    return source ? wide('', name, source) : '';
  });
  return `${lines.join('\n')}\n>${outputs.join()}`;
}

/** Sources of an operation that count. */
export function sourcesOf(document: MasterDocument, id: string): [string, Source][] {
  const op = document.operations[id];
  if (!op) return [];
  const all = Object.entries(op.inputs);
  if (op.step !== 'switch') return all;
  const taken = document.switches[String(op.settings['switch'])]?.on ? 'on' : 'off';
  return op.inputs[taken] ? all.filter(([port]) => port === taken) : all;
}
/** The operation that a source comes from; null where it is none. */
export const feeder = (document: MasterDocument, source: Source): string | null =>
  source.from === 'link' ? source.operation : source.from === 'published' ? (document.published[source.published]?.operation ?? null) : null;

/** Ids of the operations that outputs need, or one of them. */
export function reached(document: MasterDocument, from: readonly Source[] = Object.values(document.outputs)): Set<string> {
  const found = new Set<string>();
  const wanted = from.flatMap((s) => feeder(document, s) ?? []);
  while (wanted.length) {
    const id = wanted.pop() as string;
    if (found.has(id) || !Object.hasOwn(document.operations, id)) continue;
    found.add(id);
    for (const [, source] of sourcesOf(document, id)) {
      const next = feeder(document, source);
      if (next !== null) wanted.push(next);
    }
  }
  return found;
}

/** Ids of the operations that outputs need, each after what feeds it; one that hangs in a circle comes once. */
export function inFlow(document: MasterDocument, from: readonly Source[] = Object.values(document.outputs)): string[] {
  const found = new Set<string>();
  // Without recursion: a row of operations may be as long as it likes.
  const waiting: { id: string; done: boolean }[] = [];
  const want = (sources: readonly Source[]) => {
    for (const source of sources) {
      const id = feeder(document, source);
      if (id !== null && Object.hasOwn(document.operations, id) && !found.has(id)) waiting.push({ id, done: false });
    }
  };
  want(from);
  const begun = new Set<string>();
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { id, done } = next;
    if (done) found.add(id);
    else if (!begun.has(id)) {
      begun.add(id);
      waiting.push({ id, done: true });
      want(sourcesOf(document, id).map(([, source]) => source));
    }
  }
  return [...found];
}
