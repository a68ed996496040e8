// Meshes whose coordinates lie on a set of tiles: each square of the plane has a texture of its own.
import type { Model, Part } from './model';
import { dividedPart, setsOf, withSets } from './model';

/** Tiles in a row; numbers go up by one to the right, and by so many a row upwards. */
const ROW = 10;
const FIRST = 1001;
/** Rows that numbers of four digits with a leading 1 hold. */
const ROWS = 20;

/** The number of the tile at texture coordinates (v down), 1001 being the square from 0 to 1; null where none has a number. */
export function tileAt(u: number, v: number): number | null {
  const [column, row] = [Math.floor(u), Math.floor(1 - v)];
  return column >= 0 && column < ROW && row >= 0 && row < ROWS ? FIRST + column + ROW * row : null;
}

/** How far a tile lies from the first, in texture coordinates. */
const offsetOf = (tile: number): [number, number] => [(tile - FIRST) % ROW, -Math.floor((tile - FIRST) / ROW)];

/** The tile of every triangle of a part, by where its middle lies in the first set. */
function tilesOfPart(part: Part): (number | null)[] {
  const { index } = part.mesh;
  const uv = setsOf(part).at(0);
  return Array.from({ length: index.length / 3 }, (_, t) => {
    if (!uv) return null;
    const middle = (c: number) => (uv[index[t * 3] * 2 + c] + uv[index[t * 3 + 1] * 2 + c] + uv[index[t * 3 + 2] * 2 + c]) / 3;
    return tileAt(middle(0), middle(1));
  });
}

/** Some triangles of a part with the vertices that they use. */
function pieceOf(part: Part, takes: (triangle: number) => boolean): Part {
  const { index } = part.mesh;
  const known = new Map<number, number>();
  const out: number[] = [];
  for (let k = 0; k < index.length; k++) {
    if (!takes(Math.floor(k / 3))) continue;
    if (!known.has(index[k])) known.set(index[k], known.size);
    out.push(known.get(index[k]) as number);
  }
  return dividedPart(part, { index: Uint32Array.from(out), from: Uint32Array.from(known.keys()) });
}

/**
 * A model whose slots are divided by the tiles of its textures: `body` becomes `body 1001`, `body 1002` …, each with its first
 * set of coordinates moved to the square from 0 to 1. Triangles belong to the tile of their middle.
 * @param named tiles that textures are there for
 * @returns null where fewer than two of them have a triangle: such coordinates repeat, or are one tile
 */
export function inTiles(model: Model, named: ReadonlySet<number>): { model: Model; tiles: number[] } | null {
  const levels = model.lods.map((parts) => parts.map((part) => ({ part, of: tilesOfPart(part) })));
  const tiles = [...new Set(levels.flat().flatMap(({ of }) => of))].filter((t): t is number => t !== null && named.has(t)).sort((a, b) => a - b);
  if (tiles.length < 2) return null;
  const lods = levels.map((parts) =>
    parts.flatMap(({ part, of }) => {
      const own = [...new Set(of)].sort((a, b) => (a ?? 0) - (b ?? 0));
      return own.map((tile) => {
        const piece = own.length > 1 ? pieceOf(part, (t) => of[t] === tile) : part;
        // What lies where no tile has a number keeps its slot.
        if (tile === null) return piece;
        const [u, v] = offsetOf(tile);
        const [first, ...more] = setsOf(piece);
        const moved = withSets(piece, [first.map((x, i) => x - (i % 2 ? v : u)), ...more]);
        return { ...moved, slot: `${part.slot} ${tile}`, name: own.length > 1 ? `${part.name} ${tile}` : part.name };
      });
    }),
  );
  return { model: { ...model, lods }, tiles };
}
