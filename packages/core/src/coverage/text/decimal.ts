// Numbers as they are written, digit for digit: what is printed in another unit reads back as the very same number.

/** The decimal digits of a number, shortest first that tells it from all others, without an exponent. */
function digitsOf(v: number): { sign: string; digits: string; point: number } {
  const [, sign, whole, part = '', exponent = '0'] = /^(-?)(\d+)(?:\.(\d+))?(?:e([-+]\d+))?$/.exec(String(v)) as RegExpExecArray;
  return { sign, digits: whole + part, point: whole.length + Number(exponent) };
}

/** A number with its decimal point moved to the right, as text: `shifted(0.0351, 3)` is "35.1". */
export function shifted(v: number, places: number): string {
  const { sign, digits, point } = digitsOf(v);
  const at = point + places;
  const padded = at <= 0 ? '0'.repeat(1 - at) + digits : digits.padEnd(at, '0');
  const cut = Math.max(1, at);
  const whole = padded.slice(0, cut).replace(/^0+(?=\d)/, '');
  const part = padded.slice(cut).replace(/0+$/, '');
  const text = part ? `${whole}.${part}` : whole;
  return text === '0' ? '0' : sign + text;
}

/** What was written, its decimal point moved: the inverse of `shifted`. */
export const unshifted = (text: string, places: number): number => {
  const [, mantissa, exponent = '0'] = /^(.*?)(?:[eE]([-+]?\d+))?$/.exec(text) as RegExpExecArray;
  return Number(`${mantissa}e${Number(exponent) - places}`) || 0;
};
