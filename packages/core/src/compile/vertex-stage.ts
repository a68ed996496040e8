import { topological } from './builder';
import { isGiven } from './pictures';
import type { Change } from './registry';
import { operation } from './registry';
import type { DagNode, ValueType } from './types';

/** Vectors that may pass from vertex to fragment beside those that the stage itself needs. */
export const MAX_INTERPOLATORS = 8;

export interface VertexStage {
  /** Computed per vertex and interpolated, by node: the name under which the fragment reads it. */
  names: ReadonlyMap<DagNode, string>;
  outputs: { name: string; type: ValueType }[];
  /** Statements for the end of a vertex shader that has `in_texcoord`. */
  body: string[];
  values: { name: string; type: ValueType }[];
}

export const NO_VERTEX_STAGE: VertexStage = { names: new Map(), outputs: [], body: [], values: [] };

/**
 * What can be computed per vertex: expressions linear in the texture coordinate with coefficients that are the same for a
 * whole frame. Interpolation keeps linear functions, so the fragment sees the same numbers for less work.
 */
export function vertexStage(roots: readonly DagNode[], read: (node: DagNode) => readonly DagNode[]): VertexStage {
  const steady = isGiven;
  const linear = new Set<DagNode>();
  const order = topological(roots, read);
  for (const node of order) {
    const changes = node.args.map((n): Change => (steady(n) ? 'steady' : linear.has(n) ? 'linear' : 'other'));
    if (operation(node.op).linear?.(changes)) linear.add(node);
  }
  const names = new Map<DagNode, string>();
  const wanted = (node: DagNode) => linear.has(node) && !operation(node.op).leaf && !names.has(node) && names.size < MAX_INTERPOLATORS;
  for (const node of order) if (!linear.has(node)) for (const arg of read(node)) if (wanted(arg)) names.set(arg, `p_${names.size}`);
  const text = new Map<DagNode, string>();
  const body: string[] = [];
  const values = new Map<string, ValueType>();
  for (const node of topological([...names.keys()])) {
    const op = operation(node.op);
    if (op.leaf === 'value') values.set(String(node.attrs['name']), node.type);
    // Linear operations all have an expression of their own.
    const expression = (op.glsl as NonNullable<typeof op.glsl>)(
      node.args.map((a) => text.get(a) as string),
      node,
    );
    if (op.leaf) text.set(node, expression);
    else {
      const name = names.get(node) ?? `w${body.length}`;
      body.push(names.has(node) ? `${name} = ${expression};` : `${node.type} ${name} = ${expression};`);
      text.set(node, name);
    }
  }
  return {
    names,
    body,
    outputs: [...names].map(([node, name]) => ({ name, type: node.type })),
    values: [...values].map(([name, type]) => ({ name, type })),
  };
}
