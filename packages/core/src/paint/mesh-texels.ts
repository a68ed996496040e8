import type { Mesh } from '../mesh/mesh';
import { nearestOn } from '../mesh/nearest';
import { paddingOf } from '../mesh/pad';
import { fillTriangle } from '../mesh/raster';
import { placesOf } from './neighbours';

/** Texels in a square of those whose rims are carried on together. */
const CELL = 64;

/** A mesh with the coordinates that a picture lies over: u right, v down, the picture repeating from 0 to 1. */
export type UnwrappedMesh = Pick<Mesh, 'position' | 'index'> & { uv: Float32Array };

/** What lies beside the islands. */
interface Rims {
  /** Texels that touch a triangle, by the triangle: they are painted as if it went on, so that reading between texels meets at seams. */
  skirt: { first: Uint32Array; columns: Int32Array; rows: Int32Array };
  /** Texels farther out, each with the nearest that is painted, by the square of the latter. */
  first: Uint32Array;
  to: Uint32Array;
  from: Uint32Array;
}

/** A texel of the mesh: where it lies on the picture, its triangle and the shares of that's corners, which may lie beside it. */
export interface Texel {
  at: number;
  triangle: number;
  shares: [number, number, number];
  x: number;
  y: number;
  z: number;
  /** Metres to the middle of what reached it. */
  away: number;
}

/** Texels of a picture over a mesh, by where these lie in space. */
export class MeshTexels {
  private readonly columns: number;
  private readonly place: Uint32Array;
  /** Triangles around each place. */
  private readonly first: Uint32Array;
  private readonly around: Uint32Array;
  private readonly seen: Uint32Array;
  private readonly seenPlace: Uint32Array;
  private visit = 0;
  private known: Rims | null = null;

  /** @throws RangeError where the mesh has no such coordinates */
  constructor(
    readonly mesh: UnwrappedMesh,
    readonly width: number,
    readonly height: number,
  ) {
    this.columns = Math.ceil(width / CELL);
    const { position, index, uv } = mesh;
    if (uv.length < (position.length / 3) * 2) throw new RangeError('The mesh has no such set of texture coordinates');
    this.place = placesOf(mesh);
    const places = position.length / 3;
    this.first = new Uint32Array(places + 1);
    for (const v of index) this.first[this.place[v] + 1]++;
    for (let i = 1; i <= places; i++) this.first[i] += this.first[i - 1];
    this.around = new Uint32Array(index.length);
    const next = this.first.slice();
    for (let k = 0; k < index.length; k++) this.around[next[this.place[index[k]]]++] = Math.floor(k / 3);
    this.seen = new Uint32Array(index.length / 3);
    this.seenPlace = new Uint32Array(places);
  }

  /** What lies beside the islands, found when it is first asked for. */
  rims = (): Rims => (this.known ??= this.findRims());

  /** Triangles within a radius of a place that are joined to one of them within it. */
  connected(triangle: number, x: number, y: number, z: number, radius: number): number[] {
    const { mesh, place, first, around, seen, seenPlace } = this;
    const { position, index } = mesh;
    const mark = ++this.visit;
    const found = [triangle];
    seen[triangle] = mark;
    for (let i = 0; i < found.length; i++)
      for (let k = 0; k < 3; k++) {
        const p = place[index[found[i] * 3 + k]];
        if (seenPlace[p] === mark) continue;
        seenPlace[p] = mark;
        for (let j = first[p]; j < first[p + 1]; j++) {
          const t = around[j];
          if (seen[t] === mark) continue;
          seen[t] = mark;
          if (nearestOn(position, index, t, x, y, z).away2 < radius * radius) found.push(t);
        }
      }
    return found;
  }

  /** Every texel of a triangle, and of what touches it, within a radius of a place. The same object each time: what is to stay is copied. */
  within(t: number, x: number, y: number, z: number, radius: number, take: (texel: Texel) => void): void {
    const { mesh, width, height } = this;
    const { position, index } = mesh;
    const [a, b, c] = [index[t * 3], index[t * 3 + 1], index[t * 3 + 2]];
    const corners = this.cornersOf(t);
    const window = windowOf(corners, position, a, b, c, x, y, z, radius);
    if (!window) return;
    const texel: Texel = { at: 0, triangle: t, shares: [0, 0, 0], x: 0, y: 0, z: 0, away: 0 };
    const put = (i: number, j: number, wa: number, wb: number, wc: number) => {
      texel.x = position[a * 3] * wa + position[b * 3] * wb + position[c * 3] * wc;
      texel.y = position[a * 3 + 1] * wa + position[b * 3 + 1] * wb + position[c * 3 + 1] * wc;
      texel.z = position[a * 3 + 2] * wa + position[b * 3 + 2] * wb + position[c * 3 + 2] * wc;
      texel.away = Math.sqrt((texel.x - x) ** 2 + (texel.y - y) ** 2 + (texel.z - z) ** 2);
      if (texel.away >= radius) return;
      texel.at = wrap(j, height) * width + wrap(i, width);
      texel.shares[0] = wa;
      texel.shares[1] = wb;
      texel.shares[2] = wc;
      take(texel);
    };
    fillTriangle(corners, window, put);
    const { skirt } = this.rims();
    for (let k = skirt.first[t]; k < skirt.first[t + 1]; k++) {
      const [i, j] = [skirt.columns[k], skirt.rows[k]];
      put(i, j, ...sharesAt(corners, i + 0.5, j + 0.5));
    }
  }
  /** Every texel of the mesh, and of what touches it, with its triangle and the shares of that's corners. */
  every(take: (at: number, triangle: number, a: number, b: number, c: number) => void): void {
    const { width, height } = this;
    const { skirt } = this.rims();
    for (let t = 0; t < this.mesh.index.length / 3; t++) {
      const corners = this.cornersOf(t);
      const put = (i: number, j: number, a: number, b: number, c: number) => take(wrap(j, height) * width + wrap(i, width), t, a, b, c);
      fillTriangle(corners, EVERYWHERE, put);
      for (let k = skirt.first[t]; k < skirt.first[t + 1]; k++)
        put(skirt.columns[k], skirt.rows[k], ...sharesAt(corners, skirt.columns[k] + 0.5, skirt.rows[k] + 0.5));
    }
  }

  /** The square that a texel lies in. */
  squareOf = (at: number): number => Math.floor(Math.floor(at / this.width) / CELL) * this.columns + Math.floor((at % this.width) / CELL);
  /** What lies past the rims of islands in the reach of squares: each texel with the one whose value it takes. */
  carry(squares: Iterable<number>, take: (to: number, from: number) => void): void {
    const { first, to, from } = this.rims();
    for (const square of squares) for (let k = first[square]; k < first[square + 1]; k++) take(to[k], from[k]);
  }

  /** All that lies beside the islands, as far as what is baked is padded. */
  private findRims(): Rims {
    const { width, height, columns } = this;
    const { index } = this.mesh;
    /** Of every texel the triangle that lies there; later the texel whose value it takes. Negative where nothing is. */
    const at = new Int32Array(width * height).fill(-1);
    for (let t = 0; t < index.length / 3; t++) {
      const corners = this.cornersOf(t);
      if (corners.every(Number.isFinite)) fillTriangle(corners, EVERYWHERE, (i, j) => (at[wrap(j, height) * width + wrap(i, width)] = t));
    }
    const step = (i: number, dx: number, dy: number) => wrap(Math.floor(i / width) + dy, height) * width + wrap((i % width) + dx, width);
    // By hand: this is asked of every texel.
    const row = (i: number) => at[i] >= 0 && at[i - 1] >= 0 && at[i + 1] >= 0;
    const inside = (i: number) =>
      i > width && i + width + 1 < at.length && i % width > 0 && i % width < width - 1 && row(i) && row(i - width) && row(i + width);
    const rim: number[] = [];
    for (let i = 0; i < at.length; i++) if (at[i] >= 0 && !inside(i)) rim.push(i);
    // Texels that touch an island belong to the triangle beside them, those at a side before those at a corner.
    const touching = new Map<number, number>();
    for (const diagonal of [false, true])
      for (const i of rim)
        for (const [dx, dy] of AROUND_IT) {
          const other = step(i, dx, dy);
          if ((dx !== 0 && dy !== 0) === diagonal && at[other] < 0 && !touching.has(other)) touching.set(other, at[i]);
        }
    const skirt = this.skirtOf(touching);
    for (let i = 0; i < at.length; i++) if (at[i] >= 0) at[i] = i;
    for (const i of touching.keys()) at[i] = i;
    const pairs: number[] = [];
    let ring = [...touching.keys()];
    for (let left = paddingOf(Math.max(width, height)) - 1; left > 0 && ring.length; left--) {
      const next: number[] = [];
      for (const i of ring)
        for (const [dx, dy] of BESIDE_IT) {
          const other = step(i, dx, dy);
          if (at[other] >= 0) continue;
          at[other] = at[i];
          pairs.push(other);
          next.push(other);
        }
      ring = next;
    }
    const { first, order } = grouped(pairs, (i) => this.squareOf(at[i]), columns * Math.ceil(height / CELL));
    return { skirt, first, to: order, from: order.map((i) => at[i]) };
  }
  private cornersOf(t: number): number[] {
    const { index, uv } = this.mesh;
    const { width, height } = this;
    const [a, b, c] = [index[t * 3] * 2, index[t * 3 + 1] * 2, index[t * 3 + 2] * 2];
    return [uv[a] * width, uv[a + 1] * height, uv[b] * width, uv[b + 1] * height, uv[c] * width, uv[c + 1] * height];
  }
  /** Texels beside triangles, where these lie: coordinates may leave the picture. */
  private skirtOf(touching: ReadonlyMap<number, number>): Rims['skirt'] {
    const { width, height } = this;
    const { index, uv } = this.mesh;
    const { first, order } = grouped([...touching.keys()], (i) => touching.get(i) as number, index.length / 3);
    const [columns, rows] = [new Int32Array(order.length), new Int32Array(order.length)];
    order.forEach((i, k) => {
      const t = touching.get(i) as number;
      const middle = (c: number) => (uv[index[t * 3] * 2 + c] + uv[index[t * 3 + 1] * 2 + c] + uv[index[t * 3 + 2] * 2 + c]) / 3;
      const near = (texel: number, at: number, side: number) => texel + Math.round((at * side - texel) / side) * side;
      columns[k] = near(i % width, middle(0), width);
      rows[k] = near(Math.floor(i / width), middle(1), height);
    });
    return { first, columns, rows };
  }
}

/** Things in groups by number, and where each group begins. */
function grouped(things: readonly number[], groupOf: (thing: number) => number, groups: number): { first: Uint32Array; order: Uint32Array } {
  const first = new Uint32Array(groups + 1);
  for (const thing of things) first[groupOf(thing) + 1]++;
  for (let i = 1; i <= groups; i++) first[i] += first[i - 1];
  const [order, next] = [new Uint32Array(things.length), first.slice()];
  for (const thing of things) order[next[groupOf(thing)]++] = thing;
  return { first, order };
}

/** Shares of the corners of a triangle at a place of the texture, which may lie beside it. */
function sharesAt([ax, ay, bx, by, cx, cy]: readonly number[], x: number, y: number): [number, number, number] {
  const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  const b = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area;
  const c = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area;
  return [1 - b - c, b, c];
}

const BESIDE_IT = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;
const AROUND_IT = [...BESIDE_IT, [1, 1], [-1, 1], [1, -1], [-1, -1]] as const;
const EVERYWHERE = { x0: -Infinity, y0: -Infinity, x1: Infinity, y1: Infinity };
const wrap = (i: number, period: number): number => ((i % period) + period) % period;

/**
 * Texels of a triangle's plane that lie within a radius of a place: the box around the ellipse that the ball cuts out of it, on
 * the texture. Null where the ball does not meet the plane, or the triangle has no extent on the texture.
 */
function windowOf(
  [ax, ay, bx, by, cx, cy]: readonly number[],
  position: Float32Array,
  a: number,
  b: number,
  c: number,
  x: number,
  y: number,
  z: number,
  radius: number,
): { x0: number; y0: number; x1: number; y1: number } | null {
  const [ux, uy, vx, vy] = [bx - ax, by - ay, cx - ax, cy - ay];
  if (!(Math.abs(ux * vy - uy * vx) > 0)) return null;
  const at = (v: number, k: number) => position[v * 3 + k];
  const [ex, ey, ez] = [at(b, 0) - at(a, 0), at(b, 1) - at(a, 1), at(b, 2) - at(a, 2)];
  const [fx, fy, fz] = [at(c, 0) - at(a, 0), at(c, 1) - at(a, 1), at(c, 2) - at(a, 2)];
  const [dx, dy, dz] = [x - at(a, 0), y - at(a, 1), z - at(a, 2)];
  // Shares of the two edges at the place, by the normal equations of the plane.
  const [ee, ef, ff] = [ex * ex + ey * ey + ez * ez, ex * fx + ey * fy + ez * fz, fx * fx + fy * fy + fz * fz];
  const [de, df] = [dx * ex + dy * ey + dz * ez, dx * fx + dy * fy + dz * fz];
  const det = ee * ff - ef * ef;
  if (!(det > 1e-30)) return null;
  const [s, t] = [(de * ff - df * ef) / det, (df * ee - de * ef) / det];
  const [px, py] = [ax + s * ux + t * vx, ay + s * uy + t * vy];
  // How far along each axis of the texture a step of the radius in the plane may lead.
  const inverse = (p: number, q: number) => Math.sqrt(Math.max(0, (p * p * ff - 2 * p * q * ef + q * q * ee) / det));
  const [rx, ry] = [radius * inverse(ux, vx), radius * inverse(uy, vy)];
  return { x0: Math.floor(px - rx) - 1, y0: Math.floor(py - ry) - 1, x1: Math.ceil(px + rx) + 1, y1: Math.ceil(py + ry) + 1 };
}
