import type { Image } from './buffer';
import { makeSamples } from './buffer';
import { resize } from './resize';
import { decodeTable, srgbByte } from './srgb';

/** Number of levels of a full chain: `floor(log2(longer side)) + 1`. */
export const mipCount = (width: number, height: number): number => Math.floor(Math.log2(Math.max(width, height))) + 1;

/** A full mip chain down to 1×1, level 0 being the image itself; each level is the area-true half of the one above. */
export function mipChain(image: Image): Image[] {
  const levels = [image];
  for (let l = 1; l < mipCount(image.width, image.height); l++) {
    const above = levels[l - 1];
    // 16-bit colour is rare enough to take the general way.
    const even = above.width % 2 === 0 && above.height % 2 === 0 && !(above.depth !== 8 && above.colourSpace === 'srgb');
    levels.push(even ? halve(above) : resize(above, Math.max(1, above.width >> 1), Math.max(1, above.height >> 1)));
  }
  return levels;
}

/** The area-true half of an image with even sides: what `resize` gives, without its weights. */
function halve(image: Image): Image {
  const { channels: k, depth, data } = image;
  const width = image.width >> 1;
  const height = image.height >> 1;
  const out = makeSamples(depth, width * height * k);
  const row = image.width * k;
  const table = image.colourSpace === 'srgb' && depth === 8 ? decodeTable(8, true) : null;
  const round = depth === 32 ? 0 : 0.5;
  for (let c = 0; c < k; c++) {
    const curve = (k === 4 && c === 3) || (k === 2 && c === 1) ? null : table;
    for (let y = 0, o = c; y < height; y++)
      for (let x = 0, i = 2 * y * row + c; x < width; x++, i += 2 * k, o += k)
        out[o] = curve
          ? srgbByte((curve[data[i]] + curve[data[i + k]] + curve[data[i + row]] + curve[data[i + row + k]]) / 4)
          : (data[i] + data[i + k] + data[i + row] + data[i + row + k]) / 4 + round;
  }
  return { ...image, width, height, data: out };
}

/**
 * A mip chain of tangent-space normals stored as `n · ½ + ½`: every level is averaged and renormalised,
 * so that far mips stay unit vectors. Two-channel images keep x and y of the renormalised vector.
 */
export function normalMipChain(image: Image): Image[] {
  return mipChain(image).map((level, l) => (l === 0 ? level : renormalise(level)));
}

function renormalise(level: Image): Image {
  const { channels, depth } = level;
  const full = depth === 8 ? 255 : depth === 16 ? 65535 : 1;
  // Whole samples take what is before the point.
  const round = depth === 32 ? 0 : 0.5;
  const data = makeSamples(depth, level.data.length);
  for (let i = 0; i < data.length; i += channels) {
    const x = (level.data[i] / full) * 2 - 1;
    const y = (level.data[i + 1] / full) * 2 - 1;
    const z = channels >= 3 ? (level.data[i + 2] / full) * 2 - 1 : Math.sqrt(Math.max(0.0025, 1 - x * x - y * y));
    // Not hypot, which is ten times slower and guards against sizes that do not occur.
    const inv = 0.5 / Math.max(1e-6, Math.sqrt(x * x + y * y + z * z));
    data[i] = (x * inv + 0.5) * full + round;
    data[i + 1] = (y * inv + 0.5) * full + round;
    if (channels > 2) data[i + 2] = (z * inv + 0.5) * full + round;
    if (channels > 3) data[i + 3] = level.data[i + 3];
  }
  return { ...level, data };
}

/** A level of a height chain: mean height and the standard deviation of the heights below it, both 0–1. */
export interface HeightLevel {
  width: number;
  height: number;
  mean: Float32Array;
  spread: Float32Array;
}

/**
 * The chain that seams need when seen from afar: mean and standard deviation per mip, from the first two moments
 * (`s² = E[h²] − E[h]²`). Level 0 has spread 0.
 */
export function heightChain(image: Image): HeightLevel[] {
  const full = image.depth === 8 ? 255 : image.depth === 16 ? 65535 : 1;
  const n = image.width * image.height;
  const moments = new Float32Array(n * 2);
  for (let i = 0; i < n; i++) {
    const h = image.data[i * image.channels] / full;
    moments[i * 2] = h;
    moments[i * 2 + 1] = h * h;
  }
  const chain = mipChain({ width: image.width, height: image.height, channels: 2, depth: 32, colourSpace: 'data', data: moments });
  return chain.map((level, l) => {
    const count = level.width * level.height;
    const mean = new Float32Array(count);
    const spread = new Float32Array(count);
    for (let i = 0; i < count; i++) {
      mean[i] = level.data[i * 2];
      // Below about 3e-4 the difference of moments is float noise, not relief.
      spread[i] = l === 0 ? 0 : Math.sqrt(Math.max(0, level.data[i * 2 + 1] - mean[i] * mean[i]));
    }
    return { width: level.width, height: level.height, mean, spread };
  });
}
