// Where a place is and how it is seen.
import type { GraphStep } from '../step';

export const PLACES: GraphStep[] = [
  {
    name: 'texcoord',
    group: 'geometry',
    help: 'Texture coordinate, u right and v down: of the extent, or of a set that the mesh came with',
    words: 'uv, coordinates, uv set, unwrapping',
    materialx: 'texcoord',
    inputs: () => [],
    outputs: () => [{ name: 'out', type: 'vec2' }],
    settings: [{ name: 'set', label: 'set', kind: 'choice', choices: ['extent', 'uv1', 'uv2'], initial: 'extent' }],
    lower: ({ b, setting }) => ({ out: setting('set') === 'uv1' ? b.node('uv1') : setting('set') === 'uv2' ? b.node('uv2') : b.texcoord() }),
  },
  {
    name: 'facingratio',
    group: 'geometry',
    help: '1 where the ground faces the eye, 0 where it is seen from the side',
    words: 'fresnel, rim, edge of what is seen, velvet, grazing angle',
    materialx: 'facingratio',
    inputs: () => [
      { name: 'viewdirection', type: 'vec3', initial: 'viewdirection' },
      { name: 'normal', type: 'vec3', initial: 'normal' },
    ],
    outputs: () => [{ name: 'out', type: 'float' }],
    settings: [],
    lower: ({ b, input }) => ({
      out: b.clamp(b.node('dotproduct', [input('viewdirection'), b.node('normalize', [input('normal')])]), b.constant(0), b.constant(1)),
    }),
  },
];
