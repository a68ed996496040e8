import type { Lanes } from '../lanes';
import type { DerivativeRule, GraphUse, Operation } from '../registry';
import type { DagNode, Interval } from '../types';
import { any, widest } from './shared';

export interface PointwiseSpec {
  name: string;
  help: string;
  ports: string[];
  /** Made from the lanes where it is left out. */
  glsl?: (args: readonly string[], node: DagNode) => string;
  /** One component from one component of each input. */
  lanes: <V>(l: Lanes<V>, args: readonly V[]) => V;
  alu?: number;
  range: (ranges: readonly Interval[]) => Interval;
  derivative: DerivativeRule;
  graph: GraphUse;
  simpler?: Operation['simpler'];
  linear?: Operation['linear'];
  /** See `Operation.live`. */
  live?: Operation['live'];
  jumps?: true;
  commutes?: true;
  materialx?: string;
  functions?: readonly string[];
}

/** An operation on each component alone. GLSL arguments arrive spread to the type of the result. */
export function pointwise(spec: PointwiseSpec): Operation {
  const { glsl } = spec;
  return {
    name: spec.name,
    help: spec.help,
    materialx: spec.materialx ?? spec.name,
    inputs: any(...spec.ports),
    result: widest,
    // A float beside a vector goes with every component.
    lanes: (l, args) =>
      Array.from({ length: Math.max(...args.map((a) => a.length)) }, (_, c) =>
        spec.lanes(
          l,
          args.map((a) => a[Math.min(c, a.length - 1)]),
        ),
      ),
    functions: spec.functions,
    glsl:
      glsl &&
      ((args, node) =>
        glsl(
          args.map((a, i) => (node.args[i].type === node.type ? a : `${node.type}(${a})`)),
          node,
        )),
    price: { alu: spec.alu ?? 1, perComponent: true },
    range: spec.range,
    derivative: spec.derivative,
    simpler: spec.simpler,
    linear: spec.linear,
    live: spec.live,
    jumps: spec.jumps,
    commutes: spec.commutes,
    graph: spec.graph,
  };
}
