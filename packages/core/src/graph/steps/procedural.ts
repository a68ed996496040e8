import { COMPONENTS } from '../../compile';
import type { DagNode } from '../../compile';
import type { StepInput, GraphStep, StepSite } from '../step';

const texcoord: StepInput = { name: 'texcoord', type: 'vec2', initial: 'texcoord' };
const held = ({ b }: StepSite, x: DagNode): DagNode => b.clamp(x, b.constant(0), b.constant(1));
const corner = (name: string, from: number): StepInput => ({ name, type: 'any', initial: [from] });

/** The widest of some values decides; a number goes with every component. */
function even({ b }: StepSite, values: readonly DagNode[]): DagNode[] {
  const wide = Math.max(...values.map((v) => COMPONENTS[v.type]));
  return values.map((v) => (COMPONENTS[v.type] === wide || v.type !== 'float' ? v : b.combine(...new Array<DagNode>(wide).fill(v))));
}

const ramp = (name: string, words: string, help: string, names: readonly [string, string], axis: 0 | 1): GraphStep => ({
  name,
  group: 'procedural',
  help,
  words: `${words}, gradient, fade over the coordinate`,
  materialx: name,
  inputs: () => [corner(names[0], 0), corner(names[1], 1), texcoord],
  outputs: () => [{ name: 'out', type: 'any' }],
  settings: [],
  lower: (site) => ({ out: site.b.mix(site.input(names[0]), site.input(names[1]), held(site, site.b.extract(site.input('texcoord'), axis))) }),
});

export const PROCEDURAL: GraphStep[] = [
  ramp('ramplr', 'left to right', 'From one value at the left to another at the right of one repetition', ['valuel', 'valuer'], 0),
  ramp('ramptb', 'top to bottom', 'From one value at the top to another at the bottom of one repetition', ['valuet', 'valueb'], 1),
  {
    name: 'ramp4',
    group: 'procedural',
    help: 'Between four values at the corners of one repetition',
    words: 'four corners, gradient, bilinear',
    materialx: 'ramp4',
    inputs: () => [corner('valuetl', 0), corner('valuetr', 1), corner('valuebl', 0), corner('valuebr', 1), texcoord],
    outputs: () => [{ name: 'out', type: 'any' }],
    settings: [],
    lower: (site) => {
      const { b, input } = site;
      const [u, v] = [0, 1].map((axis) => held(site, b.extract(input('texcoord'), axis)));
      const [tl, tr, bl, br] = even(site, ['valuetl', 'valuetr', 'valuebl', 'valuebr'].map(input));
      return { out: b.mix(b.mix(tl, tr, u), b.mix(bl, br, u), v) };
    },
  },
];
