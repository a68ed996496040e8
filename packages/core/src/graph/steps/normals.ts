import type { DagNode } from '../../compile';
import type { GraphStep } from '../step';

const FLAT = [0, 0, 1];
/** Steps of the coordinate between which a slope is taken: a texel of a map of a thousand. */
const STEP = 1 / 1024;

export const NORMALS: GraphStep[] = [
  {
    name: 'normalstrength',
    group: 'normals',
    help: 'A normal with its slopes times a strength: 0 flat, 1 as it is, 2 twice as steep',
    words: 'normal strength, weaken a normal, flatten, intensity',
    materialx: 'PB_normalstrength',
    inputs: () => [
      { name: 'normal', type: 'vec3', initial: FLAT },
      { name: 'strength', type: 'float', initial: [1], low: 0, high: 4 },
    ],
    outputs: () => [{ name: 'out', type: 'vec3' }],
    settings: [],
    lower: ({ b, input }) => ({ out: b.node('mixnormal', [b.constant(...FLAT), input('normal'), input('strength')]) }),
  },
  {
    name: 'heighttonormal',
    group: 'normals',
    help: 'A normal from heights: what feeds it is worked out at four more places, a thousandth of the extent away',
    words: 'bump, height to normal, slope of a mask, derive a normal',
    materialx: 'heighttonormal',
    inputs: () => [
      { name: 'in', type: 'float', initial: [0.5] },
      { name: 'scale', type: 'float', initial: [0.02], low: 0, high: 0.5, unit: 'm' },
    ],
    outputs: () => [{ name: 'out', type: 'vec3' }],
    settings: [],
    lower: (site) => {
      const { b, input, value } = site;
      const height = input('in');
      const uv = b.texcoord();
      const [zero, step] = [b.constant(0), b.constant(STEP)];
      const at = (du: DagNode, dv: DagNode) => b.replaced(height, uv, b.add(uv, b.combine(du, dv)));
      const back = b.constant(-STEP);
      // Rise over run in metres: two steps of the extent.
      const run = value('run', 'float', ({ extentM }) => ({ [`${site.prefix}run`]: [1 / (2 * STEP * extentM)] }));
      const by = b.multiply(input('scale'), run);
      const along = b.multiply(b.subtract(at(step, zero), at(back, zero)), by);
      const down = b.multiply(b.subtract(at(zero, step), at(zero, back)), by);
      // Inside, normals are Y+: n ∝ (−∂h/∂u, +∂h/∂v, 1).
      return { out: b.node('leannormal', [b.constant(...FLAT), b.combine(b.subtract(zero, along), down)]) };
    },
  },
];
