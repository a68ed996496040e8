/** Units of length in metres. */
const METRES: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, km: 1000 };

export interface Quantity {
  /** What one displayed unit is worth in the stored unit: 0.001 for millimetres of metres, 0.01 for per cent. */
  factor: number;
  unit: string;
  decimals: number;
}

/** The number as shown, without its unit. */
export function showQuantity(value: number, { factor, decimals }: Quantity): string {
  const text = (value / factor).toFixed(decimals);
  return decimals ? text.replace(/\.?0+$/, '') : text;
}

/**
 * Reads what somebody typed: a number, a fraction or sum (`1/3`, `0.2+0.05`), a change of the present value (`*0.5`, `/2`,
 * `+=3`, `-=1`), with a unit of length where the
 * quantity has one (`12cm`). Null when it cannot be read.
 */
export function parseQuantity(text: string, present: number, quantity: Quantity): number | null {
  let source = text.trim().replace(/,/g, '.').replace(/[−–]/g, '-').toLowerCase();
  let factor = quantity.factor;
  const unit = /[a-zµ%°]+$/.exec(source);
  if (unit) {
    source = source.slice(0, unit.index).trim();
    if (unit[0] === quantity.unit.toLowerCase()) factor = quantity.factor;
    else if (unit[0] === '%') factor = quantity.unit === '%' ? quantity.factor : 0.01;
    else if (METRES[unit[0]] && METRES[quantity.unit]) factor = (quantity.factor / METRES[quantity.unit]) * METRES[unit[0]];
    else return null;
  }
  const relative = /^(\*|\/|\+=|-=)/.exec(source);
  if (relative) source = source.slice(relative[0].length);
  const value = evaluate(source);
  if (value === null) return null;
  if (relative?.[0] === '*') return present * value;
  if (relative?.[0] === '/') return value === 0 ? null : present / value;
  if (relative) return present + (relative[0] === '+=' ? 1 : -1) * value * factor;
  return value * factor;
}

/** Sums, differences, products and quotients of plain numbers, with brackets. */
function evaluate(source: string): number | null {
  let at = 0;
  const skip = () => {
    while (source[at] === ' ') at++;
  };
  const atom = (): number => {
    skip();
    if (source[at] === '(') {
      at++;
      const v = sum();
      skip();
      if (source[at++] !== ')') return NaN;
      return v;
    }
    if (source[at] === '-') {
      at++;
      return -atom();
    }
    const match = /^\d*\.?\d+(e-?\d+)?|^\d+\./.exec(source.slice(at));
    if (!match) return NaN;
    at += match[0].length;
    return Number(match[0]);
  };
  const product = (): number => {
    let v = atom();
    for (skip(); source[at] === '*' || source[at] === '/'; skip()) v = source[at++] === '*' ? v * atom() : v / atom();
    return v;
  };
  const sum = (): number => {
    let v = product();
    for (skip(); source[at] === '+' || source[at] === '-'; skip()) v = source[at++] === '+' ? v + product() : v - product();
    return v;
  };
  const value = sum();
  skip();
  return at === source.length && Number.isFinite(value) ? value : null;
}
