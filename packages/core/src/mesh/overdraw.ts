import { vec4 } from 'gl-matrix';
import type { Orbit } from './camera';
import { clipMatrix } from './camera';
import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** How often a pixel is drawn where something is drawn at all, and the most of any. */
export interface Overdraw {
  mean: number;
  most: number;
}

/**
 * Counts how often each pixel of a picture is drawn by a mesh that shows what is behind it: front and back faces, whatever
 * lies in front of what. Triangles that reach behind the eye are left out.
 * @param side of the picture in pixels
 */
export function overdrawOf({ position, index }: Pick<Mesh, 'position' | 'index'>, orbit: Orbit, side = 96): Overdraw {
  const clip = clipMatrix(orbit, 1);
  const count = position.length / 3;
  const screen = new Float64Array(count * 2);
  const behind = new Uint8Array(count);
  const at = vec4.create();
  for (let i = 0; i < count; i++) {
    vec4.transformMat4(at, [position[i * 3], position[i * 3 + 1], position[i * 3 + 2], 1], clip);
    behind[i] = at[3] <= 0 ? 1 : 0;
    screen[i * 2] = ((at[0] / at[3]) * 0.5 + 0.5) * side;
    screen[i * 2 + 1] = (0.5 - (at[1] / at[3]) * 0.5) * side;
  }
  const times = new Uint16Array(side * side);
  const window = { x0: 0, y0: 0, x1: side, y1: side };
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, c] = [index[t], index[t + 1], index[t + 2]];
    if (behind[a] || behind[b] || behind[c]) continue;
    const corners = [screen[a * 2], screen[a * 2 + 1], screen[b * 2], screen[b * 2 + 1], screen[c * 2], screen[c * 2 + 1]];
    fillTriangle(corners, window, (x, y) => times[y * side + x]++);
  }
  let [sum, seen, most] = [0, 0, 0];
  for (const n of times)
    if (n) {
      sum += n;
      seen++;
      if (n > most) most = n;
    }
  return { mean: seen ? sum / seen : 0, most };
}
