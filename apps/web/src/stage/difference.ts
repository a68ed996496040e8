/** By how much small differences are raised to be seen. */
const GAIN = 4;

/**
 * The picture of the difference of two pictures of one size, raised fourfold, and its largest and mean value in 1/255
 * over all colours.
 */
export function measure(a: ImageData, b: ImageData): { difference: ImageData; most: number; mean: number } {
  const width = Math.min(a.width, b.width);
  const height = Math.min(a.height, b.height);
  const difference = new ImageData(width, height);
  let [most, sum] = [0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [i, j, k] = [(y * a.width + x) * 4, (y * b.width + x) * 4, (y * width + x) * 4];
      for (let c = 0; c < 3; c++) {
        const d = Math.abs(a.data[i + c] - b.data[j + c]);
        if (d > most) most = d;
        sum += d;
        difference.data[k + c] = d * GAIN;
      }
      difference.data[k + 3] = 255;
    }
  return { difference, most, mean: sum / (width * height * 3) };
}
