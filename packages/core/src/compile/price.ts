import { topological } from './builder';
import { PACKING, channelOf, readsMap, slotOf } from './operations/images';
import { operation } from './registry';
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
 */
export function priceOf(outputs: Readonly<Record<string, DagNode>>): Price {
  const read = (node: DagNode): readonly DagNode[] => (readsMap(node) ? node.args.slice(0, 1) : node.args);
  const steady = new Set<DagNode>();
  const fetches = new Set<string>();
  let operations = 0;
  for (const node of topological(Object.values(outputs), read)) {
    const op = operation(node.op);
    if (op.leaf === 'pixel') continue;
    if (readsMap(node)) {
      const detail = node.op === 'imagedetail' ? node.args[2].id : '';
      fetches.add(`${PACKING[channelOf(node)].unit},${slotOf(node)},${node.args[0].id},${detail}`);
      operations += op.price.alu;
    } else if (op.leaf || node.args.every((a) => steady.has(a))) steady.add(node);
    else operations += op.price.alu * (op.price.perComponent ? COMPONENTS[node.type] : 1);
  }
  return { samples: fetches.size, operations };
}
