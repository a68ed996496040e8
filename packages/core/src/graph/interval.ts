import type { DagNode, Interval, Values } from '../compile';
import { operation, topological } from '../compile';

/** Interval of a node while values are what they are: those of maps are taken for 0–1, as they are stored. */
export function intervalOf(root: DagNode, values: Values): Interval {
  const known = new Map<DagNode, Interval>();
  for (const node of topological([root])) {
    const given = node.op === 'value' ? values[String(node.attrs['name'])] : undefined;
    const args = node.args.map((a) => known.get(a) as Interval);
    const range = given
      ? { lo: Math.min(...given), hi: Math.max(...given) }
      : node.op === 'hold'
        ? { lo: Math.min(args[2].hi, Math.max(args[0].lo, args[1].lo)), hi: Math.max(args[1].lo, Math.min(args[0].hi, args[2].hi)) }
        : node.op === 'image' && node.attrs['channel'] === 'height'
          ? { lo: 0, hi: 1 }
          : operation(node.op).range(args, node);
    known.set(node, range);
  }
  return known.get(root) as Interval;
}
