import type { Image } from '../image';
import { channelsOfHex, fullScale, linearToSrgb, srgbToLinear } from '../image';
import type { Mesh, Vector } from '../mesh/mesh';
import { cross, unit } from '../mesh/mesh';
import { Bvh } from '../mesh/bvh';
import type { Role } from '../surface';
import type { MapSet } from '../surface';
import { makeRandom } from '../noise';
import { smooth } from '../mesh/mesh';
import type { Stamp } from '../document';
import type { UnwrappedMesh } from './mesh-texels';
import { MeshTexels } from './mesh-texels';

/** What a surface is known by where it is stamped: metres a repetition, of relief, and the height that lies on the ground. */
export interface StampSurface {
  maps: MapSet;
  sizeM: number;
  reliefM: number;
  mid: number;
}
export const DEFAULT_STAMP: Omit<Stamp, 'at'> = { radiusM: 0.2, strength: 1, falloff: 0.5, scale: 1, turn: 0, tint: '#ffffff', byHeight: 0.6 };

/** Roles that stamps go into, and how each is mixed. */
const COLOURS: readonly Role[] = ['baseColor', 'emissive'];
const FLAT_NORMAL = [0, 0, 1] as const;

/** Values of a map at a place of one repetition, 0–1, mixed between texels, which repeat. */
function read(image: Image, u: number, v: number, out: number[]): void {
  const { width, height, channels, data, depth } = image;
  const full = fullScale(depth);
  const [x, y] = [(u - Math.floor(u)) * width - 0.5, (v - Math.floor(v)) * height - 0.5];
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const [dx, dy] = [x - i, y - j];
  const at = (a: number, b: number) => (((j + b + height) % height) * width + ((i + a + width) % width)) * channels;
  const [p, q, r, s] = [at(0, 0), at(1, 0), at(0, 1), at(1, 1)];
  for (let c = 0; c < channels; c++)
    out[c] = ((data[p + c] * (1 - dx) + data[q + c] * dx) * (1 - dy) + (data[r + c] * (1 - dx) + data[s + c] * dx) * dy) / full;
}

/** The share of a stamp at a place, of what it would cover and how far its height is over what is there, in spans of both. */
export function stampShare(cover: number, over: number, byHeight: number): number {
  if (cover <= 0 || cover >= 1) return Math.min(1, Math.max(0, cover));
  // The crossover of blends: soft 1 is the plain mix, soft 0 a hard edge.
  const soft = Math.min(1, Math.max(1 / 1024, 1 - byHeight));
  const x = ((1 - soft) * Math.min(1, Math.max(-1, over)) - (1 - 2 * cover)) / (2 * soft) + 0.5;
  return smooth(0, 1, x);
}

/** Presses stamps into all maps of a mesh whose texels have one place each. Maps are changed where they stand. */
export class Stamper {
  private readonly texels: MeshTexels;
  private readonly tree: Bvh;

  /**
   * @param mesh with its normals and tangents, which maps of normals are turned into; @param maps all of one size, normals Y+
   * @throws RangeError for maps of different sizes, or a mesh without coordinates
   */
  constructor(
    private readonly mesh: UnwrappedMesh & Pick<Mesh, 'normal' | 'tangent'>,
    private readonly maps: MapSet,
    private readonly own: { reliefM: number; mid: number },
  ) {
    const list = Object.values(maps);
    const [first] = list as (Image | undefined)[];
    if (!first) throw new RangeError('There is no map to stamp into');
    const other = list.find((m) => m.width !== first.width || m.height !== first.height);
    if (other) throw new RangeError(`Maps of ${first.width} × ${first.height} and of ${other.width} × ${other.height} cannot be stamped together`);
    this.texels = new MeshTexels(mesh, first.width, first.height);
    this.tree = new Bvh(mesh);
  }

  /** Presses a stamp. Gives how many texels it changed; null where the mesh is not within its radius. */
  press(stamp: Stamp, surface: StampSurface, seed = 1): number | null {
    const { radiusM, strength, falloff, scale, turn, tint, byHeight } = stamp;
    const hit = this.tree.nearest(stamp.at, radiusM);
    if (!hit) return null;
    const { position, index, normal } = this.mesh;
    const mixed = (of: Float32Array, width: number, t: number, shares: readonly number[], c: number) =>
      shares.reduce((sum, share, k) => sum + share * of[index[t * 3 + k] * width + c], 0);
    const vector = (of: Float32Array, width: number, t: number, shares: readonly number[]): Vector => [
      mixed(of, width, t, shares, 0),
      mixed(of, width, t, shares, 1),
      mixed(of, width, t, shares, 2),
    ];
    const middle = vector(position, 3, hit.triangle, hit.shares);
    const out = unit(vector(normal, 3, hit.triangle, hit.shares));
    const [right, down] = frameOf(out, stamp.up ?? [0, 1, 0], turn);
    const random = makeRandom(seed);
    const [u0, v0] = stamp.offset ?? [random(), random()];
    const across = surface.sizeM * scale;
    const tints = channelsOfHex(tint).map((v) => srgbToLinear(v / 255));
    const span = Math.max(this.own.reliefM, surface.reliefM * scale, 1e-6);
    const known = new Map<number, number>();
    const roles = Object.keys(this.maps) as Role[];
    const before = new Map<number, number[][]>();
    let changed = 0;
    const squares = new Set<number>();
    for (const t of this.texels.connected(hit.triangle, middle[0], middle[1], middle[2], radiusM))
      this.texels.within(t, middle[0], middle[1], middle[2], radiusM, ({ at, x, y, z, away, shares }) => {
        const cover = falloff <= 0 ? 1 : 1 - smooth(1 - falloff, 1, away / radiusM);
        // Where islands overlap, or a texel touches two triangles, it is stamped once, by the one that is nearer.
        if (cover <= (known.get(at) ?? 0)) return;
        const [dx, dy, dz] = [x - middle[0], y - middle[1], z - middle[2]];
        const u = u0 + (dx * right[0] + dy * right[1] + dz * right[2]) / across;
        const v = v0 + (dx * down[0] + dy * down[1] + dz * down[2]) / across;
        if (!known.has(at)) {
          changed++;
          before.set(
            at,
            roles.map((role) => this.texelOf(role, at)),
          );
        }
        known.set(at, cover);
        squares.add(this.texels.squareOf(at));
        this.mix(at, before.get(at) as number[][], roles, { cover, strength, byHeight, u, v, tints, span, scale, surface }, () => ({
          right,
          down,
          out: unit(vector(normal, 3, t, shares)),
          ...this.tangents(t, shares),
        }));
      });
    this.texels.carry(squares, (to, from) => {
      for (const role of roles) {
        const { data, channels } = this.maps[role] as Image;
        for (let c = 0; c < channels; c++) data[to * channels + c] = data[from * channels + c];
      }
    });
    return changed;
  }

  /** Tangent and bitangent of a place, as maps of normals have them. */
  private tangents(t: number, shares: readonly number[]): { tangent: Vector; bitangent: Vector } {
    const { index, tangent, normal } = this.mesh;
    const at = (of: Float32Array, width: number, c: number) => shares.reduce((sum, share, k) => sum + share * of[index[t * 3 + k] * width + c], 0);
    const n = unit([at(normal, 3, 0), at(normal, 3, 1), at(normal, 3, 2)]);
    const along: Vector = [at(tangent, 4, 0), at(tangent, 4, 1), at(tangent, 4, 2)];
    const lean = n[0] * along[0] + n[1] * along[1] + n[2] * along[2];
    const x = unit([along[0] - n[0] * lean, along[1] - n[1] * lean, along[2] - n[2] * lean]);
    const sign = tangent[index[t * 3] * 4 + 3] < 0 ? -1 : 1;
    const [bx, by, bz] = cross(n, x);
    return { tangent: x, bitangent: [bx * sign, by * sign, bz * sign] };
  }

  private texelOf(role: Role, at: number): number[] {
    const { data, channels, depth } = this.maps[role] as Image;
    const full = fullScale(depth);
    return Array.from({ length: channels }, (_, c) => data[at * channels + c] / full);
  }

  private mix(
    at: number,
    before: readonly number[][],
    roles: readonly Role[],
    {
      cover,
      strength,
      byHeight,
      u,
      v,
      tints,
      span,
      scale,
      surface,
    }: {
      cover: number;
      strength: number;
      byHeight: number;
      u: number;
      v: number;
      tints: number[];
      span: number;
      scale: number;
      surface: StampSurface;
    },
    frame: () => { right: Vector; down: Vector; out: Vector; tangent: Vector; bitangent: Vector },
  ): void {
    const sample: number[] = [];
    const height = (image: Image | undefined, values: readonly number[] | undefined, { reliefM, mid }: { reliefM: number; mid: number }) =>
      image && values ? (values[0] - mid) * reliefM : 0;
    const stamped = surface.maps.height;
    if (stamped) read(stamped, u, v, sample);
    const top = height(stamped, sample, { reliefM: surface.reliefM * scale, mid: surface.mid });
    const h = roles.indexOf('height');
    const bottom = h >= 0 ? height(this.maps.height, before[h], this.own) : 0;
    const w = strength * stampShare(cover, (top - bottom) / span, byHeight);
    roles.forEach((role, k) => {
      const image = this.maps[role] as Image;
      const from = surface.maps[role];
      const full = fullScale(image.depth);
      const put = (c: number, value: number) =>
        (image.data[at * image.channels + c] = image.depth === 32 ? value : Math.round(Math.min(1, Math.max(0, value)) * full));
      const was = before[k];
      if (role === 'height') return put(0, (bottom + (top - bottom) * w) / Math.max(1e-9, this.own.reliefM) + this.own.mid);
      if (from) read(from, u, v, sample);
      if (role === 'normal') return turned(was, from ? sample : null, w, frame(), put);
      // What the surface does not have is left as it is.
      if (!from) return;
      for (let c = 0; c < image.channels; c++) {
        const value = sample[Math.min(c, from.channels - 1)];
        if (!COLOURS.includes(role) || image.colourSpace !== 'srgb') put(c, was[c] + (value - was[c]) * w);
        else {
          const lit = srgbToLinear(value) * (role === 'baseColor' ? tints[c] : 1);
          const own = srgbToLinear(was[c]);
          put(c, linearToSrgb(own + (lit - own) * w));
        }
      }
    });
  }
}

/** Right and down of a patch on a place that looks `out`, up being as near to `up` as can be, turned. */
function frameOf(out: Vector, up: Vector, turn: number): [Vector, Vector] {
  const along = out[0] * up[0] + out[1] * up[1] + out[2] * up[2];
  const rest: Vector = [up[0] - out[0] * along, up[1] - out[1] * along, up[2] - out[2] * along];
  // A place that looks straight up has north for up.
  const long = Math.hypot(...rest);
  const top = long > 1e-4 ? unit(rest) : unit(cross(cross(out, [0, 0, -1]), out));
  const side = cross(top, out);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const right: Vector = [0, 1, 2].map((k) => side[k] * c - top[k] * s) as unknown as Vector;
  const down: Vector = [0, 1, 2].map((k) => -(side[k] * s + top[k] * c)) as unknown as Vector;
  return [right, down];
}

/** Mixes a normal of a patch into one of the map in slope space, turned from the axes of the patch into the map's own. */
function turned(
  was: readonly number[],
  stamp: readonly number[] | null,
  w: number,
  { right, down, out, tangent, bitangent }: { right: Vector; down: Vector; out: Vector; tangent: Vector; bitangent: Vector },
  put: (c: number, value: number) => void,
): void {
  // Y+: green looks up the patch, against its rows.
  const [x, y, z] = stamp ? stamp.slice(0, 3).map((v) => v * 2 - 1) : FLAT_NORMAL;
  const world = [0, 1, 2].map((c) => right[c] * x - down[c] * y + out[c] * Math.max(z, 0.05));
  const dot = (v: Vector) => world[0] * v[0] + world[1] * v[1] + world[2] * v[2];
  const deep = Math.max(dot(out), 0.05);
  const [p, q] = [dot(tangent) / deep, dot(bitangent) / deep];
  const own = Math.max(was[2] * 2 - 1, 0.05);
  const [op, oq] = [(was[0] * 2 - 1) / own, (was[1] * 2 - 1) / own];
  const [mp, mq] = [op + (p - op) * w, oq + (q - oq) * w];
  const long = Math.hypot(mp, mq, 1);
  put(0, (mp / long) * 0.5 + 0.5);
  put(1, (mq / long) * 0.5 + 0.5);
  put(2, (1 / long) * 0.5 + 0.5);
}

/** Stamps as a file. */
export interface StampsFile {
  kind: 'stamps';
  version: 1;
  stamps: readonly Stamp[];
}

/** Reads stamps; what is left out is usual. @throws RangeError that says which of them is wrong */
export function parseStamps(text: string): StampsFile {
  let body: Partial<StampsFile>;
  try {
    body = (JSON.parse(text) ?? {}) as Partial<StampsFile>;
  } catch (error) {
    throw new RangeError(`It is not JSON: ${(error as Error).message}`);
  }
  if (body.kind !== 'stamps' || body.version !== 1) throw new RangeError('It holds no stamps: its kind is to be "stamps", its version 1');
  if (!Array.isArray(body.stamps) || !body.stamps.length) throw new RangeError('It has no stamps');
  const numbers = (of: unknown, count: number) =>
    Array.isArray(of) && of.length === count && of.every((v) => typeof v === 'number' && Number.isFinite(v));
  const stamps = (body.stamps as Partial<Stamp>[]).map((given, i): Stamp => {
    const refuse = (message: string): never => {
      throw new RangeError(`Stamp ${i + 1}: ${message}`);
    };
    const stamp = { ...DEFAULT_STAMP, ...given } as Stamp;
    if (!numbers(stamp.at, 3)) refuse('at is [x, y, z] in metres');
    if (!(stamp.radiusM > 0) || !(stamp.scale > 0)) refuse('radiusM and scale are numbers over 0');
    if (!Number.isFinite(stamp.turn)) refuse('turn is in radians');
    for (const name of ['strength', 'falloff', 'byHeight'] as const) if (!(stamp[name] >= 0 && stamp[name] <= 1)) refuse(`${name} is from 0 to 1`);
    if (!/^#[0-9a-f]{6}$/i.test(stamp.tint)) refuse(`its tint is a colour like #d8c8b8, not "${stamp.tint}"`);
    if (stamp.up !== undefined && !numbers(stamp.up, 3)) refuse('up is [x, y, z]');
    if (stamp.offset !== undefined && !numbers(stamp.offset, 2)) refuse('offset is [u, v], in repetitions of the surface');
    return stamp;
  });
  return { kind: 'stamps', version: 1, stamps };
}
