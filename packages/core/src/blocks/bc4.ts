// BC4: one channel, eight bytes for 4 × 4 texels. Source: Khronos Data Format 1.3, section 19.1 (RGTC).

/** What the eight indices mean: two ends and six levels between them where the first is larger; else four between them, and black and white. */
function paletteOf(r0: number, r1: number): number[] {
  const between = (k: number, n: number) => ((n - k) * r0 + k * r1) / n;
  return r0 > r1 ? [r0, r1, ...[1, 2, 3, 4, 5, 6].map((k) => between(k, 7))] : [r0, r1, ...[1, 2, 3, 4].map((k) => between(k, 5)), 0, 255];
}

interface Fit {
  r0: number;
  r1: number;
  indices: number[];
  error: number;
}
function fitOf(values: ArrayLike<number>, r0: number, r1: number): Fit {
  const palette = paletteOf(r0, r1);
  let error = 0;
  const indices = Array.from({ length: 16 }, (_, i) => {
    let best = 0;
    for (let k = 1; k < 8; k++) if (Math.abs(palette[k] - values[i]) < Math.abs(palette[best] - values[i])) best = k;
    error += (palette[best] - values[i]) ** 2;
    return best;
  });
  return { r0, r1, indices, error };
}

/** Ends that suit levels as they are given, by least squares; null where all are alike. */
function refitted(values: ArrayLike<number>, { r0, r1, indices }: Fit): [number, number] | null {
  const [n, levels] = r0 > r1 ? [7, 8] : [5, 6];
  let [aa, ab, bb, av, bv] = [0, 0, 0, 0, 0];
  for (let i = 0; i < 16; i++) {
    if (indices[i] >= levels) continue;
    const b = indices[i] === 0 ? 0 : indices[i] === 1 ? 1 : (indices[i] - 1) / n;
    const a = 1 - b;
    aa += a * a;
    ab += a * b;
    bb += b * b;
    av += a * values[i];
    bv += b * values[i];
  }
  const det = aa * bb - ab * ab;
  if (Math.abs(det) < 1e-9) return null;
  const held = (v: number) => Math.min(255, Math.max(0, Math.round(v)));
  return [held((av * bb - bv * ab) / det), held((bv * aa - av * ab) / det)];
}

/** The eight bytes of a block. @param values 16 numbers 0–255, by rows */
export function encodeBc4(values: ArrayLike<number>, into: Uint8Array, at: number): void {
  const all = Array.from({ length: 16 }, (_, i) => Math.min(255, Math.max(0, values[i])));
  const [low, high] = [Math.round(Math.min(...all)), Math.round(Math.max(...all))];
  const inner = all.filter((v) => v > 0.5 && v < 254.5);
  let best = fitOf(all, high, low);
  const consider = (r0: number, r1: number) => {
    const fit = fitOf(all, r0, r1);
    if (fit.error < best.error) best = fit;
    return fit;
  };
  const refine = (fit: Fit, wide: boolean) => {
    for (let i = 0; i < 3 && best.error > 0; i++) {
      const ends = refitted(all, fit);
      if (!ends) return;
      const [least, most] = [Math.min(...ends), Math.max(...ends)];
      if (wide && least === most) return;
      fit = wide ? consider(most, least) : consider(least, most);
    }
  };
  if (high > low) refine(best, true);
  // Black and white by themselves leave the rest six levels of its own.
  if (inner.length && inner.length < 16) refine(consider(Math.round(Math.min(...inner)), Math.round(Math.max(...inner))), false);
  into[at] = best.r0;
  into[at + 1] = best.r1;
  into.fill(0, at + 2, at + 8);
  best.indices.forEach((index, i) => {
    const bit = i * 3;
    into[at + 2 + (bit >> 3)] |= (index << (bit & 7)) & 255;
    if ((bit & 7) > 5) into[at + 3 + (bit >> 3)] |= index >> (8 - (bit & 7));
  });
}

/** 16 numbers 0–255 of a block, by rows. */
export function decodeBc4(bytes: Uint8Array, at: number, out: Float32Array): void {
  const palette = paletteOf(bytes[at], bytes[at + 1]);
  for (let i = 0; i < 16; i++) {
    const bit = i * 3;
    const two = bytes[at + 2 + (bit >> 3)] | ((bytes[at + 3 + (bit >> 3)] ?? 0) << 8);
    out[i] = palette[(two >> (bit & 7)) & 7];
  }
}
