/** Cosines and sines of the first half of a turn in `n` steps. */
const turns = new Map<number, { cos: Float64Array; sin: Float64Array }>();
function turn(n: number): { cos: Float64Array; sin: Float64Array } {
  let made = turns.get(n);
  if (!made) {
    const half = Math.max(1, n >> 1);
    const angle = (i: number) => (2 * Math.PI * i) / n;
    made = {
      cos: Float64Array.from({ length: half }, (_, i) => Math.cos(angle(i))),
      sin: Float64Array.from({ length: half }, (_, i) => Math.sin(angle(i))),
    };
    turns.set(n, made);
  }
  return made;
}

/** Forward transform of complex numbers in place, their count a power of two. Source: Cooley & Tukey 1965, radix 2. */
function radix2(re: Float64Array, im: Float64Array): void {
  const n = re.length;
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j |= bit;
    if (i >= j) continue;
    for (const part of [re, im]) [part[i], part[j]] = [part[j], part[i]];
  }
  const { cos, sin } = turn(n);
  for (let half = 1, stride = n >> 1; half < n; half *= 2, stride >>= 1)
    for (let start = 0; start < n; start += 2 * half)
      for (let k = 0, t = 0; k < half; k++, t += stride) {
        const p = start + k;
        const q = p + half;
        const r = re[q] * cos[t] + im[q] * sin[t];
        const i = im[q] * cos[t] - re[q] * sin[t];
        re[q] = re[p] - r;
        im[q] = im[p] - i;
        re[p] += r;
        im[p] += i;
      }
}

/** A forward transform of lines of `n` numbers in place. Any other count than a power of two goes by Bluestein 1970. */
function lineTransform(n: number): (re: Float64Array, im: Float64Array) => void {
  if ((n & (n - 1)) === 0) return radix2;
  const size = 2 ** Math.ceil(Math.log2(2 * n - 1));
  // The chirp e^(−iπk²/n); k² is taken modulo 2n, or its angle loses digits.
  const angle = (k: number) => (Math.PI * ((k * k) % (2 * n))) / n;
  const cos = Float64Array.from({ length: n }, (_, k) => Math.cos(angle(k)));
  const sin = Float64Array.from({ length: n }, (_, k) => Math.sin(angle(k)));
  const [filterRe, filterIm] = [new Float64Array(size), new Float64Array(size)];
  for (let k = 0; k < n; k++)
    for (const at of k ? [k, size - k] : [0]) {
      filterRe[at] = cos[k];
      filterIm[at] = sin[k];
    }
  radix2(filterRe, filterIm);
  const [a, b] = [new Float64Array(size), new Float64Array(size)];
  return (re, im) => {
    a.fill(0);
    b.fill(0);
    for (let k = 0; k < n; k++) {
      a[k] = re[k] * cos[k] + im[k] * sin[k];
      b[k] = im[k] * cos[k] - re[k] * sin[k];
    }
    radix2(a, b);
    // Product with the filter, conjugated, so that the same transform goes back.
    for (let k = 0; k < size; k++) {
      const r = a[k] * filterRe[k] - b[k] * filterIm[k];
      b[k] = -(a[k] * filterIm[k] + b[k] * filterRe[k]);
      a[k] = r;
    }
    radix2(a, b);
    for (let k = 0; k < n; k++) {
      const r = a[k] / size;
      const i = -b[k] / size;
      re[k] = r * cos[k] + i * sin[k];
      im[k] = i * cos[k] - r * sin[k];
    }
  };
}

/**
 * Fourier transform of a picture of complex numbers in place, of any size; the inverse divides by the count. Coefficient
 * `(kx, ky)` stands at `ky * width + kx`.
 */
export function fourier2d(re: Float64Array, im: Float64Array, width: number, height: number, inverse = false): void {
  // Conjugates go in and come out, so that one transform serves both ways.
  if (inverse) for (let i = 0; i < im.length; i++) im[i] = -im[i];
  const across = lineTransform(width);
  for (let y = 0; y < height; y++) across(re.subarray(y * width, (y + 1) * width), im.subarray(y * width, (y + 1) * width));
  const down = lineTransform(height);
  const [lineRe, lineIm] = [new Float64Array(height), new Float64Array(height)];
  for (let x = 0; x < width; x++) {
    for (let y = 0, i = x; y < height; y++, i += width) {
      lineRe[y] = re[i];
      lineIm[y] = im[i];
    }
    down(lineRe, lineIm);
    for (let y = 0, i = x; y < height; y++, i += width) {
      re[i] = lineRe[y];
      im[i] = lineIm[y];
    }
  }
  if (!inverse) return;
  const scale = 1 / (width * height);
  for (let i = 0; i < re.length; i++) {
    re[i] *= scale;
    im[i] *= -scale;
  }
}

/** Whole waves over a side that coefficient `i` of `n` stands for, negative in the upper half. */
export const waves = (i: number, n: number): number => (i <= n / 2 ? i : i - n);
