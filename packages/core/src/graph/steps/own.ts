// A master as one operation of another: its parameters are inputs, its outputs and published values are outputs.
import type { MasterDocument, MasterOperation, MasterParameter } from '../../document';
import { MASTER_OUTPUTS, linkTo } from '../../document';
import { EXTRA_ROLES } from '../../surface';
import { linearOf } from '../../image';
import { inOrder } from '../../order';
import { masterKey, reached } from '../key';
import { CHANNELS, allOf } from '../laid-surface';
import { extrasOf, shadingOf } from '../outputs';
import type { GraphContext, GraphStep, GraphValue, StepInput, StepOutput } from '../step';
import { GraphError, isStep, stepKind } from '../step';

/** Masters within masters at most. */
export const MAX_WITHIN = 8;

/** Masters that a master uses as operations. */
export const mastersIn = ({ operations }: MasterDocument): string[] => [
  ...new Set(Object.values(operations).flatMap(({ step, settings }) => (step === 'own' && settings['master'] ? [String(settings['master'])] : []))),
];

/** All masters that a master is made of, those within others too. */
export function mastersWithin(master: MasterDocument | undefined, all: GraphContext['masters']): Set<string> {
  const found = new Set<string>();
  const waiting = master ? mastersIn(master) : [];
  for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
    if (found.has(id) || !all[id]) continue;
    found.add(id);
    waiting.push(...mastersIn(all[id]));
  }
  return found;
}

/** Ways from a master to those within it: names up to itself where it goes in a circle or too deep; null where it ends well. */
export function endless(context: GraphContext, id: string, above: readonly string[] = []): string[] | null {
  const master = context.masters[id];
  if (!master) return null;
  const way = [...above, id];
  if (above.includes(id) || way.length > MAX_WITHIN) return way.map((i) => context.masters[i].name);
  for (const next of mastersIn(master)) {
    const found = endless(context, next, way);
    if (found) return found;
  }
  return null;
}

/** The master that an operation is, with maps that stand in for those of its parameters; null where there is none that can be. */
function masterBy(operation: Pick<MasterOperation, 'inputs' | 'settings'>, document: MasterDocument, context: GraphContext): MasterDocument | null {
  const id = String(operation.settings['master'] ?? '');
  const master = context.masters[id];
  if (!master) return null;
  const maps = Object.entries(operation.inputs).flatMap(([port, source]): [string, MasterParameter][] => {
    const given = source.from === 'parameter' ? document.parameters[source.parameter]?.holds : undefined;
    const own = master.parameters[port];
    return given?.kind === 'map' && own?.holds.kind === 'map' ? [[port, { ...own, holds: { ...given, role: own.holds.role } }]] : [];
  });
  return maps.length ? { ...master, parameters: { ...master.parameters, ...Object.fromEntries(maps) } } : master;
}

const chosen = ({ settings }: Pick<MasterOperation, 'settings'>, context: GraphContext): MasterDocument | undefined => {
  const id = String(settings['master'] ?? '');
  return endless(context, id) ? undefined : context.masters[id];
};

const inputOf = ({ id, name, holds }: MasterParameter & { id: string }): StepInput => {
  const at = { name: id, label: name };
  if (holds.kind === 'map' || holds.kind === 'surface') return { ...at, type: holds.kind, initial: [] };
  if (holds.kind === 'colour') return { ...at, type: 'vec3', initial: linearOf(holds.value), colour: true };
  const { value, low, high, unit } = holds;
  return { ...at, type: (['float', 'vec2', 'vec3', 'vec4'] as const)[value.length - 1], initial: value, low, high, ...(unit ? { unit } : {}) };
};

/** Outputs that not every master has, of one that has them. */
const extraOutputs = ({ outputs }: MasterDocument): StepOutput[] =>
  EXTRA_ROLES.filter((name) => outputs[name]).map((name) => ({ name, type: name === 'emissive' ? 'vec3' : 'float' }));

/** Everything in a master that something of it is read by. */
const needed = (master: MasterDocument): Set<string> =>
  reached(master, [...Object.values(master.outputs), ...Object.values(master.published).map((p) => linkTo(p.operation, p.port))]);

export const OWN: GraphStep = {
  name: 'own',
  group: 'surfaces',
  help: 'A master as one operation: its parameters are inputs, its outputs and published values are outputs. Edited in one place',
  words: 'group, reuse, library, own operation, master in a master, layer of one’s own',
  materialx: 'PB_own',
  settings: [{ name: 'master', label: 'master', kind: 'master', initial: '' }],
  inputs: (operation, context) => inOrder(chosen(operation, context)?.parameters ?? {}).map(inputOf),
  outputs: (operation, context): StepOutput[] => {
    const master = chosen(operation, context);
    if (!master) return [{ name: 'out', type: 'surface' }];
    const published = inOrder(master.published).map(({ id, name, operation: from, port }): StepOutput => {
      const op = master.operations[from];
      const type =
        op && isStep(op.step)
          ? stepKind(op.step)
              .outputs(op, context)
              .find((o) => o.name === port)?.type
          : undefined;
      return { name: id, label: name, type: type ?? 'any' };
    });
    return [
      ...(MASTER_OUTPUTS.some((name) => master.outputs[name]) ? [{ name: 'out', type: 'surface' } as const, ...CHANNELS] : []),
      ...extraOutputs(master),
      ...published,
    ];
  },
  lower: (site) => {
    const { operation, document, context, id, fail } = site;
    const chosenId = String(site.setting('master'));
    const way = endless(context, chosenId);
    if (way) return fail('cycle', `It is used within itself: ${way.join(' → ')}. Choose another, or take it out there`);
    const master = masterBy(operation, document, context);
    if (!master) return fail('missing-master', chosenId ? 'Its master is gone. Choose another' : 'No master is chosen. Choose one');
    const fed = new Map<string, GraphValue | null>();
    const feeds = (parameter: string): GraphValue | null => {
      if (!fed.has(parameter)) fed.set(parameter, fedBy(parameter));
      return fed.get(parameter) as GraphValue | null;
    };
    const fedBy = (parameter: string): GraphValue | null => {
      const input = inputOf({ id: parameter, ...master.parameters[parameter] });
      const source = operation.inputs[parameter];
      if (input.type === 'map') return null;
      if (input.type === 'surface') return source ? site.surface(parameter) : null;
      const wide = (input.initial as readonly number[]).length;
      if (source && (source.from !== 'value' || source.value.length !== wide)) return site.input(parameter);
      return site.number(parameter, input.type as 'float', (c) => {
        const holds = c.masters[chosenId]?.parameters[parameter]?.holds;
        return holds?.kind === 'number' ? holds.value : holds?.kind === 'colour' ? linearOf(holds.value) : (input.initial as number[]);
      });
    };
    const within = site.within(master, (d, c) => masterBy(d.operations[id] ?? operation, d, c), feeds);
    const published = Object.values(master.published).map((p) => linkTo(p.operation, p.port));
    try {
      within.ahead([...Object.values(master.outputs), ...published]);
      const given: Record<string, GraphValue> = MASTER_OUTPUTS.some((name) => master.outputs[name]) ? allOf(shadingOf(within, master)) : {};
      Object.assign(given, extrasOf(within, master));
      for (const [key, { operation: from, port }] of Object.entries(master.published))
        given[key] = within.source(linkTo(from, port), { operation: '', port });
      if (!Object.keys(given).length)
        return fail('missing-input', `${master.name} gives nothing yet: feed one of its outputs, or publish a value in it`);
      return given;
    } catch (error) {
      if (!(error instanceof GraphError) || error.operation === id) throw error;
      const op = master.operations[error.operation];
      return fail(error.code, `In ${master.name}${op ? `, at ${op.name || op.step}` : ''}: ${error.message}`);
    }
  },
  shape: (operation, document, context) => {
    const id = String(operation.settings['master'] ?? '');
    if (endless(context, id)) return 'endless';
    const master = masterBy(operation, document, context);
    if (!master) return 'none';
    const read = Object.entries(master.published).map(([key, { operation: from, port }]) => `${key}:${from}.${port}`);
    return `{${masterKey(master, context, needed(master))}|${read.join()}}`;
  },
};
