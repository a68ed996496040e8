// Steps that work out what feeds them at other places than the one that is looked at.
import type { DagNode } from '../../compile';
import { COMPONENTS } from '../../compile';
import type { StepInput, StepSite } from '../step';

/** What is worked out elsewhere: anything that hangs on the texture coordinate, a map above all. */
export const CONTENT: StepInput = { name: 'in', type: 'any', initial: [0] };
export const PLACE: StepInput = { name: 'texcoord', type: 'vec2', initial: 'texcoord' };

/** What feeds an input, at another coordinate. Says so where it is the same everywhere. */
export function elsewhere(site: StepSite, port: string): (at: DagNode) => DagNode {
  const { b } = site;
  const node = site.input(port);
  const moves = b.replaced(node, b.texcoord(), b.constant(0, 0)) !== node;
  if (!moves && site.fed(port)) site.note('unused', `What feeds ${port} is the same everywhere: link a map or a pattern to it`);
  return (at) => b.relocated(node, at);
}

/** A number as wide as another value. */
export const asWide = ({ b }: StepSite, node: DagNode, like: DagNode): DagNode =>
  node.type === like.type || node.type !== 'float' ? node : b.combine(...new Array<DagNode>(COMPONENTS[like.type]).fill(node));

/** The largest component of how far a coordinate moves from pixel to pixel: its footprint. */
export function footprintAt({ b }: StepSite, uv: DagNode): DagNode {
  const moved = (['x', 'y'] as const).map((axis) => b.node('magnitude', [b.derivative(uv, axis)]));
  return b.max(moved[0], moved[1]);
}

/** A direction of the world in the axes of the ground: x along u, y along v upwards, z out of it. */
export const intoGround = ({ b }: StepSite, direction: DagNode): DagNode =>
  b.node('transformnormal', [direction, b.node('normal'), b.node('tangent')], { fromspace: 'world', tospace: 'tangent' });
