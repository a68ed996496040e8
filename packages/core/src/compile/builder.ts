import { inputType, isTracked } from '../geometry';
import { footprintName } from './domain';
import './operations';
import { operation } from './registry';
import type { Algebra, Attributes, DagNode, Interval, ValueType } from './types';
import { ANY, COMPONENTS, CompileError } from './types';

/** Nodes of a builder at most: what is worked out at many places, of which each is worked out at many places, grows without end. */
const MAX_NODES = 100_000;
/** A mip level past that of any picture: the last one is read. */
const COARSEST = 20;

/**
 * Makes nodes, each distinct one once (hash-consing): asking twice for the same operation on the same inputs gives the
 * same object, which is all that common-subexpression elimination needs.
 */
export class Builder implements Algebra {
  private readonly known = new Map<string, DagNode>();

  /**
   * @throws CompileError for an unknown operation, a wrong number of inputs or a type that does not fit.
   * @example b.node('add', [b.constant(1), b.value('x', 'float')])
   */
  node(op: string, args: readonly DagNode[] = [], attrs: Attributes = {}): DagNode {
    const spec = operation(op);
    if (args.length !== spec.inputs.length)
      throw new CompileError('wrong-arity', `${op} takes ${spec.inputs.length} inputs, ${args.length} are connected`, op);
    spec.inputs.forEach((port, i) => {
      if (port.type !== 'any' && port.type !== args[i].type)
        throw new CompileError('type-mismatch', `${op}: ${port.name} takes ${port.type}, not ${args[i].type}`, op, port.name);
    });
    const types = args.map((a) => a.type);
    // Vectors that work on each other's components are of one size; floats go with all of them.
    const wide = spec.inputs.flatMap((port, i) => (port.type === 'any' && types[i] !== 'float' ? [i] : []));
    for (const i of wide)
      if (types[i] !== types[wide[0]]) {
        const [small, large] = COMPONENTS[types[i]] < COMPONENTS[types[wide[0]]] ? [i, wide[0]] : [wide[0], i];
        throw new CompileError('type-mismatch', `${op}: ${spec.inputs[i].name} is ${types[small]} beside ${types[large]}`, op, spec.inputs[i].name);
      }
    const type = spec.result(types, attrs);
    const key = `${op}(${args.map((a) => a.id).join()})${JSON.stringify(attrs)}`;
    let node = this.known.get(key);
    if (!node) {
      if (args.length && this.known.size >= MAX_NODES)
        throw new CompileError(
          'too-many-nodes',
          `More than ${MAX_NODES} operations would be worked out at every pixel. Take one of the steps away that work out what feeds them at several places`,
          op,
        );
      const bare = { id: this.known.size, op, type, args, attrs, range: ANY };
      node = {
        ...bare,
        range: spec.range(
          args.map((a) => a.range),
          bare,
        ),
      };
      this.known.set(key, node);
    }
    return node;
  }

  constant(...value: number[]): DagNode {
    return this.node('constant', [], { value });
  }
  /** A number that may change without compiling again. `range` is a promise that passes rely on. */
  value(name: string, type: ValueType = 'float', range: Interval = ANY): DagNode {
    return this.node('value', [], { name, type, lo: range.lo === -Infinity ? 'none' : range.lo, hi: range.hi === Infinity ? 'none' : range.hi });
  }
  texcoord = (): DagNode => this.node('texcoord');
  add = (a: DagNode, b: DagNode): DagNode => this.node('add', [a, b]);
  subtract = (a: DagNode, b: DagNode): DagNode => this.node('subtract', [a, b]);
  multiply = (a: DagNode, b: DagNode): DagNode => this.node('multiply', [a, b]);
  divide = (a: DagNode, b: DagNode): DagNode => this.node('divide', [a, b]);
  min = (a: DagNode, b: DagNode): DagNode => this.node('min', [a, b]);
  max = (a: DagNode, b: DagNode): DagNode => this.node('max', [a, b]);
  mix = (a: DagNode, b: DagNode, t: DagNode): DagNode => this.node('mix', [a, b, t]);
  invert = (a: DagNode): DagNode => this.node('invert', [a]);
  clamp = (a: DagNode, lo: DagNode, hi: DagNode): DagNode => this.node('clamp', [a, lo, hi]);
  extract = (a: DagNode, index: number): DagNode => this.node('extract', [a], { index });
  combine = (...parts: DagNode[]): DagNode => this.node(`combine${parts.length}`, parts);

  /**
   * Derivative of a node along the screen's x or y: forward mode, by the rules of the registry. What depends on no
   * texture coordinate gives 0.
   */
  derivative(node: DagNode, axis: 'x' | 'y', memo = new Map<DagNode, DagNode>()): DagNode {
    const found = memo.get(node);
    if (found) return found;
    const spec = operation(node.op);
    let result: DagNode;
    if (isTracked(node.op)) result = this.value(footprintName(node.op, axis), inputType(node.op));
    else if (spec.leaf || spec.derivative === 'zero') result = this.zero(node.type);
    else result = spec.derivative(this, node, (port) => this.spread(this.derivative(node.args[port], axis, memo), node.args[port].type));
    memo.set(node, result);
    return result;
  }

  /** The same as a node with one of the nodes that it is made of replaced by another. */
  replaced = (node: DagNode, from: DagNode, to: DagNode): DagNode => this.exchanged(node, [[from, to]]);

  /** The same at another coordinate: what is looked up there has the level that is right there. */
  relocated(node: DagNode, to: DagNode): DagNode {
    const moves = (['x', 'y'] as const).map((axis): [DagNode, DagNode] => {
      const own = this.derivative(this.texcoord(), axis);
      return [own, to === this.texcoord() ? own : this.derivative(to, axis)];
    });
    return this.exchanged(node, [[this.texcoord(), to], ...moves]);
  }

  /** The same with everything that is looked up as it is on the whole: its mean. */
  onTheWhole(node: DagNode): DagNode {
    const levels = topological([node]).filter((n) => n.op === 'imagelevel');
    return this.exchanged(
      node,
      levels.map((level) => [level, this.constant(COARSEST)]),
    );
  }

  private exchanged(node: DagNode, pairs: readonly (readonly [DagNode, DagNode])[]): DagNode {
    const done = new Map<DagNode, DagNode>(pairs);
    for (const each of topological([node], (n) => (done.has(n) ? [] : n.args)))
      if (!done.has(each))
        done.set(
          each,
          each.args.length
            ? this.node(
                each.op,
                each.args.map((a) => done.get(a) as DagNode),
                each.attrs,
              )
            : each,
        );
    return done.get(node) as DagNode;
  }

  /** A node of another builder as one of this. */
  taken(node: DagNode): DagNode {
    for (const each of topological([node], (n) => (this.takenOver.has(n) ? [] : n.args)))
      if (!this.takenOver.has(each)) {
        const args = each.args.map((a) => this.takenOver.get(a) as DagNode);
        this.takenOver.set(each, this.node(each.op, args, each.attrs));
      }
    return this.takenOver.get(node) as DagNode;
  }
  private readonly takenOver = new Map<DagNode, DagNode>();

  zero = (type: ValueType): DagNode => this.constant(...new Array<number>(COMPONENTS[type]).fill(0));
  private spread = (node: DagNode, type: ValueType): DagNode =>
    node.type === type ? node : this.multiply(this.constant(...new Array<number>(COMPONENTS[type]).fill(1)), node);
}

/** Every node that the roots need, inputs before users. `read` says which inputs count. */
export function topological(roots: readonly DagNode[], read = (node: DagNode): readonly DagNode[] => node.args): DagNode[] {
  const order: DagNode[] = [];
  const seen = new Set<DagNode>();
  // A row of nodes may be thousands long: what is begun is kept here, not on the stack of calls.
  const begun: { node: DagNode; inputs: readonly DagNode[]; next: number }[] = [];
  const begin = (node: DagNode) => {
    if (seen.has(node)) return;
    seen.add(node);
    begun.push({ node, inputs: read(node), next: 0 });
  };
  for (const root of roots) {
    begin(root);
    for (let at = begun.at(-1); at; at = begun.at(-1)) {
      if (at.next < at.inputs.length) begin(at.inputs[at.next++]);
      else {
        order.push(at.node);
        begun.pop();
      }
    }
  }
  return order;
}
