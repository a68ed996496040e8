import type { Mesh } from './mesh';
import { triangleArea } from './mesh';

/** Mean distance from vertex to vertex, in metres: √(area / vertices). */
export function vertexSpacing(mesh: Mesh): number {
  let area = 0;
  for (let k = 0; k < mesh.index.length; k += 3) area += triangleArea(mesh, k);
  return Math.sqrt(area / (mesh.position.length / 3));
}

/**
 * Positions of a mesh moved along its normals by heights in metres. Vertices at one place, as where charts meet, move
 * together by their mean, so that no crack opens.
 */
export function displaced({ position, normal }: Mesh, heights: Float32Array): Float32Array {
  const places = new Map<string, number[]>();
  for (let i = 0; i < heights.length; i++) {
    const key = [0, 1, 2].map((c) => Math.round(position[i * 3 + c] * 20000)).join();
    const there = places.get(key);
    if (there) there.push(i);
    else places.set(key, [i]);
  }
  const out = position.slice();
  for (const group of places.values()) {
    const move = [0, 0, 0];
    for (const i of group) for (let c = 0; c < 3; c++) move[c] += (normal[i * 3 + c] * heights[i]) / group.length;
    for (const i of group) for (let c = 0; c < 3; c++) out[i * 3 + c] += move[c];
  }
  return out;
}
