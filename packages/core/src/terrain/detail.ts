// A terrain as fine as it is seen.
import type { Mesh, Vector } from '../mesh/mesh';
import type { Heightfield } from './heightfield';
import { bendAt, fieldUv, gradientAt } from './heightfield';

/** From where it is seen: how many pixels a metre has at a metre from the eye, and how far off a vertex may be. */
export interface DetailSight {
  eye: Vector;
  pixelsPerMetre: number;
  tolerancePx: number;
}
/** Triangles up to which a terrain is drawn; the tolerance grows where there would be more. */
const MOST_TRIANGLES = 220_000;

/**
 * A heightfield cut into right-angled triangles, finer where leaving a vertex out would be seen. A vertex is in whenever its error,
 * and that of all that hangs on it, is more than a tolerance seen from the eye; as errors and the balls that they are looked at in
 * enclose those of everything finer, no crack can open between coarse and fine. Source: Lindstrom & Pascucci, "Visualization of
 * Large Terrains Made Easy", 2001, on the triangles of Evans, Kirkpatrick & Townsend, "Right-Triangulated Irregular Networks", 2001.
 */
export class TerrainDetail {
  /** The grid is square, of 2^n cells a side; fields of other sizes are read between samples. */
  readonly side: number;
  private readonly altitude: Float32Array;
  private readonly errors: Float32Array;
  private readonly radii: Float32Array;
  private readonly stepX: number;
  private readonly stepZ: number;

  /** @param footM altitude of the mesh's origin */
  constructor(
    private readonly field: Heightfield,
    private readonly footM = 0,
  ) {
    const { width, height, spacingM } = field;
    const cells = 2 ** Math.max(2, Math.ceil(Math.log2(Math.max(width, height) - 1)));
    this.side = cells + 1;
    [this.stepX, this.stepZ] = [(spacingM * (width - 1)) / cells, (spacingM * (height - 1)) / cells];
    this.altitude = new Float32Array(this.side * this.side);
    for (let y = 0, i = 0; y < this.side; y++)
      for (let x = 0; x < this.side; x++, i++) this.altitude[i] = altitudeAt(field, (x / cells) * (width - 1), (y / cells) * (height - 1)) - footM;
    this.errors = new Float32Array(this.side * this.side);
    this.radii = new Float32Array(this.side * this.side);
    this.findErrors();
  }

  private readonly at = (x: number, y: number): number => y * this.side + x;

  /** Errors and balls from the finest triangles up. */
  private findErrors(): void {
    const { side, altitude, errors, radii } = this;
    const cells = side - 1;
    const smallest = cells * cells * 2 - 2;
    const coarse = smallest - cells * cells;
    for (let i = smallest - 1; i >= 0; i--) {
      // The corners of a triangle follow from its number: each bit below the first goes into its left or right half.
      let id = i + 2;
      let [ax, ay, bx, by, cx, cy] = [0, 0, 0, 0, 0, 0];
      if (id & 1) bx = by = cx = cells;
      else ax = ay = cy = cells;
      while ((id >>= 1) > 1) {
        const [mx, my] = [(ax + bx) >> 1, (ay + by) >> 1];
        if (id & 1) [bx, by, ax, ay] = [ax, ay, cx, cy];
        else [ax, ay, bx, by] = [bx, by, cx, cy];
        [cx, cy] = [mx, my];
      }
      const [mx, my] = [(ax + bx) >> 1, (ay + by) >> 1];
      const middle = this.at(mx, my);
      const own = Math.abs((altitude[this.at(ax, ay)] + altitude[this.at(bx, by)]) / 2 - altitude[middle]);
      if (own > errors[middle]) errors[middle] = own;
      if (i >= coarse) continue;
      for (const [px, py] of [
        [ax, ay],
        [bx, by],
      ]) {
        const [hx, hy] = [(px + cx) >> 1, (py + cy) >> 1];
        const half = this.at(hx, hy);
        if (errors[half] > errors[middle]) errors[middle] = errors[half];
        const away = Math.hypot((hx - mx) * this.stepX, altitude[half] - altitude[middle], (hy - my) * this.stepZ) + radii[half];
        if (away > radii[middle]) radii[middle] = away;
      }
    }
  }

  /** Where a vertex of the grid lies, in metres around the middle. */
  private place(x: number, y: number): Vector {
    const middle = (this.side - 1) / 2;
    return [(x - middle) * this.stepX, this.altitude[this.at(x, y)], (y - middle) * this.stepZ];
  }

  /** Numbers of the grid's vertices by triangle, three a triangle, for a sight. */
  private cut({ eye, pixelsPerMetre, tolerancePx }: DetailSight): Uint32Array {
    const { errors, radii } = this;
    const cells = this.side - 1;
    const out: number[] = [];
    const active = (x: number, y: number): boolean => {
      const i = this.at(x, y);
      if (!(errors[i] > 0)) return false;
      const [px, py, pz] = this.place(x, y);
      const away = Math.hypot(px - eye[0], py - eye[1], pz - eye[2]) - radii[i];
      return away <= 0 || errors[i] * pixelsPerMetre > tolerancePx * away;
    };
    const split = (ax: number, ay: number, bx: number, by: number, cx: number, cy: number): void => {
      const [mx, my] = [(ax + bx) >> 1, (ay + by) >> 1];
      if (Math.abs(ax - cx) + Math.abs(ay - cy) > 1 && active(mx, my)) {
        split(cx, cy, ax, ay, mx, my);
        split(bx, by, cx, cy, mx, my);
      } else out.push(this.at(ax, ay), this.at(bx, by), this.at(cx, cy));
    };
    split(0, 0, cells, cells, cells, 0);
    split(cells, cells, 0, 0, 0, cells);
    return Uint32Array.from(out);
  }

  /**
   * The mesh for a sight, with the normals of the ground itself, so that coarse parts are lit like fine ones; texture coordinates in
   * metres, those of what is painted in the first set. No vertex that is left out would lie farther off than the tolerance, which is
   * given back: it is larger than asked for where there would be too many triangles.
   */
  mesh(sight: DetailSight): { mesh: Mesh & Required<Pick<Mesh, 'uv1' | 'uv2' | 'curvature'>>; tolerancePx: number } {
    let { tolerancePx } = sight;
    let grid = this.cut(sight);
    while (grid.length / 3 > MOST_TRIANGLES) grid = this.cut({ ...sight, tolerancePx: (tolerancePx *= 1.5) });
    const { field } = this;
    const known = new Map<number, number>();
    const index = new Uint32Array(grid.length);
    const vertices: number[] = [];
    for (let k = 0; k < grid.length; k++) {
      let v = known.get(grid[k]);
      if (v === undefined) {
        known.set(grid[k], (v = vertices.length));
        vertices.push(grid[k]);
      }
      index[k] = v;
    }
    const n = vertices.length;
    const mesh = {
      position: new Float32Array(n * 3),
      normal: new Float32Array(n * 3),
      tangent: new Float32Array(n * 4),
      texcoord: new Float32Array(n * 2),
      geomcolor: new Float32Array(n * 4).fill(1),
      curvature: new Float32Array(n),
      uv1: new Float32Array(n * 2),
      uv2: new Float32Array(0),
      index,
    };
    const cells = this.side - 1;
    for (const [i, v] of vertices.entries()) {
      const [x, y] = [v % this.side, Math.floor(v / this.side)];
      const [px, py, pz] = this.place(x, y);
      // The nearest sample says how the ground lies there.
      const [sx, sy] = [(x / cells) * (field.width - 1), (y / cells) * (field.height - 1)];
      const [nx, ny] = [Math.round(sx), Math.round(sy)];
      const [dx, dz] = gradientAt(field, nx, ny);
      const [long, along] = [Math.hypot(dx, 1, dz), Math.hypot(1, dx)];
      mesh.position.set([px, py, pz], i * 3);
      mesh.normal.set([-dx / long, 1 / long, -dz / long], i * 3);
      mesh.tangent.set([1 / along, dx / along, 0, 1], i * 4);
      mesh.texcoord.set([px, pz], i * 2);
      mesh.curvature[i] = bendAt(field, nx, ny);
      mesh.uv1.set(fieldUv(field, sx, sy), i * 2);
    }
    mesh.uv2 = mesh.uv1;
    return { mesh, tolerancePx };
  }

  /** Altitude over the origin at a place in metres around the middle; null beside the ground. */
  heightAt(x: number, z: number): number | null {
    const { width, height, spacingM } = this.field;
    const [sx, sy] = [x / spacingM + (width - 1) / 2, z / spacingM + (height - 1) / 2];
    return sx < 0 || sy < 0 || sx > width - 1 || sy > height - 1 ? null : altitudeAt(this.field, sx, sy) - this.footM;
  }
}

/** Altitude between samples. */
function altitudeAt({ width, height, altitude }: Heightfield, x: number, y: number): number {
  const [i, j] = [Math.min(Math.max(0, width - 2), Math.floor(x)), Math.min(Math.max(0, height - 2), Math.floor(y))];
  const [dx, dy] = [x - i, y - j];
  const at = (k: number, l: number) => altitude[Math.min(height - 1, j + l) * width + Math.min(width - 1, i + k)];
  const row = (l: number) => at(0, l) + (at(1, l) - at(0, l)) * dx;
  return row(0) + (row(1) - row(0)) * dy;
}
