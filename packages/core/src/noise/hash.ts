/** One round of PCG-RXS-M-XS on a 32-bit word. Source: Jarzynski & Olano, "Hash Functions for GPU Rendering", 2020. */
export function pcg(v: number): number {
  const state = (Math.imul(v, 747796405) + 2891336453) >>> 0;
  const word = Math.imul((state >>> ((state >>> 28) + 4)) ^ state, 277803737) >>> 0;
  return ((word >>> 22) ^ word) >>> 0;
}

const stir = (v: number): number => (Math.imul(v, 1664525) + 1013904223) | 0;

/** First random word (32 bits, unsigned) of a lattice point and a seed. Source: "pcg3d", Jarzynski & Olano 2020. */
export function hash3(x: number, y: number, seed: number): number {
  x = stir(x);
  y = stir(y);
  let z = stir(seed);
  x = (x + Math.imul(y, z)) | 0;
  y = (y + Math.imul(z, x)) | 0;
  z = (z + Math.imul(x, y)) | 0;
  x ^= x >>> 16;
  y ^= y >>> 16;
  z ^= z >>> 16;
  return (x + Math.imul(y, z)) >>> 0;
}

/** The top 24 bits as a real number in [0, 1): exact in float32, so the GPU sees the same value. */
export const unit = (hash: number): number => (hash >>> 8) * (1 / 16777216);

/** A stream of unsigned 32-bit numbers from a seed. */
export function makeRandom(seed: number): () => number {
  let state = seed >>> 0;
  return () => unit((state = pcg((state + 0x9e3779b9) >>> 0)));
}
