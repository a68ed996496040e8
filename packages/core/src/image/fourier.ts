/**
 * Fourier transform of `n` complex numbers in place, `n` a power of two; the inverse divides by `n`. `step` and `at` pick
 * a row or a column of a picture. Source: Cooley & Tukey 1965, radix 2.
 */
function transformLine(re: Float64Array, im: Float64Array, n: number, at: number, step: number, inverse: boolean): void {
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j |= bit;
    if (i >= j) continue;
    for (const part of [re, im]) [part[at + i * step], part[at + j * step]] = [part[at + j * step], part[at + i * step]];
  }
  for (let length = 2; length <= n; length *= 2) {
    const angle = ((inverse ? 2 : -2) * Math.PI) / length;
    for (let k = 0; k < length / 2; k++) {
      const [c, s] = [Math.cos(angle * k), Math.sin(angle * k)];
      for (let start = k; start < n; start += length) {
        const [p, q] = [at + start * step, at + (start + length / 2) * step];
        const [r, i] = [re[q] * c - im[q] * s, re[q] * s + im[q] * c];
        re[q] = re[p] - r;
        im[q] = im[p] - i;
        re[p] += r;
        im[p] += i;
      }
    }
  }
  if (inverse)
    for (let i = 0; i < n; i++) {
      re[at + i * step] /= n;
      im[at + i * step] /= n;
    }
}

/** The same over both directions of a square picture of `n` × `n`. @throws RangeError when `n` is no power of two */
export function fourier2d(re: Float64Array, im: Float64Array, n: number, inverse = false): void {
  if (n < 1 || (n & (n - 1)) !== 0) throw new RangeError(`A side of ${n} is no power of two`);
  for (let i = 0; i < n; i++) transformLine(re, im, n, i * n, 1, inverse);
  for (let i = 0; i < n; i++) transformLine(re, im, n, i, n, inverse);
}

/** Whole waves over a side that coefficient `i` of `n` stands for, negative in the upper half. */
export const waves = (i: number, n: number): number => (i <= n / 2 ? i : i - n);
