import { Builder, topological } from './builder';
import { evaluateOnce } from './cpu';
import { isConstant } from './operations/shared';
import { isGiven } from './pictures';
import { operation } from './registry';
import type { DagNode } from './types';

export type Outputs = Readonly<Record<string, DagNode>>;

/** A value computed once a frame from other values, so that no pixel computes it. */
export interface Hoisted {
  name: string;
  node: DagNode;
}
export interface Optimised {
  outputs: Record<string, DagNode>;
  hoisted: Hoisted[];
}

/** The simplest node that an operation knows to be the same. A rewrite keeps the type: a float never stands in for a vector. */
function simplest(node: DagNode, b: Builder): DagNode {
  const { simpler, commutes } = operation(node.op);
  const better = simpler?.(node, b);
  if (better?.type === node.type) return simplest(better, b);
  const [first, second] = node.args;
  return commutes && first.id > second.id ? b.node(node.op, [second, first], node.attrs) : node;
}

/**
 * Constant folding, common subexpressions (by rebuilding in a builder that conses), algebra where ranges prove it, and
 * dead code (what no output reaches is never rebuilt). With `hoist`, whatever depends on values alone becomes a value.
 * Outputs differ from the unoptimised ones by at most 1e-5 · max(1, |x|).
 */
export function optimise(outputs: Outputs, options: { hoist?: boolean } = {}): Optimised {
  const b = new Builder();
  const done = new Map<DagNode, DagNode>();
  for (const node of topological(Object.values(outputs))) {
    let next = simplest(
      b.node(
        node.op,
        node.args.map((a) => done.get(a) as DagNode),
        node.attrs,
      ),
      b,
    );
    if (!operation(next.op).leaf && !operation(next.op).picture && next.args.every((a) => isConstant(a)))
      next = b.constant(...evaluateOnce({ x: next })['x']);
    done.set(node, next);
  }
  const mapped = Object.fromEntries(Object.entries(outputs).map(([name, node]) => [name, done.get(node) as DagNode]));
  return options.hoist ? hoist(b, mapped) : { outputs: mapped, hoisted: [] };
}

function hoist(b: Builder, outputs: Record<string, DagNode>): Optimised {
  const order = topological(Object.values(outputs));
  const steady = new Set<DagNode>();
  for (const node of order) {
    const { leaf, picture } = operation(node.op);
    if (isGiven(node) || (!leaf && !picture && node.args.every((a) => steady.has(a)))) steady.add(node);
  }
  const hoisted: Hoisted[] = [];
  const done = new Map<DagNode, DagNode>();
  const raise = (node: DagNode): DagNode => {
    if (operation(node.op).leaf) return node;
    const name = `h${hoisted.length}`;
    hoisted.push({ name, node });
    return b.value(name, node.type, node.range);
  };
  const kept = new Map<DagNode, DagNode>();
  const standIn = (node: DagNode): DagNode => {
    if (!steady.has(node)) return done.get(node) as DagNode;
    if (!kept.has(node)) kept.set(node, raise(node));
    return kept.get(node) as DagNode;
  };
  for (const node of order) if (!steady.has(node)) done.set(node, b.node(node.op, node.args.map(standIn), node.attrs));
  return { outputs: Object.fromEntries(Object.entries(outputs).map(([name, node]) => [name, standIn(node)])), hoisted };
}

/** Text that is equal for two lists exactly when they work the same values out of the same others. */
export function hoistedText(hoisted: readonly Hoisted[]): string {
  const order = topological(hoisted.map((h) => h.node));
  const place = new Map(order.map((node, i) => [node, i]));
  const lines = order.map(({ op, args, attrs }) => `${op}(${args.map((a) => place.get(a)).join()})${JSON.stringify(attrs)}`);
  return [...hoisted.map((h) => `${h.name}=${place.get(h.node)}`), ...lines].join(';');
}

/** All values that a frame needs: those given and those computed from them. */
export function frameValues(hoisted: readonly Hoisted[], values: Readonly<Record<string, readonly number[]>>): Record<string, readonly number[]> {
  if (!hoisted.length) return { ...values };
  return { ...values, ...evaluateOnce(Object.fromEntries(hoisted.map((h) => [h.name, h.node])), values) };
}
