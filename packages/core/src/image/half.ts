const single = new Float32Array(1);
const bits = new Uint32Array(single.buffer);

/** A number as IEEE 754 half-float bits, rounded to nearest, ties to even; too large becomes infinite. */
export function toHalf(value: number): number {
  single[0] = value;
  const sign = (bits[0] >>> 16) & 0x8000;
  const exponent = (bits[0] >>> 23) & 0xff;
  const mantissa = bits[0] & 0x7fffff;
  if (exponent === 0xff) return sign | 0x7c00 | (mantissa ? 0x200 : 0);
  if (exponent < 102) return sign;
  // Below 2⁻¹⁴ the leading 1 is written out and what is left of the step of 2⁻²⁴ is rounded.
  const shift = exponent < 113 ? 126 - exponent : 13;
  const whole = exponent < 113 ? mantissa | 0x800000 : ((exponent - 112) << 23) | mantissa;
  const kept = whole >>> shift;
  const rest = whole & ((1 << shift) - 1);
  const middle = 1 << (shift - 1);
  const rounded = kept + (rest > middle || (rest === middle && kept & 1) ? 1 : 0);
  return sign | Math.min(0x7c00, rounded);
}

/** The number that half-float bits stand for. */
export function fromHalf(half: number): number {
  const sign = half & 0x8000 ? -1 : 1;
  const exponent = (half >>> 10) & 31;
  const mantissa = half & 0x3ff;
  if (exponent === 31) return mantissa ? NaN : sign * Infinity;
  return exponent ? sign * (1 + mantissa / 1024) * 2 ** (exponent - 15) : sign * mantissa * 2 ** -24;
}
