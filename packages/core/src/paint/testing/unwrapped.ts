// Meshes whose texels have one place each, for tests.
import type { Mesh } from '../../mesh';

export type Vector = readonly [number, number, number];
export type Unwrapped = Pick<Mesh, 'position' | 'index'> & { uv: Float32Array };

/** A mesh of quads: corners in space, in order around, and where they lie on the texture. */
export function quads(list: readonly { at: readonly Vector[]; uv: readonly (readonly [number, number])[] }[]): Unwrapped {
  const position = new Float32Array(list.flatMap((q) => q.at.flatMap((p) => [...p])));
  const uv = new Float32Array(list.flatMap((q) => q.uv.flatMap((p) => [...p])));
  const index = new Uint32Array(list.flatMap((_, i) => [0, 1, 2, 0, 2, 3].map((k) => i * 4 + k)));
  return { position, index, uv };
}
/** A level square of two metres that fills the texture. */
export const square = quads([
  {
    at: [
      [-1, 0, -1],
      [-1, 0, 1],
      [1, 0, 1],
      [1, 0, -1],
    ],
    uv: [
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 0],
    ],
  },
]);
/** A cube of a metre, each side an island of its own with room around it, every other one turned by a quarter. */
export function cube(): Unwrapped {
  const sides: Vector[][] = [];
  for (const axis of [0, 1, 2])
    for (const far of [-0.5, 0.5]) {
      const [p, q] = [(axis + 1) % 3, (axis + 2) % 3];
      const ring = [
        [-0.5, -0.5],
        [0.5, -0.5],
        [0.5, 0.5],
        [-0.5, 0.5],
      ].map(([a, b]) => {
        const at = [0, 0, 0];
        [at[axis], at[p], at[q]] = [far, a, b];
        return at as unknown as Vector;
      });
      sides.push(far > 0 ? ring : ring.reverse());
    }
  return quads(
    sides.map((at, i) => {
      const [u, v] = [(i % 3) / 3, Math.floor(i / 3) / 2];
      const [w, h] = [0.29, 0.44];
      const around: [number, number][] = [
        [u + 0.02, v + 0.03],
        [u + 0.02 + w, v + 0.03],
        [u + 0.02 + w, v + 0.03 + h],
        [u + 0.02, v + 0.03 + h],
      ];
      return { at, uv: [0, 1, 2, 3].map((k) => around[(k + (i % 2)) % 4]) };
    }),
  );
}
/** The cube in small pieces, dented all over. */
export function lump(n = 12): Unwrapped {
  const { position, uv } = cube();
  const mixed = (of: Float32Array, first: number, width: number, s: number, t: number) =>
    Array.from({ length: width }, (_, c) => {
      const at = (k: number) => of[(first + k) * width + c];
      return at(0) * (1 - s) * (1 - t) + at(1) * s * (1 - t) + at(2) * s * t + at(3) * (1 - s) * t;
    });
  const bent = ([x, y, z]: number[]): Vector => {
    const by = (1 + 0.2 * Math.sin(5 * x + 1) * Math.cos(7 * y) + 0.1 * Math.sin(9 * z)) / (0.6 + Math.hypot(x, y, z));
    return [x * by, y * by, z * by];
  };
  const pieces = Array.from({ length: 6 * n * n }, (_, i) => {
    const [side, s, t] = [Math.floor(i / (n * n)) * 4, Math.floor(i / n) % n, i % n];
    const corners = [
      [s, t],
      [s + 1, t],
      [s + 1, t + 1],
      [s, t + 1],
    ];
    return {
      at: corners.map(([a, b]) => bent(mixed(position, side, 3, a / n, b / n))),
      uv: corners.map(([a, b]) => mixed(uv, side, 2, a / n, b / n) as [number, number]),
    };
  });
  return quads(pieces);
}
/** A tube of a metre and a radius of a third, whose seam runs up one side. */
export function tube(sides = 48): Unwrapped {
  return quads(
    Array.from({ length: sides }, (_, i) => {
      const at = (k: number, y: number): Vector => [Math.cos((k / sides) * 2 * Math.PI) / 3, y, Math.sin((k / sides) * 2 * Math.PI) / 3];
      const u = (k: number) => 0.05 + (0.9 * k) / sides;
      return {
        at: [at(i, 0), at(i, 1), at(i + 1, 1), at(i + 1, 0)],
        uv: [
          [u(i), 0.6],
          [u(i), 0.1],
          [u(i + 1), 0.1],
          [u(i + 1), 0.6],
        ],
      };
    }),
  );
}
