import type { Lanes } from '../lanes';
import type { Operation } from '../registry';
import { pointwise } from './pointwise';
import { isSound } from './shared';

/** One of two inputs, as two numbers compare. */
const choice = (name: string, sign: string, words: string, holds: <V>(l: Lanes<V>, a: V, b: V) => V, swapped = false): Operation =>
  pointwise({
    name,
    help: `The first where a ${sign} b, the second elsewhere`,
    graph: { group: 'conditions', words: `${words}, choose, compare, if`, defaults: [[1], [0], [1], [0]] },
    ports: ['value1', 'value2', 'in1', 'in2'],
    alu: 2,
    jumps: true,
    lanes: (l, [a, b, yes, no]) => (swapped ? l.select(holds(l, a, b), no, yes) : l.select(holds(l, a, b), yes, no)),
    range: ([, , a, b]) => ({ lo: Math.min(a.lo, b.lo), hi: Math.max(a.hi, b.hi) }),
    derivative: (b, { args: [x, y] }, d) => b.node(name, [x, y, d(2), d(3)]),
    simpler: ({ args: [, , a, b] }) => (a === b ? a : null),
  });

export const CONDITIONS: Operation[] = [
  choice('ifgreater', '>', 'greater than, above', (l, a, b) => l.less(b, a)),
  choice('ifgreatereq', '≥', 'at least, greater or equal', (l, a, b) => l.less(a, b), true),
  choice('ifequal', '=', 'equal, same', (l, a, b) => l.equal(a, b)),
  {
    // At the ends of a graph: what would be no number, or infinite, is the low end.
    name: 'hold',
    help: 'The value held between low and high; what is no number becomes low',
    materialx: 'PB_hold',
    inputs: [
      { name: 'in', type: 'any' },
      { name: 'low', type: 'float' },
      { name: 'high', type: 'float' },
    ],
    result: ([t]) => t,
    lanes: (l, [x, [low], [high]]) => x.map((v) => l.select(l.less(low, v), l.select(l.less(v, high), v, high), low)),
    price: { alu: 4, perComponent: true },
    range: ([, low, high]) => ({ lo: Math.min(low.lo, high.lo), hi: Math.max(low.hi, high.hi) }),
    derivative: 'zero',
    simpler: ({ args: [x, low, high] }) => (x.range.lo >= low.range.hi && x.range.hi <= high.range.lo && isSound(x) ? x : null),
  },
];
