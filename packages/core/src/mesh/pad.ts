import type { Image } from '../image';

/** Texels by which what is baked is carried past the rims of its islands. */
export const paddingOf = (size: number): number => Math.max(2, Math.ceil(size / 128));

/**
 * Carries covered texels outwards by a number of texels, each new one taking the value of a neighbour nearest to it. The
 * image is changed where it stands. Gives which texels are covered afterwards.
 */
export function dilate(image: Image, covered: Uint8Array, texels: number): Uint8Array {
  const { width, height, channels, data } = image;
  const have = covered.slice();
  const lone = (i: number) => {
    const x = i % width;
    return (
      (x > 0 && !have[i - 1]) || (x < width - 1 && !have[i + 1]) || (i >= width && !have[i - width]) || (i + width < have.length && !have[i + width])
    );
  };
  // Only what lies beside a gap can fill it.
  let rim: number[] = [];
  for (let i = 0; i < have.length; i++) if (have[i] && lone(i)) rim.push(i);
  for (let step = 0; step < texels && rim.length; step++) {
    const next: number[] = [];
    for (const i of rim) {
      const [x, y] = [i % width, Math.floor(i / width)];
      for (const [dx, dy] of [
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ] as const) {
        const [nx, ny] = [x + dx, y + dy];
        const to = ny * width + nx;
        if (nx < 0 || ny < 0 || nx >= width || ny >= height || have[to]) continue;
        have[to] = 1;
        for (let c = 0; c < channels; c++) data[to * channels + c] = data[i * channels + c];
        next.push(to);
      }
    }
    rim = next;
  }
  return have;
}
