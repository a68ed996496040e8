import type { Mesh } from './mesh';
import { fillTriangle } from './raster';

/** Colours of a mesh's picture: one for every triangle (`0xrrggbb`), or one for every vertex (rgba, 0–1, as in the file). */
export type MeshColours = { triangles: Uint32Array } | { vertices: Float32Array };

export interface MeshPicture {
  width: number;
  height: number;
  /** RGBA, 8 bit; where nothing is seen it is transparent. */
  data: Uint8ClampedArray<ArrayBuffer>;
  /** Triangle seen at every pixel, −1 for none. */
  triangle: Int32Array;
}

/** Light of the picture: from the left above the eye, over an even share. */
const LIGHT = [-0.42, 0.66, 0.62] as const;
const EVEN = 0.42;

/**
 * Draws a mesh in plain shades, for looking at its form and at what its triangles are. Triangles that come behind the eye
 * are left out.
 * @param clip column-major 4 × 4 from metres to clip space
 * @param eye where it is seen from, for lighting both sides of a face
 */
export function drawMesh(
  mesh: Mesh,
  clip: ArrayLike<number>,
  eye: ArrayLike<number>,
  size: { width: number; height: number },
  colours: MeshColours,
): MeshPicture {
  const { width, height } = size;
  const data = new Uint8ClampedArray(width * height * 4);
  const triangle = new Int32Array(width * height).fill(-1);
  const depth = new Float32Array(width * height).fill(Infinity);
  const count = mesh.position.length / 3;
  const screen = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [mesh.position[i * 3], mesh.position[i * 3 + 1], mesh.position[i * 3 + 2]];
    const w = clip[3] * x + clip[7] * y + clip[11] * z + clip[15];
    screen[i * 3] = w > 0 ? (((clip[0] * x + clip[4] * y + clip[8] * z + clip[12]) / w) * 0.5 + 0.5) * width : NaN;
    screen[i * 3 + 1] = (0.5 - ((clip[1] * x + clip[5] * y + clip[9] * z + clip[13]) / w) * 0.5) * height;
    screen[i * 3 + 2] = w;
  }
  const window = { x0: 0, y0: 0, x1: width, y1: height };
  for (let k = 0; k + 2 < mesh.index.length; k += 3) {
    const [i, j, l] = [mesh.index[k] * 3, mesh.index[k + 1] * 3, mesh.index[k + 2] * 3];
    const corners = [screen[i], screen[i + 1], screen[j], screen[j + 1], screen[l], screen[l + 1]];
    const [wi, wj, wl] = [1 / screen[i + 2], 1 / screen[j + 2], 1 / screen[l + 2]];
    fillTriangle(corners, window, (x, y, a, b, c) => {
      const at = y * width + x;
      const w = 1 / (a * wi + b * wj + c * wl);
      if (w >= depth[at]) return;
      depth[at] = w;
      triangle[at] = k / 3;
      let nx = 0;
      let ny = 0;
      let nz = 0;
      for (const [o, s] of [
        [i, a * wi],
        [j, b * wj],
        [l, c * wl],
      ]) {
        nx += mesh.normal[o] * s;
        ny += mesh.normal[o + 1] * s;
        nz += mesh.normal[o + 2] * s;
      }
      const length = Math.hypot(nx, ny, nz) || 1;
      const side = nx * (eye[0] - mesh.position[i]) + ny * (eye[1] - mesh.position[i + 1]) + nz * (eye[2] - mesh.position[i + 2]) < 0 ? -1 : 1;
      const facing = (side * (nx * LIGHT[0] + ny * LIGHT[1] + nz * LIGHT[2])) / length;
      const shade = EVEN + (1 - EVEN) * Math.max(0, facing) + 0.12 * Math.min(0, facing);
      if ('triangles' in colours) {
        const rgb = colours.triangles[k / 3];
        data[at * 4] = shade * (rgb >>> 16);
        data[at * 4 + 1] = shade * ((rgb >>> 8) & 255);
        data[at * 4 + 2] = shade * (rgb & 255);
      } else
        for (let channel = 0; channel < 3; channel++) {
          const of = (o: number) => colours.vertices[(o / 3) * 4 + channel];
          data[at * 4 + channel] = 255 * shade * w * (of(i) * a * wi + of(j) * b * wj + of(l) * c * wl);
        }
    });
  }
  for (let at = 0; at < triangle.length; at++) data[at * 4 + 3] = triangle[at] < 0 ? 0 : 255;
  return { width, height, data, triangle };
}
