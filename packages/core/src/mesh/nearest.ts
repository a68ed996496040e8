// Where a triangle is nearest to a place.

/**
 * The place of a triangle nearest to one in space: shares of its corners, and the square of the distance.
 * Source: Ericson, Real-Time Collision Detection, 5.1.5.
 */
export function nearestOn(
  position: Float32Array,
  index: Uint32Array,
  t: number,
  x: number,
  y: number,
  z: number,
): { shares: [number, number, number]; away2: number } {
  const [a, b, c] = [index[t * 3] * 3, index[t * 3 + 1] * 3, index[t * 3 + 2] * 3];
  const [abx, aby, abz] = [position[b] - position[a], position[b + 1] - position[a + 1], position[b + 2] - position[a + 2]];
  const [acx, acy, acz] = [position[c] - position[a], position[c + 1] - position[a + 1], position[c + 2] - position[a + 2]];
  const from = (v: number): [number, number, number] => [x - position[v], y - position[v + 1], z - position[v + 2]];
  const made = (u: number, v: number, w: number) => {
    const dx = x - (position[a] * u + position[b] * v + position[c] * w);
    const dy = y - (position[a + 1] * u + position[b + 1] * v + position[c + 1] * w);
    const dz = z - (position[a + 2] * u + position[b + 2] * v + position[c + 2] * w);
    return { shares: [u, v, w] as [number, number, number], away2: dx * dx + dy * dy + dz * dz };
  };
  const [apx, apy, apz] = from(a);
  const [d1, d2] = [abx * apx + aby * apy + abz * apz, acx * apx + acy * apy + acz * apz];
  if (d1 <= 0 && d2 <= 0) return made(1, 0, 0);
  const [bpx, bpy, bpz] = from(b);
  const [d3, d4] = [abx * bpx + aby * bpy + abz * bpz, acx * bpx + acy * bpy + acz * bpz];
  if (d3 >= 0 && d4 <= d3) return made(0, 1, 0);
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) {
    const v = d1 / (d1 - d3 || 1);
    return made(1 - v, v, 0);
  }
  const [cpx, cpy, cpz] = from(c);
  const [d5, d6] = [abx * cpx + aby * cpy + abz * cpz, acx * cpx + acy * cpy + acz * cpz];
  if (d6 >= 0 && d5 <= d6) return made(0, 0, 1);
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) {
    const w = d2 / (d2 - d6 || 1);
    return made(1 - w, 0, w);
  }
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6) || 1);
    return made(0, 1 - w, w);
  }
  const sum = va + vb + vc || 1;
  return made(va / sum, vb / sum, vc / sum);
}
