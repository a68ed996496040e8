// Angles and powers as polynomials, so that both back ends round alike.
import type { Lanes } from '../lanes';
import { clampLanes } from '../lanes';
import type { Operation } from '../registry';
import { always, floats } from './shared';

/** Horner's rule, the highest power first. */
const polynomial = <V>(l: Lanes<V>, x: V, terms: readonly number[]): V =>
  terms.slice(1).reduce((sum, k) => l.add(l.multiply(sum, x), l.number(k)), l.number(terms[0]));

/** Arc cosine on 0…1 is √(1 − x) times this. Source: Abramowitz & Stegun, 4.4.46 (error 2e-8). */
const ARC = [-0.0012624911, 0.0066700901, -0.0170881256, 0.030891881, -0.0501743046, 0.0889789874, -0.2145988016, 1.570796305];
/** e^t by Taylor's series to the seventh power; t stays within ½. */
const POWERS = [1 / 5040, 1 / 720, 1 / 120, 1 / 24, 1 / 6, 1 / 2, 1, 1];
/** Largest exponent: e^16 is far from the ends of a float. */
const MOST = 16;

export const ANGLES: Operation[] = [
  {
    name: 'acos',
    help: 'Angle in radians whose cosine is the value',
    materialx: 'acos',
    inputs: floats('in'),
    result: always('float'),
    lanes: (l, [[x]]) => {
      const [zero, one] = [l.number(0), l.number(1)];
      const held = clampLanes(l, x, l.number(-1), one);
      const size = l.abs(held);
      const angle = l.multiply(l.sqrt(l.subtract(one, size)), polynomial(l, size, ARC));
      return [l.select(l.less(held, zero), l.subtract(l.number(Math.PI), angle), angle)];
    },
    price: { alu: 22 },
    range: () => ({ lo: 0, hi: Math.PI + 1e-6 }),
    derivative: 'zero',
  },
  {
    name: 'exp',
    help: `e to the power of the value, held within ±${MOST}`,
    materialx: 'exp',
    inputs: floats('in'),
    result: always('float'),
    lanes: (l, [[x]]) => {
      const t = l.multiply(clampLanes(l, x, l.number(-MOST), l.number(MOST)), l.number(1 / 32));
      let power = polynomial(l, t, POWERS);
      for (let i = 0; i < 5; i++) power = l.multiply(power, power);
      return [power];
    },
    price: { alu: 4 },
    range: ([x]) => ({ lo: 0, hi: Math.exp(Math.min(MOST, x.hi)) * 1.0001 }),
    derivative: 'zero',
  },
];
