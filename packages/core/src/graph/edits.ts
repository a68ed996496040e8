// What people do to a graph. Each changes the document that it is given; nothing that is not meant is lost.
import type { MasterDocument, MasterOperation, MasterOutput, MasterParameter, ParameterContent, Source } from '../document';
import { MASTER_OUTPUTS, MAX_OPERATIONS, linkTo, makeOperation } from '../document';
import { hexOf, linearOf, linearToSrgb } from '../image';
import { inOrder, nextOrder } from '../order';
import { feeder, reached } from './key';
import { namesTaken, uniqueName } from './names';
import type { GraphContext } from './step';
import { NO_CONTEXT, inputsOf, outputsOf } from './step';
import { isStep, stepKind } from './catalogue';

/** A place where something may be fed: a port of an operation, or an output of the graph (`operation` empty). */
export interface GraphPort {
  operation: string;
  port: string;
}

export const isOutput = (name: string): name is MasterOutput => (MASTER_OUTPUTS as readonly string[]).includes(name);

/** What feeds a place. */
export const sourceAt = (d: MasterDocument, { operation, port }: GraphPort): Source | undefined =>
  operation ? d.operations[operation]?.inputs[port] : isOutput(port) ? d.outputs[port] : undefined;

/** Feeds a place; null lets go of what fed it. */
export function feed(d: MasterDocument, { operation, port }: GraphPort, source: Source | null): void {
  const into = operation ? d.operations[operation]?.inputs : isOutput(port) ? (d.outputs as Record<string, Source>) : undefined;
  if (!into) return;
  if (source) into[port] = source;
  else delete into[port];
}

/** Whether feeding an operation from another would lead back to it. */
export const wouldCircle = (d: MasterDocument, from: string, to: string): boolean => to !== '' && (from === to || reached(d, [linkTo(from)]).has(to));

/** Every place that a port feeds. */
export function placesFed(d: MasterDocument, id: string, port?: string): GraphPort[] {
  const is = (s: Source) => s.from === 'link' && s.operation === id && (port === undefined || s.port === port);
  const found: GraphPort[] = [];
  for (const [operation, op] of Object.entries(d.operations))
    for (const [p, s] of Object.entries(op.inputs)) if (is(s)) found.push({ operation, port: p });
  for (const name of MASTER_OUTPUTS) {
    const source = d.outputs[name];
    if (source && is(source)) found.push({ operation: '', port: name });
  }
  return found;
}

/** Adds a step with what it starts with. */
export function addStep(d: MasterDocument, step: string, id: string, over: Partial<MasterOperation> = {}): void {
  d.operations[id] = makeOperation(step, nextOrder(d.operations), over);
}

/** Type that a port takes or gives, where it is fixed. */
const firstInput = (op: MasterOperation, surface: boolean, context: GraphContext): string | undefined => {
  const inputs = inputsOf(op, context).filter((i) => i.type !== 'map');
  const fits = (type: string) => (surface ? type === 'surface' || type === 'either' : type !== 'surface');
  // What something is done to comes first, coordinates and numbers that say how after it.
  return (inputs.find((i) => fits(i.type) && i.initial !== 'texcoord') ?? inputs.find((i) => fits(i.type)))?.name;
};
/** The output that goes on where the one before it did. */
export const firstOutput = (d: MasterDocument, id: string, context: GraphContext = NO_CONTEXT): string =>
  outputsOf(d.operations[id], context)[0]?.name ?? 'out';
/** Whether what comes from a source is a surface: bypassed steps and switches hand on what they get. */
export function givesSurface(d: MasterDocument, source: Source | undefined, context: GraphContext = NO_CONTEXT, depth = 0): boolean {
  if (!source || source.from === 'value' || depth > MAX_OPERATIONS) return false;
  if (source.from === 'parameter') return d.parameters[source.parameter]?.holds.kind === 'surface';
  const from = source.from === 'link' ? source : d.published[source.published];
  const op = from && d.operations[from.operation];
  const type = from && outputsOf(op, context).find((o) => o.name === from.port)?.type;
  if (type !== 'either') return type === 'surface';
  return Object.values(op?.inputs ?? {}).some((s) => givesSurface(d, s, context, depth + 1));
}

/** Puts a step into what feeds a place: it takes the former source in, and feeds the place. */
export function insertStep(
  d: MasterDocument,
  at: GraphPort,
  step: string,
  id: string,
  context: GraphContext = NO_CONTEXT,
  settings: MasterOperation['settings'] = {},
): void {
  const former = sourceAt(d, at);
  addStep(d, step, id, { frame: d.operations[at.operation]?.frame ?? null, settings });
  const input = former && firstInput(d.operations[id], givesSurface(d, former, context), context);
  if (former && input) d.operations[id].inputs[input] = former;
  feed(d, at, linkTo(id, firstOutput(d, id, context)));
}

/** Feeds a new step from a port. @returns the input that took it; null where none fits */
export function appendStep(
  d: MasterDocument,
  from: GraphPort,
  step: string,
  id: string,
  context: GraphContext = NO_CONTEXT,
  settings: MasterOperation['settings'] = {},
): string | null {
  addStep(d, step, id, { frame: d.operations[from.operation]?.frame ?? null, settings });
  const input = firstInput(d.operations[id], givesSurface(d, linkTo(from.operation, from.port), context), context);
  if (input) d.operations[id].inputs[input] = linkTo(from.operation, from.port);
  return input ?? null;
}

/** Takes operations away. What they fed is fed by what fed them, where that fits; parameters that only they used stay. */
export function removeOperations(d: MasterDocument, ids: Iterable<string>, context: GraphContext = NO_CONTEXT): void {
  for (const id of ids) {
    const op = d.operations[id];
    if (!op) continue;
    const through = isStep(op.step) ? stepKind(op.step).through : undefined;
    const links = Object.entries(op.inputs).filter(([, s]) => s.from === 'link' || s.from === 'published');
    const [, heir] = links.find(([port]) => port === through) ?? links[0] ?? [];
    for (const at of placesFed(d, id)) {
      const fits =
        heir && !(heir.from === 'link' && heir.operation === id) && givesSurface(d, heir, context) === givesSurface(d, sourceAt(d, at), context);
      feed(d, at, fits ? heir : null);
    }
    for (const [key, p] of Object.entries(d.published))
      if (p.operation === id) {
        unpublish(d, key, heir?.from === 'link' ? heir : null);
      }
    delete d.operations[id];
  }
  for (const [key] of Object.entries(d.frames)) if (!Object.values(d.operations).some((o) => o.frame === key)) delete d.frames[key];
}

/** Another step in its place: links stay at ports of the same name, then by their order; the rest is let go of. */
export function replaceStep(
  d: MasterDocument,
  id: string,
  step: string,
  context: GraphContext = NO_CONTEXT,
  settings: MasterOperation['settings'] = {},
): void {
  const op = d.operations[id];
  const before = inputsOf(op, context);
  const former = op.inputs;
  const outputsBefore = outputsOf(op, context).map((o) => o.name);
  op.step = step;
  op.settings = settings;
  op.inputs = {};
  const after = inputsOf(op, context).filter((i) => i.type !== 'map');
  const surfaces = (type: string) => type === 'surface' || type === 'either';
  const left = Object.entries(former).filter(([port, source]) => {
    if (!after.some((i) => i.name === port)) return true;
    op.inputs[port] = source;
    return false;
  });
  for (const [port, source] of left.sort((a, b) => place(a[0]) - place(b[0]))) {
    const was = before.find((i) => i.name === port);
    const free = after.find((i) => !op.inputs[i.name] && (was === undefined || surfaces(was.type) === surfaces(i.type)));
    if (free && source.from !== 'value') op.inputs[free.name] = source;
  }
  function place(port: string): number {
    return before.findIndex((i) => i.name === port);
  }
  const outputs = outputsOf(op, context).map((o) => o.name);
  for (const at of placesFed(d, id)) {
    const source = sourceAt(d, at) as Extract<Source, { from: 'link' }>;
    if (!outputs.includes(source.port))
      feed(d, at, linkTo(id, outputs[Math.min(outputs.length - 1, Math.max(0, outputsBefore.indexOf(source.port)))]));
  }
}

/** Numbers that a port holds while nothing feeds it. */
export function numbersAt(d: MasterDocument, { operation, port }: GraphPort, context: GraphContext = NO_CONTEXT): readonly number[] | null {
  const source = sourceAt(d, { operation, port });
  if (source) return source.from === 'value' ? source.value : null;
  const input = inputsOf(d.operations[operation], context).find((i) => i.name === port);
  return input && typeof input.initial !== 'string' && input.initial.length ? input.initial : null;
}

/** Turns the number of a port that takes what comes into a colour of three, and back. @returns whether it could */
export function toggleColour(d: MasterDocument, at: GraphPort): boolean {
  const input = inputsOf(d.operations[at.operation], NO_CONTEXT).find((i) => i.name === at.port);
  const numbers = numbersAt(d, at);
  if (!numbers || (input?.type !== 'any' && input?.type !== 'either')) return false;
  feed(d, at, { from: 'value', value: numbers.length === 3 ? [numbers[0]] : [0, 1, 2].map((i) => numbers[i] ?? numbers[0]) });
  return true;
}

/** Names that say nothing of what they are for. */
const PLAIN = new Set([
  'in',
  'in1',
  'in2',
  'in3',
  'in4',
  'out',
  'value1',
  'value2',
  'fg',
  'bg',
  'a',
  'b',
  'map',
  'low',
  'high',
  'mix',
  'amount',
  'scale',
]);

/** What a parameter would be called by where it is used: "moss tint", "gauge level". */
export function proposedName(d: MasterDocument, { operation, port }: GraphPort, context: GraphContext = NO_CONTEXT): string {
  const op = d.operations[operation];
  if (port.includes('.')) {
    const parts = port.split('.');
    return parts
      .slice(-1)[0]
      .replace(/M$/, '')
      .replace(/([a-z])([A-Z])/g, '$1 $2')
      .toLowerCase();
  }
  const label = inputsOf(op, context).find((i) => i.name === port)?.label;
  if (label) return label;
  const called = op?.name || (op?.settings['role'] as string | undefined) || '';
  if (!PLAIN.has(port)) return called && called !== port ? `${called} ${port}` : port;
  if (called) return port === 'map' ? called : `${called} ${port}`;
  // An operation without a name is called by what it feeds.
  const ends = placesFed(d, operation).map((at) => (at.operation ? d.operations[at.operation]?.name || at.port : at.port));
  const end = ends.find((e) => !PLAIN.has(e)) ?? op?.step ?? '';
  return `${end} ${port}`.trim();
}

/** A constant becomes a parameter that everybody can change. @returns its name */
export function toParameter(
  d: MasterDocument,
  at: GraphPort,
  id: string,
  given: { name?: string; group?: string | null; holds?: ParameterContent } = {},
  context: GraphContext = NO_CONTEXT,
): string | null {
  const op = d.operations[at.operation];
  if (!op) return null;
  const input = inputsOf(op, context).find((i) => i.name === at.port);
  const numbers = numbersAt(d, at, context);
  let { holds } = given;
  if (!holds && input?.type === 'map')
    holds = { kind: 'map', surface: String(op.settings['surface'] ?? ''), role: (op.settings['role'] ?? 'baseColor') as 'baseColor' };
  if (!holds && input?.type === 'surface') holds = { kind: 'surface', surface: '' };
  if (!holds && numbers) {
    const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
    holds =
      (input?.colour || input?.type === 'any') && numbers.length === 3
        ? { kind: 'colour', value: hexOf(numbers.map((v) => Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, v)))))) }
        : {
            kind: 'number',
            value: [...numbers],
            low: input?.low ?? Math.min(0, least),
            high: input?.high ?? Math.max(1, most * 2),
            unit: input?.unit ?? '',
          };
  }
  if (!holds) return null;
  const name = uniqueName(given.name ?? proposedName(d, at, context), namesTaken(d, 'parameters'));
  d.parameters[id] = { order: nextOrder(d.parameters), name, group: given.group ?? null, help: '', holds };
  op.inputs[at.port] = { from: 'parameter', parameter: id };
  return name;
}

/** Places that follow a parameter. */
export const usesOf = (d: MasterDocument, id: string): GraphPort[] =>
  Object.entries(d.operations).flatMap(([operation, op]) =>
    Object.entries(op.inputs).flatMap(([port, s]) => (s.from === 'parameter' && s.parameter === id ? [{ operation, port }] : [])),
  );

/** What a parameter holds, as a constant; null for a map. */
const constantOf = ({ holds }: MasterParameter): Source | null =>
  holds.kind === 'number'
    ? { from: 'value', value: [...holds.value] }
    : holds.kind === 'colour'
      ? { from: 'value', value: linearOf(holds.value) }
      : null;

/** A parameter becomes a constant again wherever it is used. */
export function removeParameter(d: MasterDocument, id: string): void {
  const parameter = d.parameters[id];
  if (!parameter) return;
  for (const at of usesOf(d, id)) {
    const op = d.operations[at.operation];
    feed(d, at, constantOf(parameter));
    // A step with a map of its own keeps it; a master that is used has its own again.
    const { holds } = parameter;
    if (holds.kind === 'map' && op.step !== 'own') Object.assign(op.settings, { surface: holds.surface, role: holds.role });
  }
  delete d.parameters[id];
}

/** What a value is called by where it comes from. */
export function givenName(op: MasterOperation, port: string, context: GraphContext): string {
  const label = outputsOf(op, context).find((o) => o.name === port)?.label;
  return label ?? (op.name || (port === 'out' ? op.step : port));
}

/** Names what a port gives, so that it can be read without a link. @returns its name */
export function publish(d: MasterDocument, { operation, port }: GraphPort, id: string, context: GraphContext = NO_CONTEXT): string {
  const name = uniqueName(givenName(d.operations[operation], port, context), namesTaken(d, 'published'));
  d.published[id] = { order: nextOrder(d.published), name, operation, port };
  return name;
}
/** Reads become links again. */
export function unpublish(d: MasterDocument, id: string, instead?: Source | null): void {
  const named = d.published[id];
  if (!named) return;
  const source = instead === undefined ? linkTo(named.operation, named.port) : instead;
  const reads = (s: Source) => s.from === 'published' && s.published === id;
  for (const [operation, op] of Object.entries(d.operations))
    for (const [port, s] of Object.entries(op.inputs)) if (reads(s)) feed(d, { operation, port }, source);
  for (const name of MASTER_OUTPUTS) if (d.outputs[name] && reads(d.outputs[name])) feed(d, { operation: '', port: name }, source);
  delete d.published[id];
}

/** Removes a switch: what it chose stays. */
export function removeSwitch(d: MasterDocument, id: string): void {
  const on = d.switches[id]?.on ?? false;
  for (const [key, op] of Object.entries(d.operations))
    if (op.step === 'switch' && op.settings['switch'] === id) {
      const taken = op.inputs[on ? 'on' : 'off'];
      for (const at of placesFed(d, key)) feed(d, at, taken ?? null);
      delete d.operations[key];
    }
  delete d.switches[id];
}

/** Operations within a frame of their own. */
export function frameOf(d: MasterDocument, ids: Iterable<string>, id: string, wanted: string): string {
  const name = uniqueName(wanted, namesTaken(d, 'frames'));
  d.frames[id] = { order: nextOrder(d.frames), name, folded: false };
  for (const op of ids) if (d.operations[op]) d.operations[op].frame = id;
  return name;
}
export function removeFrame(d: MasterDocument, id: string): void {
  for (const op of Object.values(d.operations)) if (op.frame === id) op.frame = null;
  delete d.frames[id];
}

/** What a switch cuts away as it stands: operations that only the branch that is not taken needs. */
export function cutAway(d: MasterDocument, id: string): string[] {
  const now = reached(d);
  const other: MasterDocument = { ...d, switches: { ...d.switches, [id]: { ...d.switches[id], on: !d.switches[id].on } } };
  const names = [...reached(other)].filter((op) => !now.has(op));
  return inOrder(d.operations).flatMap(({ id: op }) => (names.includes(op) ? [op] : []));
}

/** Operations that feed one, the nearest first: what is walked to learn a graph. */
export function upstream(d: MasterDocument, id: string): string[] {
  const found: string[] = [];
  const waiting = [id];
  for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
    if (found.includes(next)) continue;
    found.push(next);
    for (const source of Object.values(d.operations[next]?.inputs ?? {})) {
      const from = feeder(d, source);
      if (from !== null && d.operations[from]) waiting.push(from);
    }
  }
  return found.slice(1);
}

/** A new master on a surface, or on a blend: all of it goes to the outputs. */
export function startFrom(d: MasterDocument, kind: 'surface' | 'blend', of: string, id: string): void {
  addStep(d, kind, id, { settings: { [kind]: of } });
  d.outputs.surface = linkTo(id);
}
