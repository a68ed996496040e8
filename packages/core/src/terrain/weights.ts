// Weights of many layers at once, as they are stored.

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
