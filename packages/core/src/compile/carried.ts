// Nodes as they go from one thread to another: a graph is nested as deep as its longest row, and copies of it may not be.
import { topological } from './builder';
import type { DagNode } from './types';

/** Nodes in a list, each naming its inputs by their places. */
export interface CarriedDag {
  nodes: readonly (Omit<DagNode, 'args' | 'id'> & { args: readonly number[] })[];
  roots: readonly number[];
}

export function carried(roots: readonly DagNode[]): CarriedDag {
  const order = topological(roots);
  const place = new Map(order.map((node, i) => [node, i]));
  const of = (nodes: readonly DagNode[]) => nodes.map((node) => place.get(node) as number);
  return { nodes: order.map(({ op, type, args, attrs, range }) => ({ op, type, attrs, range, args: of(args) })), roots: of(roots) };
}

/** The same nodes, shared as they were. */
export function uncarried({ nodes, roots }: CarriedDag): DagNode[] {
  const made: DagNode[] = [];
  nodes.forEach((node, id) => made.push({ ...node, id, args: node.args.map((i) => made[i]) }));
  return roots.map((i) => made[i]);
}
