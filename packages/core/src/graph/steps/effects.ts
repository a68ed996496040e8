// Effects that are built by hand again and again, and got wrong: each whole, in one step.
import type { GraphStep } from '../step';

export const EFFECTS: GraphStep[] = [
  {
    name: 'gauge',
    group: 'effects',
    help: 'A gauge of equal steps over a mask that says which step a place is of (k of n as k/n, 0 outside): full up to the level, the next one in part',
    words: 'health bar, progress, meter, charge, level, stepped fill, dial, segments',
    materialx: 'PB_gauge',
    inputs: () => [
      { name: 'mask', type: 'float', initial: [0], low: 0, high: 1 },
      { name: 'level', type: 'float', initial: [0.5], low: 0, high: 1 },
      { name: 'steps', type: 'float', initial: [10], whole: true, low: 1, high: 64 },
    ],
    outputs: () => [
      { name: 'out', type: 'float' },
      { name: 'step', type: 'float' },
    ],
    settings: [],
    lower: ({ b, input }) => {
      const [zero, one] = [b.constant(0), b.constant(1)];
      const steps = b.max(input('steps'), one);
      // k = ⌊mask·steps + ½⌋: a mask that is off by less than half a step, as one of 8 bits or after blocks is, is of the same step.
      const k = b.node('floor', [b.add(b.multiply(input('mask'), steps), b.constant(0.5))]);
      const lit = b.clamp(b.add(b.subtract(b.multiply(input('level'), steps), k), one), zero, one);
      return { out: b.multiply(b.node('step', [one, k]), lit), step: k };
    },
  },
];
