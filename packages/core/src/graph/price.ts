import type { DagNode, Price, Values } from '../compile';
import { optimise, priceOf } from '../compile';
import type { MasterOperation } from '../document';
import { makeMaster, makeOperation } from '../document';
import { materialPrice } from '../material';
import { materialOf } from './material';
import type { LoweredMaster } from './material';
import { lowerMaster } from './material';
import { stepKinds } from './catalogue';
import type { GraphContext, GraphStep, GraphValue } from './step';
import { GraphError, NO_CONTEXT, valueParts } from './step';

/** All nodes of what an operation gives; none where it cannot be worked out. */
export const nodesOf = (given: Readonly<Record<string, GraphValue>> | GraphError | undefined): DagNode[] =>
  !given || given instanceof GraphError ? [] : Object.values(given).flatMap(valueParts);
const named = (nodes: readonly DagNode[]): Record<string, DagNode> => Object.fromEntries(nodes.map((n, i) => [`n${i}`, n]));

/** What each operation adds to a pixel: the price of what it gives less that of what it takes in. @param feeds ids that feed an operation */
export function operationPrices(lowered: LoweredMaster, values: Values, feeds: (id: string) => readonly string[]): Record<string, Price> {
  const out: Record<string, Price> = {};
  for (const [id, given] of lowered.steps) {
    const own = nodesOf(given);
    const before = feeds(id).flatMap((from) => nodesOf(lowered.steps.get(from)));
    const all = priceOf(named([...own, ...before]), values);
    const less = priceOf(named(before), values);
    out[id] = { samples: all.samples - less.samples, operations: all.operations - less.operations };
  }
  return out;
}

/** What a step costs by itself, fed by things that differ from pixel to pixel. Empty maps and blends cost what they turn out to. */
export function stepPrice(kind: GraphStep, context: GraphContext = NO_CONTEXT, settings: MasterOperation['settings'] = {}): Price {
  const feed = makeMaster('Priced');
  feed.operations['uv'] = makeOperation('geomcolor', 1);
  feed.operations['surface'] = makeOperation('makesurface', 2);
  const op = makeOperation(kind.name, 3, { settings });
  for (const input of kind.inputs(op, context)) {
    if (input.type === 'map' || typeof input.initial === 'string') continue;
    if (input.type === 'surface') op.inputs[input.name] = { from: 'link', operation: 'surface', port: 'out' };
    else {
      // A number that differs from place to place, as wide as the port.
      const wide = { float: 'x', vec2: 'xy', vec3: 'xyz', vec4: 'xyzw' }[input.type as string] ?? 'x';
      const cut = `cut${wide.length}`;
      feed.operations[cut] ??= makeOperation('swizzle', 4, {
        settings: { channels: wide },
        inputs: { in: { from: 'link', operation: 'uv', port: 'out' } },
      });
      op.inputs[input.name] = { from: 'link', operation: cut, port: 'out' };
    }
  }
  feed.operations['step'] = op;
  const lowered = lowerMaster(feed, context);
  const given = lowered.steps.get('step');
  if (!given || given instanceof GraphError) return { samples: 0, operations: 0 };
  const { outputs } = optimise(named(nodesOf(given)), { hoist: true });
  const fed = optimise(named(['uv', ...['x', 'xy', 'xyz', 'xyzw'].map((w) => `cut${w.length}`)].flatMap((id) => nodesOf(lowered.steps.get(id)))), {
    hoist: true,
  });
  const [all, less] = [priceOf(outputs), priceOf(fed.outputs)];
  return { samples: all.samples - less.samples, operations: Math.max(0, all.operations - less.operations) };
}

/** Prices of all steps, a few at a time. */
export function* stepPrices(): Generator<[string, Price]> {
  for (const kind of stepKinds()) yield [kind.name, stepPrice(kind)];
}

/** Price of a whole master as a switch stands, and as it would the other way. */
export function switchPrices(document: Parameters<typeof lowerMaster>[0], context: GraphContext, id: string): { off: Price; on: Price } {
  const as = (on: boolean): Price => {
    const d = { ...document, switches: { ...document.switches, [id]: { ...document.switches[id], on } } };
    return materialPrice(materialOf('', lowerMaster(d, context), d, context));
  };
  return { off: as(false), on: as(true) };
}
