// Weights of many layers at once: as they meet by height, and as they are stored.

/** Least softness of meeting. */
const SHARPEST = 1 / 64;

/**
 * What each of several layers has of a place, from the shares that rules give them and their heights: a height that stands
 * out takes more, softly. Sums to 1; a share of 0 has no weight; one layer alone has all of it; softness 1 and gain 0 give the shares.
 * @param shares sum to 1, the ground's first; @param heights 0–1 over all layers; @param gain ≥ 0; @param softness 1/64–1
 */
export function meetingWeights(shares: readonly number[], heights: readonly number[], gain: number, softness: number): number[] {
  const s = shares.map((a, i) => a * (1 + gain * heights[i]));
  const most = Math.max(...s);
  if (!(most > 0)) return shares.map((_, i) => (i ? 0 : 1));
  const soft = Math.min(1, Math.max(SHARPEST, softness));
  const b = s.map((v) => Math.min(1, Math.max(0, (v / most - 1 + soft) / soft)) * (v > 0 ? 1 : 0));
  const sum = b.reduce((x, y) => x + y, 0);
  // Softness 1 leaves the ratios of the shares as they are.
  return b.map((v) => v / sum);
}

/**
 * What each layer has where each covers those before it: `cᵢ ∏ (1 − cⱼ)` over the layers above, the first having what is left.
 * Sums to 1 exactly where coverages do not round.
 * @param coverages of the layers over the ground, from the bottom
 */
export function coveringShares(coverages: readonly number[]): number[] {
  const shares = new Array<number>(coverages.length + 1);
  let left = 1;
  for (let i = coverages.length - 1; i >= 0; i--) {
    shares[i + 1] = coverages[i] * left;
    left *= 1 - coverages[i];
  }
  shares[0] = left;
  return shares;
}

/** Layers that a terrain stores at most, and layers a file of weights holds. */
export const MAX_TERRAIN_LAYERS = 16;
export const LAYERS_A_FILE = 4;

/**
 * Shares as bytes that sum to 255 exactly: all are rounded down, and what is missing goes to those that lost most; of those that
 * lost as much, to the first. What has no share gets nothing. Source: Hamilton's method of largest remainders.
 * @param shares ≥ 0, of whatever sum over 0
 */
export function storedWeights(shares: readonly number[], out: Uint8Array = new Uint8Array(shares.length)): Uint8Array {
  let sum = 0;
  for (const s of shares) sum += s;
  if (!(sum > 0)) {
    out.fill(0);
    out[0] = 255;
    return out;
  }
  let left = 255;
  const lost: number[] = new Array<number>(shares.length);
  for (let i = 0; i < shares.length; i++) {
    const exact = (shares[i] / sum) * 255;
    out[i] = Math.floor(exact);
    lost[i] = shares[i] > 0 ? exact - out[i] : -1;
    left -= out[i];
  }
  // Fewer are missing than there are shares: each takes one at most.
  for (; left > 0; left--) {
    let most = 0;
    for (let i = 1; i < lost.length; i++) if (lost[i] > lost[most]) most = i;
    out[most]++;
    lost[most] = -1;
  }
  return out;
}

/** Stored weights of a terrain: bytes of each layer, row by row; at every sample they sum to 255. */
export interface TerrainWeights {
  width: number;
  height: number;
  layers: Uint8Array[];
}

/** Puts shares of one sample among stored weights. */
export function putWeights({ layers }: TerrainWeights, i: number, shares: readonly number[], spare = new Uint8Array(shares.length)): void {
  storedWeights(shares, spare);
  for (let l = 0; l < layers.length; l++) layers[l][i] = spare[l];
}

/** The first sample whose weights do not sum to 255; −1 where all do. */
export function unevenAt({ width, height, layers }: TerrainWeights): number {
  for (let i = 0; i < width * height; i++) {
    let sum = 0;
    for (const layer of layers) sum += layer[i];
    if (sum !== 255) return i;
  }
  return -1;
}

/** Half as many samples each way: means of the four around each, which sum to 255 again. The last of an odd side is by itself. */
export function halvedWeights(weights: TerrainWeights): TerrainWeights {
  const [width, height] = [Math.max(1, weights.width >> 1), Math.max(1, weights.height >> 1)];
  const out: TerrainWeights = { width, height, layers: weights.layers.map(() => new Uint8Array(width * height)) };
  const shares = new Array<number>(weights.layers.length);
  const spare = new Uint8Array(shares.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const x1 = Math.min(weights.width - 1, 2 * x + 1);
      const y1 = Math.min(weights.height - 1, 2 * y + 1);
      for (let l = 0; l < shares.length; l++) {
        const of = weights.layers[l];
        shares[l] = of[2 * y * weights.width + 2 * x] + of[2 * y * weights.width + x1] + of[y1 * weights.width + 2 * x] + of[y1 * weights.width + x1];
      }
      putWeights(out, i, shares, spare);
    }
  return out;
}
