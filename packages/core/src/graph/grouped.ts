// Operations become one of one's own: a master of their own, used where they were.
import { COMPONENTS } from '../compile';
import type { MasterDocument, ParameterContent, Source } from '../document';
import { linkTo, makeMaster, makeOperation } from '../document';
import { nextOrder } from '../order';
import { clipOf, endsOf } from './clip';
import type { GraphPort } from './edits';
import { feed, firstOutput, givenName, placesFed, sourceAt } from './edits';
import { feeder, reached } from './key';
import { stepValue } from './looks';
import type { LoweredMaster } from './material';
import { namesTaken, uniqueName } from './names';
import { isStep, stepKind } from './catalogue';
import type { GraphContext, GraphValue } from './step';
import { isSurface } from './step';

/** What an input of its own is made of: the width of what comes in. */
const contentFor = (value: GraphValue | null): ParameterContent =>
  value && isSurface(value)
    ? { kind: 'surface', surface: '' }
    : { kind: 'number', value: new Array<number>(value ? COMPONENTS[value.type] : 1).fill(0), low: 0, high: 1, unit: '' };

/** The chosen operations with the places and directions that they begin with: what takes nothing in is copied along, not handed in. */
function withLeaves(d: MasterDocument, ids: readonly string[]): string[] {
  const found = new Set(ids);
  for (const id of ids)
    for (const source of Object.values(d.operations[id].inputs)) {
      const from = feeder(d, source);
      const op = from === null ? undefined : d.operations[from];
      if (from !== null && op && isStep(op.step) && stepKind(op.step).group === 'geometry' && !Object.keys(op.inputs).length) found.add(from);
    }
  return [...found];
}

/** Operations between the chosen ones, by their ids: without them what was grouped would feed itself. */
export function caughtBetween(d: MasterDocument, ids: readonly string[]): string[] {
  const inside = new Set(ids);
  const outside = ids.flatMap((id) => Object.values(d.operations[id]?.inputs ?? {}).filter((s) => !inside.has(feeder(d, s) ?? '')));
  return [...reached(d, outside)].filter((id) => !inside.has(id) && [...reached(d, [linkTo(id)])].some((from) => inside.has(from)));
}

/**
 * A master made of operations, and how it takes their place. What feeds them from outside becomes its parameters, what
 * they give to the outside its output surface and published values; parameters that they follow are copied, and followed
 * from where they are. Nothing must be `caughtBetween` them.
 * @param lowered the document as it was lowered: says what kind of thing comes in
 * @param key makes a new key
 */
export function grouped(
  d: MasterDocument,
  ids: readonly string[],
  { lowered, context, name, key }: { lowered: LoweredMaster; context: GraphContext; name: string; key: () => string },
): { master: MasterDocument; replace: (d: MasterDocument, master: string, id: string) => void } {
  const { operations, parameters, switches, groups, published, frames } = clipOf(d, withLeaves(d, ids));
  const master = makeMaster(name, { operations, parameters, switches, groups, published, frames, extentM: d.extentM, specimen: d.specimen });
  const inside = new Set(Object.keys(operations));
  const taken = namesTaken(master, 'parameters');
  const inputs: Record<string, Source> = Object.fromEntries(
    Object.keys(parameters).map((id) => [id, { from: 'parameter', parameter: id } satisfies Source]),
  );
  const known = new Map<string, string>();
  for (const op of Object.values(operations))
    for (const [port, source] of Object.entries(op.inputs)) {
      const from = feeder(d, source);
      if (from === null || inside.has(from)) continue;
      const out = source.from === 'link' ? source.port : source.from === 'published' ? d.published[source.published].port : '';
      const at = `${from}.${out}`;
      let id = known.get(at);
      if (id === undefined) {
        id = key();
        known.set(at, id);
        const called = d.operations[from]?.name || (op.name ? `${op.name} ${port}` : port);
        const holds = contentFor(stepValue(lowered, from, out));
        master.parameters[id] = { order: nextOrder(master.parameters), name: uniqueName(called, taken), group: null, help: '', holds };
        inputs[id] = source;
      }
      op.inputs[port] = { from: 'parameter', parameter: id };
    }
  // What it gives: who reads it outside, and by which port that reads the new operation.
  const ports = new Map<string, string>();
  const give = (from: string, port: string): string => {
    const at = `${from}.${port}`;
    const found = ports.get(at) ?? Object.keys(published).find((p) => published[p].operation === from && published[p].port === port);
    if (found) return found;
    const value = stepValue(lowered, from, port);
    let made = 'out';
    if (value && isSurface(value) && !master.outputs.surface) master.outputs.surface = linkTo(from, port);
    else {
      made = key();
      const called = givenName(operations[from], port, context);
      master.published[made] = {
        order: nextOrder(master.published),
        name: uniqueName(called, namesTaken(master, 'published')),
        operation: from,
        port,
      };
    }
    ports.set(at, made);
    return made;
  };
  const reads: (GraphPort & { by: string })[] = ids.flatMap((id) =>
    placesFed(d, id)
      .filter((at) => !ids.includes(at.operation))
      .map((at) => {
        const source = sourceAt(d, at) as Extract<Source, { from: 'link' }>;
        return { ...at, by: give(id, source.port) };
      }),
  );
  if (!reads.length && !Object.keys(published).length) for (const id of endsOf(d, ids)) give(id, firstOutput(d, id, context));
  return {
    master,
    replace: (into, of, id) => {
      const frame = into.operations[ids[0]]?.frame ?? null;
      for (const old of ids) delete into.operations[old];
      into.operations[id] = makeOperation('own', nextOrder(into.operations), { settings: { master: of }, inputs, frame });
      for (const { by, ...at } of reads) feed(into, at, linkTo(id, by));
      for (const [p, { operation }] of Object.entries(into.published))
        if (ids.includes(operation)) into.published[p] = { ...into.published[p], operation: id, port: p };
      for (const s of Object.keys(switches))
        if (!Object.values(into.operations).some((op) => op.step === 'switch' && op.settings['switch'] === s)) delete into.switches[s];
      for (const f of Object.keys(into.frames)) if (!Object.values(into.operations).some((op) => op.frame === f)) delete into.frames[f];
    },
  };
}
