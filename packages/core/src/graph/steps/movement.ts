// Coordinates that move, bend and run around: what is looked up by them moves.
import type { GraphStep } from '../step';
import { PLACE } from './within';

/** Cells of the noise that bends a polar mapping, over one repetition. */
const BEND_CELLS = 4;

export const MOVEMENT: GraphStep[] = [
  {
    name: 'time',
    group: 'effects',
    help: 'Seconds since the loop began, times a speed; it begins again with the loop',
    words: 'clock, seconds, animate, animation, speed',
    materialx: 'time',
    inputs: () => [{ name: 'speed', type: 'float', initial: [1], low: -4, high: 4 }],
    outputs: () => [{ name: 'out', type: 'float' }],
    settings: [],
    lower: ({ b, input, time }) => ({ out: b.multiply(time(), input('speed')) }),
  },
  {
    name: 'wave',
    group: 'effects',
    help: 'A value that swings between two others, so many times a second',
    words: 'pulse, oscillate, blink, breathe, sine over time',
    materialx: 'PB_wave',
    inputs: () => [
      { name: 'rate', type: 'float', initial: [0.5], unit: '1/s', low: 0, high: 4 },
      { name: 'low', type: 'float', initial: [0] },
      { name: 'high', type: 'float', initial: [1] },
    ],
    outputs: () => [{ name: 'out', type: 'float' }],
    settings: [],
    lower: ({ b, input, time }) => {
      const turns = b.node('fract', [b.multiply(time(), input('rate'))]);
      const swing = b.node('cos', [b.multiply(turns, b.constant(2 * Math.PI))]);
      return { out: b.mix(input('low'), input('high'), b.subtract(b.constant(0.5), b.multiply(b.constant(0.5), swing))) };
    },
  },
  {
    name: 'panning',
    group: 'effects',
    help: 'A coordinate by which maps glide: so many repetitions a second to the right and down',
    words: 'scroll, slide, move a texture, conveyor, flow',
    materialx: 'PB_panning',
    inputs: () => [PLACE, { name: 'speed', type: 'vec2', initial: [0.1, 0], unit: '1/s', low: -2, high: 2 }],
    outputs: () => [{ name: 'out', type: 'vec2' }],
    settings: [],
    // Whole repetitions are dropped before anything is subtracted: a large number would take the small ones with it.
    lower: ({ b, input, time }) => ({ out: b.subtract(input('texcoord'), b.node('fract', [b.multiply(input('speed'), time())])) }),
  },
  {
    name: 'polar',
    group: 'effects',
    help: 'A coordinate around a middle: angle to the right, distance down; it spins, flows in (or out, below 0), and bends. Levels are worked out, so no seam shows; folded it needs none of that and mirrors',
    words: 'swirl, vortex, radial, circular, spiral, around a point, tunnel, spin',
    materialx: 'PB_polar',
    inputs: () => [
      PLACE,
      { name: 'middle', type: 'vec2', initial: [0.5, 0.5], low: 0, high: 1 },
      { name: 'around', type: 'float', initial: [1], whole: true, low: -16, high: 16 },
      { name: 'outward', type: 'float', initial: [1], low: -4, high: 4 },
      { name: 'spin', type: 'float', initial: [0], unit: '1/s', low: -2, high: 2 },
      { name: 'flow', type: 'float', initial: [0], unit: '1/s', low: -2, high: 2 },
      { name: 'twist', type: 'float', initial: [0], low: -2, high: 2 },
      { name: 'distortion', type: 'float', initial: [0], low: 0, high: 1 },
    ],
    outputs: () => [{ name: 'out', type: 'vec2' }],
    settings: [{ name: 'cut', label: 'where it closes', kind: 'choice', choices: ['whole', 'folded'], initial: 'whole' }],
    shape: ({ inputs }) => ['distortion', 'twist', 'spin', 'flow'].filter((name) => inputs[name]).join('+'),
    lower: ({ b, input, fed, setting, time }) => {
      const uv = input('texcoord');
      // Bent before it is wound: the noise knows nothing of the cut.
      const bend = () =>
        b.subtract(b.node('noisevector2d', [b.multiply(uv, b.constant(BEND_CELLS)), b.constant(BEND_CELLS), b.constant(31)]), b.constant(0.5));
      const bent = fed('distortion') ? b.add(uv, b.multiply(bend(), input('distortion'))) : uv;
      const folded = setting('cut') === 'folded' ? 1 : 0;
      const wound = b.node('polar2d', [bent, input('middle'), input('around'), input('outward')], { folded });
      const passed = (name: string) => (fed(name) ? b.node('fract', [b.multiply(input(name), time())]) : b.constant(0));
      const moved = b.add(wound, b.combine(passed('spin'), passed('flow')));
      if (!fed('twist')) return { out: moved };
      return { out: b.add(moved, b.combine(b.multiply(b.extract(wound, 1), input('twist')), b.constant(0))) };
    },
  },
];
