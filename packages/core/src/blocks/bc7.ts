// BC7, mode 6: four channels, two ends of seven bits and one that all channels share, sixteen levels. Other modes are for
// blocks of several colours; what a better encoder makes is as good or better. Source: Khronos Data Format 1.3, section 20 (BPTC).

/** Shares of the second end, of 64. */
const WEIGHTS = [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64];
const MODE = 6;

interface Fit {
  /** Ends of four channels, 0–255. */
  ends: [number[], number[]];
  indices: number[];
  error: number;
}
const levelOf = (a: number, b: number, i: number): number => ((64 - WEIGHTS[i]) * a + WEIGHTS[i] * b + 32) >> 6;

/** The nearest end that has a lowest bit: seven bits a channel, and that bit for all of them. */
const snapped = (end: readonly number[], bit: number): number[] => end.map((v) => (Math.min(127, Math.max(0, Math.round((v - bit) / 2))) << 1) | bit);

function fitOf(texels: ArrayLike<number>, ends: [number[], number[]]): Fit {
  const palette = WEIGHTS.map((_, i) => [0, 1, 2, 3].map((c) => levelOf(ends[0][c], ends[1][c], i)));
  let error = 0;
  const indices = Array.from({ length: 16 }, (_, t) => {
    let [best, least] = [0, Infinity];
    for (let i = 0; i < 16; i++) {
      let far = 0;
      for (let c = 0; c < 4; c++) far += (palette[i][c] - texels[t * 4 + c]) ** 2;
      if (far < least) [best, least] = [i, far];
    }
    error += least;
    return best;
  });
  return { ends, indices, error };
}

/** The direction in which colours differ most, by a few steps of the power method, and their mean. */
function axisOf(texels: ArrayLike<number>): { mean: number[]; axis: number[] } {
  const mean = [0, 1, 2, 3].map((c) => {
    let sum = 0;
    for (let t = 0; t < 16; t++) sum += texels[t * 4 + c];
    return sum / 16;
  });
  const covariance = [0, 1, 2, 3].map((r) =>
    [0, 1, 2, 3].map((c) => {
      let sum = 0;
      for (let t = 0; t < 16; t++) sum += (texels[t * 4 + r] - mean[r]) * (texels[t * 4 + c] - mean[c]);
      return sum;
    }),
  );
  // Begun with the channel that differs most, it cannot stand across the direction.
  let way = covariance.reduce((most, row, i) => (row[i] > most[covariance.indexOf(most)] ? row : most));
  for (let i = 0; i < 8; i++) {
    const next = covariance.map((row) => row.reduce((sum, v, c) => sum + v * way[c], 0));
    const length = Math.hypot(...next);
    if (length < 1e-9) return { mean, axis: [0, 0, 0, 0] };
    way = next.map((v) => v / length);
  }
  return { mean, axis: way };
}

/** Ends that suit levels as they are given, by least squares. */
function refitted(texels: ArrayLike<number>, indices: readonly number[]): [number[], number[]] | null {
  let [aa, ab, bb] = [0, 0, 0];
  const [av, bv] = [new Array<number>(4).fill(0), new Array<number>(4).fill(0)];
  for (let t = 0; t < 16; t++) {
    const b = WEIGHTS[indices[t]] / 64;
    const a = 1 - b;
    aa += a * a;
    ab += a * b;
    bb += b * b;
    for (let c = 0; c < 4; c++) {
      av[c] += a * texels[t * 4 + c];
      bv[c] += b * texels[t * 4 + c];
    }
  }
  const det = aa * bb - ab * ab;
  if (Math.abs(det) < 1e-9) return null;
  return [av.map((v, c) => (v * bb - bv[c] * ab) / det), bv.map((v, c) => (v * aa - av[c] * ab) / det)];
}

/** The sixteen bytes of a block. @param texels 16 colours of four numbers 0–255, by rows */
export function encodeBc7(texels: ArrayLike<number>, into: Uint8Array, at: number): void {
  const { mean, axis } = axisOf(texels);
  const along = Array.from({ length: 16 }, (_, t) => axis.reduce((sum, v, c) => sum + v * (texels[t * 4 + c] - mean[c]), 0));
  let wanted: [number[], number[]] | null = [Math.min(...along), Math.max(...along)].map((k) => mean.map((m, c) => m + k * axis[c])) as [
    number[],
    number[],
  ];
  let best: Fit | null = null;
  for (let round = 0; round < 3 && wanted; round++) {
    let here: Fit | null = null;
    for (const bits of [0, 1, 2, 3]) {
      const fit = fitOf(texels, [snapped(wanted[0], bits & 1), snapped(wanted[1], bits >> 1)]);
      if (!here || fit.error < here.error) here = fit;
    }
    if (here && (!best || here.error < best.error)) best = here;
    wanted = best && best.error > 0 ? refitted(texels, best.indices) : null;
  }
  let { ends, indices } = best as Fit;
  // The first level is told by three bits: its highest is none.
  if (indices[0] > 7) {
    ends = [ends[1], ends[0]];
    indices = indices.map((i) => 15 - i);
  }
  into.fill(0, at, at + 16);
  let bit = 0;
  const put = (value: number, bits: number) => {
    for (let i = 0; i < bits; i++, bit++) if ((value >> i) & 1) into[at + (bit >> 3)] |= 1 << (bit & 7);
  };
  put(1 << MODE, MODE + 1);
  for (let c = 0; c < 4; c++) for (const end of ends) put(end[c] >> 1, 7);
  for (const end of ends) put(end[0] & 1, 1);
  indices.forEach((index, t) => put(index, t === 0 ? 3 : 4));
}
