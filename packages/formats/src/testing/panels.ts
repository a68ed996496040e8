import type { Part } from '@pebble/core';

/** An upright square of a metre that faces +z, over all of its texture. @param x where it begins, in metres */
export function panel(slot: string, x: number, over: Partial<Part> = {}): Part {
  const corners = [0, 1, 2, 3].map((i) => [i % 2, i >> 1] as const);
  const texcoord = new Float32Array(corners.flatMap(([u, v]) => [u, 1 - v]));
  return {
    name: `${slot} panel`,
    slot,
    sets: [texcoord],
    mesh: {
      position: new Float32Array(corners.flatMap(([u, v]) => [x + u, v, 0])),
      normal: new Float32Array(corners.flatMap(() => [0, 0, 1])),
      tangent: new Float32Array(corners.flatMap(() => [1, 0, 0, 1])),
      texcoord,
      geomcolor: new Float32Array(16).fill(1),
      index: Uint32Array.of(0, 1, 3, 0, 3, 2),
    } as Part['mesh'],
    ...over,
  };
}
