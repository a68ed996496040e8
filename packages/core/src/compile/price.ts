import { topological } from './builder';
import { PACKING, channelOf, isGiven, levelBy, liveInputs, slotOf } from './pictures';
import { countedCost } from './counting';
import { operation, readsCoarse, readsMap } from './registry';
import type { DagNode } from './types';
import { COMPONENTS } from './types';

export interface Price {
  /** Texture fetches a pixel. */
  samples: number;
  /** Arithmetic a pixel, in the units of the price. */
  operations: number;
}

/**
 * Static price of a pixel, from the DAG as it is (optimise it first). What is made of values alone is computed once a
 * frame and costs a pixel nothing; channels of one packed texture share their fetch.
 * @param values where loops run as often as one of them says; without it they are priced at their most
 */
export function priceOf(outputs: Readonly<Record<string, DagNode>>, values: Readonly<Record<string, readonly number[]>> = {}): Price {
  const valueOf = ({ op, attrs }: DagNode): number =>
    op === 'constant' ? (attrs['value'] as readonly number[])[0] : op === 'value' ? (values[String(attrs['name'])]?.[0] ?? Number.NaN) : Number.NaN;
  const cost = (node: DagNode): number => {
    const { alu, perComponent } = operation(node.op).price;
    return (alu === 'counted' ? countedCost(node, valueOf) : alu) * (perComponent ? COMPONENTS[node.type] : 1);
  };
  const steady = new Set<DagNode>();
  const fetches = new Set<string>();
  let operations = 0;
  for (const node of topological(Object.values(outputs), liveInputs)) {
    const op = operation(node.op);
    if (op.leaf === 'pixel') continue;
    if (readsMap(node)) {
      const detail = readsCoarse(node) ? node.args[2].id : levelBy(node) === 'level' ? `=${node.args[1].id}` : '';
      fetches.add(`${PACKING[channelOf(node)].unit},${slotOf(node)},${node.args[0].id},${detail}`);
      operations += cost(node);
    } else if (isGiven(node) || (!op.leaf && node.args.every((a) => steady.has(a)))) steady.add(node);
    else operations += cost(node);
  }
  return { samples: fetches.size, operations };
}
