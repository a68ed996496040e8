// What a set of texture coordinates is worth: its islands, what lies over what, what is turned over, what is wasted.
import type { Mesh } from './mesh';
import { triangleArea } from './mesh';
import { fillTriangle } from './raster';
import { weld } from './weld';

/** A connected piece of a part in texture space. */
export interface UvIsland {
  /** Which of the meshes it belongs to. */
  part: number;
  triangles: number;
  /** Box in texture coordinates. */
  lo: [number, number];
  hi: [number, number];
  /** Area in texture space, in tiles, and on the mesh, in m². */
  area: number;
  areaM2: number;
  /** Seen from outside, the texture is mirrored. */
  flipped: boolean;
  /** Triangles in it that lie the other way round than most. */
  folded: number;
  /** Lies partly or wholly outside the tile from 0 to 1. */
  outside: boolean;
  /** Larger than a tile: its texture repeats over it, so it covers nothing of its own. */
  repeats: boolean;
  /** Sides of a tile a metre: times the pixels of a texture it is the texel density. NaN without an area on the mesh. */
  density: number;
}

/** Islands of two parts, or of one, that lie on each other. */
export interface UvOverlap {
  parts: [number, number];
  /** Pairs of islands; a pair of an island with itself is one that runs over itself. */
  pairs: number;
  /** How much of the tile is covered more than once, 0–1. */
  share: number;
  /** Whether every pair covers the same place wholly: pieces that shall look the same are often stacked so. */
  stacked: boolean;
}

export interface UvLayout {
  /** Island of every triangle, over all meshes in their order; −1 where a triangle has no area in texture space. */
  islandOf: Int32Array;
  islands: UvIsland[];
  overlaps: UvOverlap[];
  /** 1 for triangles that lie on others, over all meshes in their order. */
  overlapping: Uint8Array;
  /** Sides of a tile a metre for every triangle; NaN where it has no area. */
  density: Float32Array;
  /** Share of the tile that islands cover, 0–1; islands that repeat count nowhere. */
  covered: number;
  /** Triangles without area in texture space: their texture is one texel or a line. */
  collapsed: number;
}

/** Side of the grid on which covering is counted. Islands closer than a sample are not told apart. */
const GRID = 1024;
/** Samples that are looked at: where hundreds of islands lie on each other the grid becomes coarser. */
const SAMPLES = 16 * GRID * GRID;
/** The side of a grid on which islands take no more samples than that, at least 32. */
const gridFor = (islands: readonly UvIsland[]): number => {
  const tiles = islands.reduce((sum, i) => sum + (i.repeats ? 0 : i.area), 0);
  return Math.max(32, Math.min(GRID, Math.floor(Math.sqrt(SAMPLES / Math.max(1, tiles)))));
};
/** How far over the border of the tile counts as rounding. */
const TILE_SLACK = 1e-4;
/** Share of the smaller of two islands that has to be covered for them to be stacked, and how far their sizes may differ. */
const STACKED = { cover: 0.9, size: 0.1 };

/** The islands of meshes that share a texture. Positions in metres, `texcoord` with v down. */
export function uvLayout(meshes: readonly Mesh[]): UvLayout {
  const total = meshes.reduce((n, m) => n + m.index.length / 3, 0);
  const islandOf = new Int32Array(total).fill(-1);
  const density = new Float32Array(total).fill(NaN);
  const islands: UvIsland[] = [];
  const signed = new Float64Array(total);
  let at = 0;
  for (const [part, mesh] of meshes.entries()) {
    const roots = islandRoots(mesh);
    const known = new Map<number, number>();
    for (let k = 0; k < mesh.index.length; k += 3, at++) {
      const uv = uvOf(mesh, k);
      const area = ((uv[2] - uv[0]) * (uv[5] - uv[1]) - (uv[3] - uv[1]) * (uv[4] - uv[0])) / 2;
      if (!(Math.abs(area) > 0)) continue;
      const areaM2 = triangleArea(mesh, k);
      signed[at] = area;
      density[at] = areaM2 > 0 ? Math.sqrt(Math.abs(area) / areaM2) : NaN;
      const root = roots[mesh.index[k]];
      let id = known.get(root);
      if (id === undefined) {
        known.set(root, (id = islands.length));
        islands.push({
          part,
          triangles: 0,
          lo: [Infinity, Infinity],
          hi: [-Infinity, -Infinity],
          area: 0,
          areaM2: 0,
          flipped: false,
          folded: 0,
          outside: false,
          repeats: false,
          density: NaN,
        });
      }
      islandOf[at] = id;
      const island = islands[id];
      island.triangles++;
      island.area += Math.abs(area);
      island.areaM2 += areaM2;
      for (let c = 0; c < 6; c++) {
        island.lo[c % 2] = Math.min(island.lo[c % 2], uv[c]);
        island.hi[c % 2] = Math.max(island.hi[c % 2], uv[c]);
      }
    }
  }
  judge(islands, islandOf, signed);
  return { islandOf, islands, density, collapsed: islandOf.reduce((n, i) => n + Number(i < 0), 0), ...covering(meshes, islands, islandOf) };
}

/** For every vertex, one that stands for its island. */
function islandRoots(mesh: Mesh): Uint32Array {
  const root = weld([mesh.position, mesh.texcoord], [3, 2]);
  const find = (i: number): number => {
    while (root[i] !== i) i = root[i] = root[root[i]];
    return i;
  };
  for (let k = 0; k < mesh.index.length; k += 3) {
    const a = find(mesh.index[k]);
    root[find(mesh.index[k + 1])] = a;
    root[find(mesh.index[k + 2])] = a;
  }
  return root.map((_, i) => find(i));
}

const uvOf = ({ index, texcoord }: Mesh, k: number): number[] => [
  texcoord[index[k] * 2],
  texcoord[index[k] * 2 + 1],
  texcoord[index[k + 1] * 2],
  texcoord[index[k + 1] * 2 + 1],
  texcoord[index[k + 2] * 2],
  texcoord[index[k + 2] * 2 + 1],
];

function judge(islands: UvIsland[], islandOf: Int32Array, signed: Float64Array): void {
  const sum = new Float64Array(islands.length);
  islandOf.forEach((i, t) => i >= 0 && (sum[i] += signed[t]));
  islandOf.forEach((i, t) => {
    if (i >= 0 && Math.sign(signed[t]) !== Math.sign(sum[i])) islands[i].folded++;
  });
  for (const [i, island] of islands.entries()) {
    // Counter-clockwise from outside, with v down, gives a negative area.
    island.flipped = sum[i] > 0;
    island.outside = Math.min(...island.lo) < -TILE_SLACK || Math.max(...island.hi) > 1 + TILE_SLACK;
    island.repeats = island.hi.some((v, c) => v - island.lo[c] > 1 + 2 * TILE_SLACK);
    island.density = island.areaM2 > 0 ? Math.sqrt(island.area / island.areaM2) : NaN;
  }
}

/** Counts which samples of the tile are covered, by which islands. Islands in other tiles count where they repeat in this one. */
function covering(
  meshes: readonly Mesh[],
  islands: readonly UvIsland[],
  islandOf: Int32Array,
): Pick<UvLayout, 'overlaps' | 'overlapping' | 'covered'> {
  const grid = gridFor(islands);
  const owner = new Int32Array(grid * grid).fill(-1);
  const overlapping = new Uint8Array(islandOf.length);
  const samples = new Uint32Array(islands.length);
  const pairs = new Map<number, number>();
  const window = { x0: 0, y0: 0, x1: 2 * grid + 1, y1: 2 * grid + 1 };
  let at = 0;
  for (const mesh of meshes)
    for (let k = 0; k < mesh.index.length; k += 3, at++) {
      const id = islandOf[at];
      if (id < 0 || islands[id].repeats) continue;
      const { lo } = islands[id];
      const shift = [lo[0] - wrap(lo[0]), lo[1] - wrap(lo[1])];
      fillTriangle(
        uvOf(mesh, k).map((v, c) => (v - shift[c % 2]) * grid),
        window,
        (x, y) => {
          const sample = (y % grid) * grid + (x % grid);
          samples[id]++;
          const first = owner[sample];
          if (first < 0) {
            owner[sample] = at;
            return;
          }
          const other = islandOf[first];
          const key = Math.min(id, other) * islands.length + Math.max(id, other);
          pairs.set(key, (pairs.get(key) ?? 0) + 1);
          overlapping[at] = overlapping[first] = 1;
        },
      );
    }
  return { overlapping, covered: owner.reduce((n, o) => n + Number(o >= 0), 0) / owner.length, overlaps: overlapsOf(pairs, islands, samples, grid) };
}

/** Where a coordinate falls in its tile; the border of a tile rounds down to it. */
const wrap = (v: number): number => {
  const inside = v - Math.floor(v);
  return inside > 1 - TILE_SLACK ? 0 : inside;
};

function overlapsOf(pairs: ReadonlyMap<number, number>, islands: readonly UvIsland[], samples: Uint32Array, grid: number): UvOverlap[] {
  const found = new Map<string, UvOverlap>();
  for (const [key, count] of pairs) {
    const [i, j] = [Math.floor(key / islands.length), key % islands.length];
    const parts = [islands[i].part, islands[j].part].sort((a, b) => a - b) as [number, number];
    const name = parts.join();
    const overlap = found.get(name) ?? { parts, pairs: 0, share: 0, stacked: true };
    const [small, large] = [Math.min(samples[i], samples[j]), Math.max(samples[i], samples[j])];
    overlap.pairs++;
    overlap.share += count / (grid * grid);
    overlap.stacked &&= i !== j && count >= STACKED.cover * small && large - small <= STACKED.size * large;
    found.set(name, overlap);
  }
  return [...found.values()].sort((a, b) => b.share - a.share);
}

/** Density of a layout in sides of a tile a metre: of all islands together, and of the thinnest and finest twentieth of the area. */
export function densitySpread(islands: readonly UvIsland[]): { mean: number; low: number; high: number } | null {
  const known = islands.filter((i) => Number.isFinite(i.density)).sort((a, b) => a.density - b.density);
  const areaM2 = known.reduce((sum, i) => sum + i.areaM2, 0);
  if (!(areaM2 > 0)) return null;
  const at = (share: number) => {
    let sum = 0;
    return (known.find((i) => (sum += i.areaM2) >= share * areaM2) ?? known[known.length - 1]).density;
  };
  return { mean: Math.sqrt(known.reduce((sum, i) => sum + i.area, 0) / areaM2), low: at(0.05), high: at(0.95) };
}

/** A key under which the wish is kept that two parts may lie on each other. */
export const stackingKey = (a: string, b: string): string => [a, b].sort().join('--');

/** Pairs of parts that may lie on each other, as numbers in the list of parts, the smaller first. */
export function allowedPairs(parts: readonly { id: string }[], stacking: Readonly<Record<string, true>>): [number, number][] {
  const numbers = new Map(parts.map(({ id }, i) => [id, i]));
  return Object.keys(stacking).flatMap((key) => {
    const [a, b] = stackedParts(key).map((id) => numbers.get(id));
    return a === undefined || b === undefined ? [] : [[Math.min(a, b), Math.max(a, b)] as [number, number]];
  });
}

/** The two parts of a `stackingKey`. */
export const stackedParts = (key: string): string[] => key.split('--');
