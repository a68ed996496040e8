// Curves as polynomials and bits, so that both back ends round alike.
import type { Lanes } from '../lanes';
import { clampLanes } from '../lanes';

/** Horner's rule, the highest power first. */
export const polynomial = <V>(l: Lanes<V>, x: V, terms: readonly number[]): V =>
  terms.slice(1).reduce((sum, k) => l.add(l.multiply(sum, x), l.number(k)), l.number(terms[0]));

/** e^t by Taylor's series to the seventh power; t stays within ½ ln 2. */
const POWERS = [1 / 5040, 1 / 720, 1 / 120, 1 / 24, 1 / 6, 1 / 2, 1, 1];
/** Fraction bits of a float, and what its exponent is more than it says. Source: IEEE 754. */
const FRACTION = 1 << 23;
const BIAS = 127;
/** Smallest float that has all its bits. */
export const TINY = 2 ** -126;
/** Largest power of two that is taken; what would be more is held there. */
export const MOST_POWER = 127;

/** 2 to a power, held within ±126. */
export function powerOfTwo<V>(l: Lanes<V>, x: V): V {
  const held = clampLanes(l, x, l.number(-126), l.number(MOST_POWER));
  const whole = l.floor(l.add(held, l.number(0.5)));
  const part = polynomial(l, l.multiply(l.subtract(held, whole), l.number(Math.LN2)), POWERS);
  const exponent = l.toWhole(l.add(whole, l.number(BIAS)));
  return l.multiply(part, l.fromBits(l.multiplyWhole(exponent, l.whole(FRACTION))));
}

/** Logarithm to base 2 of what is no smaller than `TINY`: exponent, and 2·artanh((m − 1)/(m + 1)) of the fraction. */
export function logarithm<V>(l: Lanes<V>, x: V): V {
  const bits = l.toBits(l.max(l.number(TINY), x));
  const exponent = l.shift(bits, 23);
  const fraction = l.addWhole(bits, l.multiplyWhole(exponent, l.whole(-FRACTION)));
  const m = l.fromBits(l.addWhole(fraction, l.whole(BIAS * FRACTION)));
  const large = l.less(l.number(Math.SQRT2), m);
  const near = l.select(large, l.multiply(m, l.number(0.5)), m);
  const power = l.add(l.subtract(l.toFloat(exponent), l.number(BIAS)), l.select(large, l.number(1), l.number(0)));
  const s = l.divide(l.subtract(near, l.number(1)), l.add(near, l.number(1)));
  const ss = l.multiply(s, s);
  const series = polynomial(
    l,
    ss,
    [9, 7, 5, 3, 1].map((k) => 2 / (k * Math.LN2)),
  );
  return l.add(power, l.multiply(s, series));
}

/** a to the power b: a at or below 0 gives 0, but anything to the power 0 is 1. */
export function powerLanes<V>(l: Lanes<V>, a: V, b: V): V {
  const [zero, one] = [l.number(0), l.number(1)];
  const power = powerOfTwo(l, l.multiply(b, logarithm(l, a)));
  return l.select(l.equal(b, zero), one, l.select(l.less(zero, a), power, zero));
}

/** 2π as two numbers whose multiples by small whole ones are exact. Source: Cody & Waite, 1980. */
const TURN = [6.28125, 2 * Math.PI - 6.28125] as const;
/** Past this an angle in a float has no fraction of a turn left. */
const MOST_ANGLE = 65536;
/** Sine by Taylor's series to the eleventh power, after one factor x; |x| stays within π/2. */
const SINE = [-1 / 39916800, 1 / 362880, -1 / 5040, 1 / 120, -1 / 6, 1];

/** Sine of an angle in radians, held within ±65536. */
export function sine<V>(l: Lanes<V>, angle: V): V {
  const [zero, half, pi] = [l.number(0), l.number(0.5), l.number(Math.PI)];
  const held = clampLanes(l, angle, l.number(-MOST_ANGLE), l.number(MOST_ANGLE));
  const turns = l.floor(l.add(l.multiply(held, l.number(1 / (2 * Math.PI))), half));
  const rest = TURN.reduce((x, part) => l.subtract(x, l.multiply(turns, l.number(part))), held);
  // Beyond a quarter turn the sine goes back the way it came.
  const size = l.abs(rest);
  const folded = l.min(size, l.subtract(pi, size));
  const x = l.select(l.less(rest, zero), l.subtract(zero, folded), folded);
  return l.multiply(x, polynomial(l, l.multiply(x, x), SINE));
}
export const cosine = <V>(l: Lanes<V>, angle: V): V => sine(l, l.add(angle, l.number(Math.PI / 2)));

/** Arc tangent on 0…1 after one factor x. Source: Abramowitz & Stegun, 4.4.49 (error 2e-8). */
const ARC_TANGENT = [0.0028662257, -0.0161657367, 0.0429096138, -0.07528964, 0.1065626393, -0.1420889944, 0.1999355085, -0.3333314528, 1];

/** Angle of a direction in radians, −π…π; 0 where both are 0. */
export function angleOf<V>(l: Lanes<V>, y: V, x: V): V {
  const zero = l.number(0);
  const [across, up] = [l.abs(x), l.abs(y)];
  const steep = l.less(across, up);
  const long = l.max(across, up);
  const t = l.select(l.less(zero, long), l.divide(l.min(across, up), l.max(long, l.number(TINY))), zero);
  const small = l.multiply(t, polynomial(l, l.multiply(t, t), ARC_TANGENT));
  const first = l.select(steep, l.subtract(l.number(Math.PI / 2), small), small);
  const upper = l.select(l.less(x, zero), l.subtract(l.number(Math.PI), first), first);
  return l.select(l.less(y, zero), l.subtract(zero, upper), upper);
}
