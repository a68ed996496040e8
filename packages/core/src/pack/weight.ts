/** How many bytes a picture takes in a file, drawn small and half as small. */
export interface PictureWeight {
  /** Side in pixels at which it was drawn. */
  size: number;
  bytes: number;
  /** Bytes at half the side. */
  half: number;
}

/** What bytes a pixel become, at most and at least, from one size to twice that size. */
const TREND = { least: 0.4, most: 1.1 };

/**
 * Bytes that it will take at another size. The larger a picture of the same is, the smoother it is from pixel to pixel, so that
 * a pixel takes less: by as much from one doubling to the next as it did from half the size to this one.
 */
export function weightAt({ size, bytes, half }: PictureWeight, width: number, height: number): number {
  const doublings = Math.log2(Math.sqrt(width * height) / size);
  const trend = Math.min(TREND.most, Math.max(TREND.least, bytes / Math.max(1, 4 * half)));
  return Math.round(((bytes * width * height) / size ** 2) * trend ** doublings);
}
