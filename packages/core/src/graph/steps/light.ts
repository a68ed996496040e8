// What shines, lets light through, glitters or stands under water.
import { flooded } from '../../blend';
import type { GraphStep, StepInput } from '../step';
import { PLACE, footprintAt, intoGround } from './within';

const mask = (help: readonly number[]): StepInput => ({ name: 'mask', type: 'float', initial: help, low: 0, high: 1 });
const colour = (name: string, initial: readonly number[]): StepInput => ({ name, type: 'vec3', initial, colour: true });
/** Cells of glitter are told apart down to this many pixels, and are one even shimmer from the other. */
const [APART, EVEN] = [0.5, 1.5];
/** How strongly the eye's way moves a glint through its cycle. */
const CYCLES = 3;

export const LIGHT_EFFECTS: GraphStep[] = [
  {
    name: 'glow',
    group: 'effects',
    help: 'Light of its own where a mask is: a colour times a strength, from a threshold to where it is full',
    words: 'emissive, emission, neon, lava, lamps, light up, glowing mask',
    materialx: 'PB_glow',
    inputs: () => [
      mask([1]),
      colour('colour', [1, 0.6, 0.2]),
      { name: 'strength', type: 'float', initial: [1], low: 0, high: 8 },
      { name: 'from', type: 'float', initial: [0], low: 0, high: 1 },
      { name: 'full', type: 'float', initial: [1], low: 0, high: 1 },
    ],
    outputs: () => [{ name: 'out', type: 'vec3', label: 'emissive' }],
    settings: [],
    lower: ({ b, input }) => {
      const lit = b.clamp(b.node('remap', [input('mask'), input('from'), input('full'), b.constant(0), b.constant(1)]), b.constant(0), b.constant(1));
      return { out: b.multiply(input('colour'), b.multiply(lit, b.max(b.constant(0), input('strength')))) };
    },
  },
  {
    name: 'translucentglow',
    group: 'effects',
    help: 'Translucency at the price of a product: what is under the mask shines by itself in its own tinted colour, in the dark too. Goes to emissive',
    words: 'cheap translucency, fake subsurface, wax, leaf, skin, emissive translucency',
    materialx: 'PB_translucentglow',
    inputs: () => [
      mask([1]),
      { name: 'amount', type: 'float', initial: [0.3], low: 0, high: 1 },
      colour('baseColor', [0.5, 0.5, 0.5]),
      colour('tint', [1, 0.8, 0.5]),
    ],
    outputs: () => [{ name: 'out', type: 'vec3', label: 'emissive' }],
    settings: [],
    // Mask first: where it is 0 the product is 0, whatever else is turned.
    lower: ({ b, input }) => ({
      out: b.multiply(
        b.multiply(input('baseColor'), input('tint')),
        b.multiply(b.clamp(input('mask'), b.constant(0), b.constant(1)), input('amount')),
      ),
    }),
  },
  {
    name: 'translucency',
    group: 'effects',
    help: 'Light that enters and comes out elsewhere: goes to subsurface, by which the light wraps around and shines through from behind. Paid in the light, for every lamp',
    words: 'subsurface scattering, wax, skin, leaf, thin, light through, transmission',
    materialx: 'PB_translucency',
    inputs: () => [
      mask([1]),
      { name: 'amount', type: 'float', initial: [0.6], low: 0, high: 1 },
      { name: 'thickness', type: 'float', initial: [0], low: 0, high: 1 },
    ],
    outputs: () => [{ name: 'out', type: 'float', label: 'subsurface' }],
    settings: [],
    lower: ({ b, input }) => {
      const [zero, one] = [b.constant(0), b.constant(1)];
      const through = b.multiply(b.clamp(input('mask'), zero, one), b.clamp(input('amount'), zero, one));
      return { out: b.multiply(through, b.invert(b.clamp(input('thickness'), zero, one))) };
    },
  },
  {
    name: 'glitter',
    group: 'effects',
    help: 'Fine glints, each with a direction of its own, that come and go with the eye; where they are smaller than pixels they become an even shimmer of the same brightness',
    words: 'sparkle, snow, sand, metal flakes, frost, sequins, glints',
    materialx: 'PB_glitter',
    inputs: () => [
      PLACE,
      { name: 'cells', type: 'float', initial: [256], whole: true, low: 8, high: 4096 },
      { name: 'share', type: 'float', initial: [0.05], low: 0, high: 1 },
      { name: 'seed', type: 'float', initial: [1], whole: true, low: 0, high: 999 },
      { name: 'viewdirection', type: 'vec3', initial: 'viewdirection' },
    ],
    outputs: () => [{ name: 'out', type: 'float' }],
    settings: [],
    lower: (site) => {
      const { b, input } = site;
      const [zero, one, half] = [b.constant(0), b.constant(1), b.constant(0.5)];
      const cells = b.max(one, b.node('round', [input('cells')]));
      const place = b.multiply(input('texcoord'), cells);
      const random = b.node('cellrandom2d', [b.node('floor', [place]), cells, input('seed')]);
      const [rx, ry, , start] = [0, 1, 2, 3].map((i) => b.extract(random, i));
      const sight = intoGround(site, input('viewdirection'));
      const lean = b.node('dotproduct', [b.combine(b.subtract(rx, half), b.subtract(ry, half)), b.combine(b.extract(sight, 0), b.extract(sight, 1))]);
      const phase = b.node('fract', [b.add(start, b.multiply(lean, b.constant(2 * CYCLES)))]);
      const share = b.clamp(input('share'), zero, one);
      // Rises over its share of the cycle: one half of the share is its mean, which is what many of them in a pixel give.
      const glint = b.clamp(b.divide(b.subtract(phase, b.invert(share)), b.max(share, b.constant(1e-6))), zero, one);
      const apart = b.invert(b.node('smoothstep', [footprintAt(site, place), b.constant(APART), b.constant(EVEN)]));
      return { out: b.mix(b.multiply(share, half), glint, apart) };
    },
  },
  {
    name: 'displacement',
    group: 'effects',
    help: 'Heights that move the geometry itself: goes to height, and the stage moves the vertices where it is set to displace',
    words: 'displace, vertex offset, tessellation, raise',
    materialx: 'PB_displacement',
    inputs: () => [
      { name: 'in', type: 'float', initial: [0.5] },
      { name: 'middle', type: 'float', initial: [0.5], low: 0, high: 1 },
      { name: 'amount', type: 'float', initial: [0.05], unit: 'm', low: 0, high: 1 },
      mask([1]),
    ],
    outputs: () => [{ name: 'out', type: 'float', label: 'height' }],
    settings: [],
    lower: ({ b, input }) => ({ out: b.multiply(b.subtract(input('in'), input('middle')), b.multiply(input('amount'), input('mask'))) }),
  },
  {
    name: 'water',
    group: 'effects',
    help: 'Water standing over a surface up to a level: what is deep takes the colour of what swims in it, the rim is wet, ripples drift',
    words: 'puddle, pond, wet, rain, flood, lake, river, murk',
    materialx: 'PB_water',
    inputs: () => [
      { name: 'below', type: 'surface', initial: [] },
      { name: 'coverage', type: 'float', initial: [1], low: 0, high: 1 },
      { name: 'level', type: 'float', initial: [0], unit: 'm', low: -0.5, high: 0.5 },
      colour('murk', [0.25, 0.35, 0.3]),
      { name: 'clear', type: 'float', initial: [0.1], unit: 'm', low: 0.01, high: 5 },
      colour('scatter', [0.05, 0.07, 0.06]),
      { name: 'roughness', type: 'float', initial: [0.05], low: 0, high: 1 },
      { name: 'ripple', type: 'float', initial: [0.05], low: 0, high: 1 },
      { name: 'ripples', type: 'float', initial: [12], whole: true, low: 1, high: 128 },
      { name: 'drift', type: 'vec2', initial: [0, 0], unit: '1/s', low: -1, high: 1 },
      { name: 'rim', type: 'float', initial: [0.02], unit: 'm', low: 0, high: 0.2 },
      { name: 'wet', type: 'float', initial: [0.4], low: 0, high: 1 },
    ],
    outputs: () => [
      { name: 'out', type: 'surface' },
      { name: 'cover', type: 'float', label: 'where it stands' },
    ],
    settings: [],
    shape: ({ inputs }) => (inputs['drift'] ? 'drifts' : ''),
    lower: (site) => {
      const { b, input, surface, fed, time } = site;
      const [zero, one] = [b.constant(0), b.constant(1)];
      const below = surface('below').surface;
      const held = (name: string) => b.clamp(input(name), zero, one);
      // e^(−a·clear) = murk: Beer–Lambert.
      const murk = [0, 1, 2].map((i) => b.node('ln', [b.max(b.extract(input('murk'), i), b.constant(1e-4))]));
      const clear = b.max(input('clear'), b.constant(1e-4));
      const absorb = b.max(zero, b.divide(b.subtract(zero, b.combine(...murk)), clear));
      const cells = b.max(one, b.node('round', [input('ripples')]));
      const drift = fed('drift') ? b.node('fract', [b.multiply(input('drift'), time())]) : b.constant(0, 0);
      const level = input('level');
      const { look, cover } = flooded(
        b,
        {
          strength: one,
          // From where weak coverage raises it: as far below as it is clear.
          floor: b.subtract(level, clear),
          level,
          rim: b.max(b.constant(1e-4), input('rim')),
          wet: held('wet'),
          absorb,
          scatter: input('scatter'),
          rough: held('roughness'),
          ripple: input('ripple'),
          rippleCells: cells,
        },
        below,
        held('coverage'),
        b.subtract(b.texcoord(), drift),
      );
      return { out: { surface: look }, cover };
    },
  },
];
