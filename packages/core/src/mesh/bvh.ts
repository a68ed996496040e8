import type { Mesh, Vector } from './mesh';
import { boundsOf } from './mesh';
import { nearestOn } from './nearest';
import type { MeshHit } from './pick';

/** Triangles a leaf holds at most. */
const LEAF = 4;
/** Shares of a triangle's corners by which a ray may miss it, so that none slips through between two. */
const EDGE_SLACK = 1e-7;
/** Stands in for a direction of 0 along an axis. */
const EDGE = 1e-30;

/** A tree of boxes over the triangles of a mesh, for rays. Split at the middle of the longest axis of the centres. */
export class Bvh {
  private readonly bounds: Float32Array;
  /** Of a leaf its first triangle and how many there are; of others the left child, which the right one follows, and 0. */
  private readonly links: Uint32Array;
  private readonly order: Uint32Array;
  private readonly corners: Float32Array;
  /** As deep as the tree. */
  private readonly stack: Uint32Array;

  constructor(private readonly mesh: Pick<Mesh, 'position' | 'index'>) {
    const { position, index } = mesh;
    const count = index.length / 3;
    this.order = Uint32Array.from({ length: count }, (_, i) => i);
    this.bounds = new Float32Array(Math.max(1, 2 * count) * 6);
    this.links = new Uint32Array(Math.max(1, 2 * count) * 2);
    const centre = new Float32Array(count * 3);
    const box = new Float32Array(count * 6);
    const { lo: low, hi: high } = boundsOf({ position });
    // Rays along the sides of a box are in it.
    const room = count ? 1e-6 * Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]) : 0;
    for (let t = 0; t < count; t++)
      for (let c = 0; c < 3; c++) {
        const x = position[index[t * 3] * 3 + c];
        const y = position[index[t * 3 + 1] * 3 + c];
        const z = position[index[t * 3 + 2] * 3 + c];
        box[t * 6 + c] = Math.min(x, y, z) - room;
        box[t * 6 + 3 + c] = Math.max(x, y, z) + room;
        centre[t * 3 + c] = (x + y + z) / 3;
      }
    let nodes = 1;
    let deepest = 0;
    const build = (node: number, first: number, end: number, depth: number): void => {
      deepest = Math.max(deepest, depth);
      const { bounds, order } = this;
      const lo = [Infinity, Infinity, Infinity];
      const hi = [-Infinity, -Infinity, -Infinity];
      const [clo, chi] = [[...lo], [...hi]];
      for (let c = 0; c < 3; c++) {
        let [low, high, near, far] = [Infinity, -Infinity, Infinity, -Infinity];
        for (let i = first; i < end; i++) {
          const t = order[i];
          if (box[t * 6 + c] < low) low = box[t * 6 + c];
          if (box[t * 6 + 3 + c] > high) high = box[t * 6 + 3 + c];
          const v = centre[t * 3 + c];
          if (v < near) near = v;
          if (v > far) far = v;
        }
        [lo[c], hi[c], clo[c], chi[c]] = [low, high, near, far];
      }
      bounds.set([...lo, ...hi], node * 6);
      const axis = [0, 1, 2].reduce((a, c) => (chi[c] - clo[c] > chi[a] - clo[a] ? c : a), 0);
      const middle = (clo[axis] + chi[axis]) / 2;
      let cut = first;
      if (end - first > LEAF && chi[axis] > clo[axis])
        for (let i = first; i < end; i++)
          if (centre[order[i] * 3 + axis] < middle) {
            [order[i], order[cut]] = [order[cut], order[i]];
            cut++;
          }
      if (cut === first || cut === end) {
        this.links.set([first, end - first], node * 2);
        return;
      }
      const left = nodes;
      nodes += 2;
      this.links.set([left, 0], node * 2);
      build(left, first, cut, depth + 1);
      build(left + 1, cut, end, depth + 1);
    };
    build(0, 0, count, 0);
    this.stack = new Uint32Array(deepest + 2);
    // Corners in the order of the leaves lie together.
    this.corners = new Float32Array(count * 9);
    this.order.forEach((t, i) => {
      for (let k = 0; k < 3; k++) for (let c = 0; c < 3; c++) this.corners[i * 9 + k * 3 + c] = position[index[t * 3 + k] * 3 + c];
    });
  }

  /** Whether anything lies along a ray, however far. */
  blocked(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): boolean {
    const { bounds, links, stack } = this;
    if (!this.order.length) return false;
    const [ix, iy, iz] = [1 / (dx || EDGE), 1 / (dy || EDGE), 1 / (dz || EDGE)];
    let depth = 0;
    stack[depth++] = 0;
    while (depth) {
      const node = stack[--depth];
      const b = node * 6;
      const [x0, x1] = [(bounds[b] - ox) * ix, (bounds[b + 3] - ox) * ix];
      const [y0, y1] = [(bounds[b + 1] - oy) * iy, (bounds[b + 4] - oy) * iy];
      const [z0, z1] = [(bounds[b + 2] - oz) * iz, (bounds[b + 5] - oz) * iz];
      const near = Math.max(Math.min(x0, x1), Math.min(y0, y1), Math.min(z0, z1));
      const far = Math.min(Math.max(x0, x1), Math.max(y0, y1), Math.max(z0, z1));
      if (far < 0 || near > far) continue;
      const [first, count] = [links[node * 2], links[node * 2 + 1]];
      if (!count) {
        stack[depth++] = first;
        stack[depth++] = first + 1;
      } else for (let i = first; i < first + count; i++) if (this.hits(i * 9, ox, oy, oz, dx, dy, dz)) return true;
    }
    return false;
  }

  /** The first place that a ray meets from the front, as `pickMesh` finds it; null when it meets none. */
  first([ox, oy, oz]: Vector, [dx, dy, dz]: Vector): MeshHit | null {
    const { bounds, links, stack } = this;
    if (!this.order.length) return null;
    const [ix, iy, iz] = [1 / (dx || EDGE), 1 / (dy || EDGE), 1 / (dz || EDGE)];
    let found: MeshHit | null = null;
    let depth = 0;
    stack[depth++] = 0;
    while (depth) {
      const node = stack[--depth];
      const b = node * 6;
      const [x0, x1] = [(bounds[b] - ox) * ix, (bounds[b + 3] - ox) * ix];
      const [y0, y1] = [(bounds[b + 1] - oy) * iy, (bounds[b + 4] - oy) * iy];
      const [z0, z1] = [(bounds[b + 2] - oz) * iz, (bounds[b + 5] - oz) * iz];
      const near = Math.max(Math.min(x0, x1), Math.min(y0, y1), Math.min(z0, z1));
      const far = Math.min(Math.max(x0, x1), Math.max(y0, y1), Math.max(z0, z1));
      if (far < 0 || near > far || (found && near > found.away)) continue;
      const [first, count] = [links[node * 2], links[node * 2 + 1]];
      if (!count) {
        stack[depth++] = first;
        stack[depth++] = first + 1;
      } else
        for (let i = first; i < first + count; i++) {
          const met = this.meets(i * 9, ox, oy, oz, dx, dy, dz, 1e-20);
          if (met && (!found || met.away < found.away))
            found = { triangle: this.order[i], shares: [1 - met.u - met.v, met.u, met.v], away: met.away };
        }
    }
    return found;
  }

  /** The place of the mesh nearest to one in space, with how far that is; null where none is nearer than `within`. */
  nearest([x, y, z]: Vector, within = Infinity): MeshHit | null {
    const { bounds, links, stack, mesh } = this;
    if (!this.order.length) return null;
    const outside = (node: number): number => {
      let sum = 0;
      for (const [c, at] of [x, y, z].entries()) {
        const away = Math.max(bounds[node * 6 + c] - at, at - bounds[node * 6 + 3 + c], 0);
        sum += away * away;
      }
      return sum;
    };
    let found: MeshHit | null = null;
    let best = within * within;
    let depth = 0;
    stack[depth++] = 0;
    while (depth) {
      const node = stack[--depth];
      if (outside(node) > best) continue;
      const [first, count] = [links[node * 2], links[node * 2 + 1]];
      if (!count) {
        // The nearer child is looked at first.
        const [near, far] = outside(first) <= outside(first + 1) ? [first, first + 1] : [first + 1, first];
        stack[depth++] = far;
        stack[depth++] = near;
      } else
        for (let i = first; i < first + count; i++) {
          const triangle = this.order[i];
          const { shares, away2 } = nearestOn(mesh.position, mesh.index, triangle, x, y, z);
          if (away2 < best || (away2 === best && !found)) {
            best = away2;
            found = { triangle, shares, away: Math.sqrt(away2) };
          }
        }
    }
    return found;
  }

  private hits(at: number, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): boolean {
    return this.meets(at, ox, oy, oz, dx, dy, dz, -Infinity) !== null;
  }

  /**
   * Where a ray meets a triangle; `least` is the determinant above which it is seen from the front, −∞ where either side
   * counts. Source: Möller & Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997.
   */
  private meets(
    at: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    least: number,
  ): { u: number; v: number; away: number } | null {
    const v = this.corners;
    const [ax, ay, az] = [v[at], v[at + 1], v[at + 2]];
    const [ex, ey, ez] = [v[at + 3] - ax, v[at + 4] - ay, v[at + 5] - az];
    const [fx, fy, fz] = [v[at + 6] - ax, v[at + 7] - ay, v[at + 8] - az];
    const [px, py, pz] = [dy * fz - dz * fy, dz * fx - dx * fz, dx * fy - dy * fx];
    const det = ex * px + ey * py + ez * pz;
    if (Math.abs(det) < 1e-20 || det < least) return null;
    const [tx, ty, tz] = [ox - ax, oy - ay, oz - az];
    const u = (tx * px + ty * py + tz * pz) / det;
    if (u < -EDGE_SLACK || u > 1 + EDGE_SLACK) return null;
    const [qx, qy, qz] = [ty * ez - tz * ey, tz * ex - tx * ez, tx * ey - ty * ex];
    const w = (dx * qx + dy * qy + dz * qz) / det;
    if (w < -EDGE_SLACK || u + w > 1 + EDGE_SLACK) return null;
    const away = (fx * qx + fy * qy + fz * qz) / det;
    return away > 0 ? { u, v: w, away } : null;
  }
}
