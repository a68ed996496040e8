import type { GraphUse, Operation, Port } from '../../compile';
import { COMPONENTS } from '../../compile';
import type { StepInput, GraphStep, StepSite } from '../step';

/** Numbers of whole counts, and usual bounds, by what ports are called everywhere. */
const WHOLE = new Set(['period', 'seed', 'octaves']);
const COLOURS = new Set(['luminance', 'rgbtohsv', 'hsvadjust', 'screen', 'overlay']);

function inputOf(op: Operation, { name, type }: Port, initial: GraphUse['defaults'][number]): StepInput {
  const numbers = typeof initial === 'string' || type === 'any' ? initial : spread(initial, COMPONENTS[type]);
  const colour = (type === 'vec3' || type === 'any') && COLOURS.has(op.name) && name !== 'amount';
  return { name, type, initial: numbers, ...(colour ? { colour: true as const } : {}), ...(WHOLE.has(name) ? { whole: true as const } : {}) };
}
const spread = (numbers: readonly number[], count: number): readonly number[] =>
  numbers.length === count ? numbers : Array.from({ length: count }, () => numbers[0]);

/** A registered operation as a step of graphs. */
export function ofOperation(op: Operation, use: GraphUse): GraphStep {
  const inputs = op.inputs.map((port, i) => inputOf(op, port, use.defaults[i]));
  const settings = (use.settings ?? []).map(({ name, choices }) => ({ name, label: name, kind: 'choice' as const, choices, initial: choices[0] }));
  // Types that do not hang on what comes in are known before.
  const fixed = resultOf(op, 'float') === resultOf(op, 'vec3') ? resultOf(op, 'float') : 'any';
  return {
    name: op.name,
    group: use.group,
    help: op.help,
    words: use.words,
    materialx: op.materialx,
    inputs: () => inputs,
    outputs: () => [{ name: 'out', type: fixed }],
    settings,
    thresholds: use.thresholds,
    lower: ({ b, input, setting }: StepSite) => ({
      out: b.node(
        op.name,
        inputs.map(({ name }) => input(name)),
        Object.fromEntries(settings.map(({ name }) => [name, setting(name)])),
      ),
    }),
  };
}

const resultOf = (op: Operation, wide: 'float' | 'vec3') =>
  op.result(
    op.inputs.map((p) => (p.type === 'any' ? wide : p.type)),
    {},
  );
