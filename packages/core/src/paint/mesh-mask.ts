import type { MeshHit } from '../mesh/pick';
import { placeAt } from '../mesh/pick';
import type { Brush, StrokeAim } from './brush';
import { patchNoise } from './brush';
import type { Dabbed } from './brushing';
import type { MaskDepth } from './mask-sheet';
import { MaskSheet } from './mask-sheet';
import type { UnwrappedMesh } from './mesh-texels';
import { MeshTexels } from './mesh-texels';
import { Stroke } from './stroke';

/** Share of the radius that is one cell of what smoothing looks at. */
const AROUND = 0.25;

/**
 * Paints a mask in the texture coordinates of a mesh. A dab reaches the texels of what lies within its radius in metres and is
 * connected to its middle within it, wherever these lie on the texture; so islands meet without a step. What lies beside the
 * islands takes the value of the nearest texel that does not.
 */
export class MeshMaskPainter implements Dabbed {
  readonly sheet: MaskSheet;
  private readonly texels: MeshTexels;
  private limit: Float32Array | null = null;
  private here = { x: 0, y: 0, z: 0, limit: 1 };

  /**
   * @param data values a texel as they are stored
   * @throws RangeError when there are not as many as texels, or the mesh has no such coordinates
   */
  constructor(
    private readonly mesh: UnwrappedMesh,
    width: number,
    height: number,
    data: ArrayLike<number>,
    depth: MaskDepth = 8,
  ) {
    this.sheet = new MaskSheet(width, height, depth, data);
    this.texels = new MeshTexels(mesh, width, height);
  }
  /** Finds the rims of islands, which the first dab would wait for. */
  prepare = (): void => void this.texels.rims();

  /** @param limit share of every vertex that may be painted */
  begin(brush: Brush, aim: StrokeAim, limit: Float32Array | null = null): void {
    this.sheet.cancel();
    this.limit = limit;
    const { here } = this;
    // Asked for while the texel is reached.
    const noise = () => patchNoise(brush.broken, here.x, here.y, here.z);
    this.sheet.stroke = new Stroke(brush, aim, { noise, ...(limit ? { limit: () => here.limit } : {}) });
  }

  /** One dab of the stroke that was begun. Gives how many texels it reached. */
  dab(place: MeshHit, pressure: number): number {
    const { sheet, texels, limit, here } = this;
    const { stroke } = sheet;
    if (!stroke) return 0;
    const { radiusM } = stroke.brush;
    const { index } = this.mesh;
    const [x, y, z] = placeAt(this.mesh, place);
    const triangles = texels.connected(place.triangle, x, y, z, radiusM);
    const around = stroke.aim === 'smooth' ? this.means(triangles, x, y, z, radiusM) : null;
    const changed = new Set<number>();
    let reached = 0;
    for (const t of triangles)
      texels.within(t, x, y, z, radiusM, (texel) => {
        reached++;
        [here.x, here.y, here.z] = [texel.x, texel.y, texel.z];
        if (limit) here.limit = texel.shares.reduce((sum, share, k) => sum + share * limit[index[t * 3 + k]], 0);
        if (sheet.reach(texel.at, texel.away, pressure, () => around?.(here.x, here.y, here.z) ?? 0)) changed.add(texels.squareOf(texel.at));
      });
    this.carry(changed);
    return reached;
  }
  private carry(squares: Iterable<number>): void {
    const { sheet } = this;
    this.texels.carry(squares, (to, from) => {
      if (sheet.now[to] !== sheet.now[from]) sheet.put(to, sheet.now[from]);
    });
  }

  /** Means over small boxes in space of what was there before the stroke, mixed from box to box. */
  private means(triangles: readonly number[], x: number, y: number, z: number, radius: number): (px: number, py: number, pz: number) => number {
    const { before, full } = this.sheet;
    const cell = radius * AROUND;
    const sums = new Map<number, [number, number]>();
    const key = (i: number, j: number, k: number) => ((i + 512) * 1024 + (j + 512)) * 1024 + (k + 512);
    for (const t of triangles)
      this.texels.within(t, x, y, z, radius, ({ at, x: px, y: py, z: pz }) => {
        const box = key(Math.floor((px - x) / cell), Math.floor((py - y) / cell), Math.floor((pz - z) / cell));
        const known = sums.get(box);
        if (known) {
          known[0] += before[at];
          known[1]++;
        } else sums.set(box, [before[at], 1]);
      });
    return (px, py, pz) => {
      const [u, v, w] = [(px - x) / cell - 0.5, (py - y) / cell - 0.5, (pz - z) / cell - 0.5];
      const [i, j, k] = [Math.floor(u), Math.floor(v), Math.floor(w)];
      let [sum, weight] = [0, 0];
      for (let corner = 0; corner < 8; corner++) {
        const [di, dj, dk] = [corner & 1, (corner >> 1) & 1, corner >> 2];
        const known = sums.get(key(i + di, j + dj, k + dk));
        if (!known) continue;
        const share = (di ? u - i : 1 - u + i) * (dj ? v - j : 1 - v + j) * (dk ? w - k : 1 - w + k);
        sum += (share * known[0]) / known[1];
        weight += share;
      }
      return weight > 0 ? sum / (weight * full) : 0;
    };
  }

  /** As it is shown now, as it is stored. */
  bytesNow = (): MaskSheet['now'] => this.sheet.now.slice();

  /** Puts values 0–1 that are known at vertices on all texels of the mesh, and past its rims: a rule as paint. */
  putValues(values: Float32Array): void {
    const { sheet, texels } = this;
    const { index } = this.mesh;
    const filled = new Float32Array(sheet.now.length);
    texels.every((at, t, a, b, c) => (filled[at] = values[index[t * 3]] * a + values[index[t * 3 + 1]] * b + values[index[t * 3 + 2]] * c));
    const { to, from } = texels.rims();
    for (let k = 0; k < to.length; k++) filled[to[k]] = filled[from[k]];
    sheet.all((_, at) => Math.min(1, Math.max(0, filled[at])));
  }
}
