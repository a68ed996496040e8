import type { Lanes } from '../lanes';
import type { Operation } from '../registry';
import { ANY, UNIT } from '../types';
import { pointwise } from './pointwise';

/** A way of laying one colour over another, component by component, in linear light. */
const mode = (name: string, help: string, alu: number, one: <V>(l: Lanes<V>, below: V, above: V) => V): Operation =>
  pointwise({
    name,
    help,
    graph: { group: 'channels', words: 'colour mode, lay over', defaults: [[0], [0]] },
    ports: ['bg', 'fg'],
    alu,
    lanes: (l, [below, above]) => one(l, below, above),
    range: ([a, b]) => (a.lo >= 0 && a.hi <= 1 && b.lo >= 0 && b.hi <= 1 ? UNIT : ANY),
    derivative: 'zero',
  });
const screen = <V>(l: Lanes<V>, a: V, b: V): V => l.subtract(l.add(a, b), l.multiply(a, b));

export const COLOUR_OPERATIONS: Operation[] = [
  mode('screen', 'Both as light through two slides: 1 − (1−a)(1−b)', 3, screen),
  mode('overlay', 'Darker where below is dark, lighter where it is light', 8, (l, a, b) => {
    const dark = l.multiply(l.multiply(l.number(2), a), b);
    const light = l.subtract(l.multiply(l.number(2), screen(l, a, b)), l.number(1));
    return l.select(l.less(a, l.number(0.5)), dark, light);
  }),
];
