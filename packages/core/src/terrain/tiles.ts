// Tiles of a terrain: how many layers each draws, and fewer where that is too many.
import type { TerrainWeights } from './weights';
import { putWeights } from './weights';
import type { GroundCoverages } from './rules';
import { storedCoverages } from './rules';

/** A layer counts in a tile where it has more than one part in 255 anywhere in it. */
const COUNTS = 1;
/** Samples over which a layer fades towards a tile that does not draw it. */
const FADE = 8;
/** Samples around a tile that count as its own where a layer is held under a picture. */
const ROOM = 1;

/** A tile of samples `[x, x + width]` × `[y, y + height]`: its borders are its neighbours' too. */
export interface TerrainTile {
  column: number;
  row: number;
  x: number;
  y: number;
  width: number;
  height: number;
  /** Indices of the layers that count in it, and the mean weight of every layer, 0–1. */
  layers: number[];
  means: number[];
}

/** Tiles of `side` cells; those at the far rims are what is left. */
export function terrainTiles(weights: TerrainWeights, side: number): TerrainTile[] {
  const { width, height, layers } = weights;
  const out: TerrainTile[] = [];
  const step = Math.max(1, Math.floor(side));
  for (let row = 0, y = 0; y < Math.max(1, height - 1); row++, y += step)
    for (let column = 0, x = 0; x < Math.max(1, width - 1); column++, x += step) {
      const [w, h] = [Math.min(step, width - 1 - x), Math.min(step, height - 1 - y)];
      const counting: number[] = [];
      const means = layers.map((layer, l) => {
        let [sum, most] = [0, 0];
        for (let j = y; j <= y + h; j++)
          for (let i = j * width + x, end = i + w; i <= end; i++) {
            sum += layer[i];
            if (layer[i] > most) most = layer[i];
          }
        if (most > COUNTS) counting.push(l);
        return sum / (255 * (w + 1) * (h + 1));
      });
      out.push({ column, row, x, y, width: w, height: h, layers: counting, means });
    }
  return out;
}

/** What a tile lost: which layer, and by how much weights differ now around it, 0–1. */
export interface ResolvedTile {
  column: number;
  row: number;
  dropped: number[];
  /** Mean over the tile, and most anywhere. */
  mean: number;
  most: number;
}

/** Rounds after which what is left is given up: each drops something for good. */
const ROUNDS = 8;

/**
 * Weights in which no tile draws more than `limit` layers: of a tile with more, those that are least seen are dropped, and fade
 * out before its border in the tiles beside it, so that no step opens there. Farther away all stays, bit for bit.
 */
export function resolveTiles(weights: TerrainWeights, side: number, limit: number): { weights: TerrainWeights; tiles: ResolvedTile[] } {
  let now = weights;
  const dropped = new Map<string, { tile: TerrainTile; gone: Set<number> }>();
  for (let round = 0; round < ROUNDS; round++) {
    const crowded = terrainTiles(now, side).filter((t) => t.layers.length > Math.max(1, limit));
    if (!crowded.length) break;
    const going = new Map(crowded.map((t) => [t, leastSeen(t, Math.max(1, limit))]));
    for (const [tile, gone] of going) {
      const key = `${tile.column} ${tile.row}`;
      const all = dropped.get(key)?.gone ?? new Set();
      gone.forEach((l) => all.add(l));
      dropped.set(key, { tile, gone: all });
    }
    now = without(now, going);
  }
  const tiles = [...dropped.values()].map(({ tile, gone }) => ({
    column: tile.column,
    row: tile.row,
    dropped: [...gone].filter((l) => tile.layers.includes(l)).sort((a, b) => a - b),
    ...difference(weights, now, tile),
  }));
  return { weights: now, tiles };
}

/**
 * Layers of a tile beyond the `most` that are seen most; those that do not count go too, for with more room they would. The lowest
 * has its place in every tile: where two tiles have no other in common it lies on their border.
 */
function leastSeen({ means, layers }: TerrainTile, most: number): number[] {
  const others = layers.filter((l) => l !== 0).sort((a, b) => means[b] - means[a] || a - b);
  const kept = new Set([0, ...others.slice(0, most - 1)]);
  return means.flatMap((mean, l) => (mean > 0 && !kept.has(l) ? [l] : []));
}

/** The same without some layers in some tiles, which fade out around these. */
function without(weights: TerrainWeights, dropped: ReadonlyMap<TerrainTile, readonly number[]>): TerrainWeights {
  const { width, height, layers } = weights;
  const out: TerrainWeights = { width, height, layers: layers.map((l) => l.slice()) };
  // How much of each layer is left around the tiles that drop it.
  const left = layers.map((): Float32Array | null => null);
  for (const [tile, gone] of dropped)
    for (const l of gone) {
      const kept = (left[l] ??= new Float32Array(width * height).fill(1));
      const [x0, x1] = [Math.max(0, tile.x - FADE), Math.min(width - 1, tile.x + tile.width + FADE)];
      const [y0, y1] = [Math.max(0, tile.y - FADE), Math.min(height - 1, tile.y + tile.height + FADE)];
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const i = y * width + x;
          kept[i] = Math.min(kept[i], leftBeside([tile], x, y));
        }
    }
  const shares = new Array<number>(layers.length);
  const spare = new Uint8Array(layers.length);
  for (let i = 0; i < width * height; i++) {
    let changes = false;
    let sum = 0;
    for (let l = 0; l < layers.length; l++) {
      const keep = left[l]?.[i] ?? 1;
      shares[l] = layers[l][i] * keep;
      sum += shares[l];
      if (keep < 1 && layers[l][i]) changes = true;
    }
    if (!changes) continue;
    if (!(sum > 0)) shares[0] = 1;
    putWeights(out, i, shares, spare);
  }
  return out;
}

/** How far weights of a tile are from what they were: half of what all layers moved. */
function difference(before: TerrainWeights, after: TerrainWeights, tile: TerrainTile): { mean: number; most: number } {
  let [sum, most] = [0, 0];
  for (let y = tile.y; y <= tile.y + tile.height; y++)
    for (let x = tile.x, i = y * before.width + x; x <= tile.x + tile.width; x++, i++) {
      let moved = 0;
      for (let l = 0; l < before.layers.length; l++) moved += Math.abs(after.layers[l][i] - before.layers[l][i]);
      sum += moved / 510;
      most = Math.max(most, moved / 510);
    }
  return { mean: sum / ((tile.width + 1) * (tile.height + 1)), most };
}

/** A layer of a ground that tiles shall not draw, and these. */
export interface CappedLayer {
  /** Index of the layer, 0 the lowest. */
  layer: number;
  tiles: readonly TileRect[];
}
type TileRect = Pick<TerrainTile, 'x' | 'y' | 'width' | 'height'>;

/** How much of a layer is left at a place, in samples: nothing in tiles that do not draw it, all from `FADE` samples away on. */
export function leftBeside(tiles: readonly TileRect[], x: number, y: number, room = 0): number {
  let left = 1;
  for (const tile of tiles) {
    const away = Math.max(tile.x - x, x - tile.x - tile.width, tile.y - y, y - tile.y - tile.height, 0);
    const t = Math.min(1, Math.max(0, away - room) / FADE);
    left = Math.min(left, t * t * (3 - 2 * t));
  }
  return left;
}

/**
 * Which layers of a ground no tile shall draw any more, so that none draws more than `limit`: what a tile loses shows the layers below.
 * Their coverages are held under `leftBeside` in the ground itself, so that all else of it can still be edited.
 */
export function relieveTiles(
  coverages: GroundCoverages,
  side: number,
  limit: number,
): { capped: CappedLayer[]; tiles: ResolvedTile[]; after: TerrainWeights } {
  const before = storedCoverages(coverages);
  const { width, height } = coverages;
  const dropped = new Map<number, TerrainTile[]>();
  const changed = new Map<string, { tile: TerrainTile; gone: Set<number> }>();
  let after = before;
  for (let round = 0; round < ROUNDS; round++) {
    const crowded = terrainTiles(after, side).filter((t) => t.layers.length > Math.max(1, limit));
    if (!crowded.length) break;
    for (const tile of crowded) {
      const key = `${tile.column} ${tile.row}`;
      const { gone } = changed.get(key) ?? { gone: new Set<number>() };
      for (const l of leastSeen(tile, Math.max(1, limit))) {
        if (!gone.has(l)) dropped.set(l, [...(dropped.get(l) ?? []), tile]);
        gone.add(l);
      }
      changed.set(key, { tile: changed.get(key)?.tile ?? tile, gone });
    }
    const caps = coverages.layers.map((_, l) => {
      const tiles = dropped.get(l + 1);
      return tiles ? leftOver(tiles, { width, height, step: 1, from: 0, room: ROOM }) : null;
    });
    after = storedCoverages(coverages, caps);
  }
  const tiles = [...changed.values()].map(({ tile, gone }) => ({
    column: tile.column,
    row: tile.row,
    dropped: [...gone].filter((l) => tile.layers.includes(l)).sort((a, b) => a - b),
    ...difference(before, after, tile),
  }));
  return { capped: [...dropped].map(([layer, list]) => ({ layer, tiles: list })), tiles, after };
}

/** What is left of a layer on a grid: samples a step of it, and where the first one lies; `room` samples around tiles count as theirs. */
function leftOver(
  tiles: readonly TileRect[],
  { width, height, step, from, room }: { width: number; height: number; step: number; from: number; room: number },
): Float32Array {
  const out = new Float32Array(width * height).fill(1);
  const reach = FADE + room;
  const index = (at: number, most: number) => Math.min(most, Math.max(0, at / step - from));
  for (const tile of tiles) {
    const [x0, x1] = [Math.floor(index(tile.x - reach, width - 1)), Math.ceil(index(tile.x + tile.width + reach, width - 1))];
    const [y0, y1] = [Math.floor(index(tile.y - reach, height - 1)), Math.ceil(index(tile.y + tile.height + reach, height - 1))];
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const i = y * width + x;
        out[i] = Math.min(out[i], leftBeside([tile], (x + from) * step, (y + from) * step, room));
      }
  }
  return out;
}

/** What a layer is held under, as a picture over the square that a terrain is painted on: bytes, row by row. */
export function capPicture(tiles: readonly TileRect[], field: { width: number; height: number }, side: number): Uint8Array<ArrayBuffer> {
  const step = (Math.max(field.width, field.height) - 1) / side;
  // Reading between texels reaches half of one farther.
  const left = leftOver(tiles, { width: side, height: side, step, from: 0.5, room: Math.max(ROOM, step) });
  const out = new Uint8Array(left.length);
  for (let i = 0; i < out.length; i++) out[i] = 255 * left[i] + 0.5;
  return out;
}
