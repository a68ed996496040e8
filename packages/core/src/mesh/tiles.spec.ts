import { inTiles, setsOf, tileAt } from '../index';
import type { Model, Part } from '../index';
import { grid } from './mesh';

const nothing = () => undefined;
/** A floor of 4 × 4 squares that is laid out from `u`, `v` on, one unit across each way. */
const floor = (name: string, slot: string, u: number, v: number, wide = 1): Part => ({
  name,
  slot,
  mesh: grid(4 * wide, 4, (s, t) => ({ p: [s * wide, 0, t], uv: [u + s * wide, v + t] }), nothing),
});
const triangles = (parts: readonly Part[]) => parts.reduce((n, p) => n + p.mesh.index.length / 3, 0);

describe('coordinates on a set of tiles', () => {
  it('are numbered from 1001 to the right and, ten more a row, upwards, v pointing down', () => {
    expect(tileAt(0.5, 0.5)).toBe(1001);
    expect(tileAt(3.2, 0.1)).toBe(1004);
    expect(tileAt(9.9, 0.5)).toBe(1010);
    expect(tileAt(0.5, -0.5)).toBe(1011);
    expect(tileAt(2.5, -8.01)).toBe(1093);
    for (const [u, v] of [
      [-0.1, 0.5],
      [10.1, 0.5],
      [0.5, 1.5],
      [0.5, -20.5],
    ])
      expect(tileAt(u, v)).toBeNull();
  });
  it('divide slots, each piece in the square from 0 to 1, with no triangle lost or moved', () => {
    const model: Model = { title: '', lods: [[floor('hull', 'body', 0, 0, 2), floor('lid', 'body', 0, -1)], [floor('hull', 'body', 0, 0, 2)]] };
    const { model: tiled, tiles } = inTiles(model, new Set([1001, 1002, 1011]))!;
    expect(tiles).toEqual([1001, 1002, 1011]);
    expect(tiled.lods.map((parts) => parts.map((p) => [p.name, p.slot]))).toEqual([
      [
        ['hull 1001', 'body 1001'],
        ['hull 1002', 'body 1002'],
        ['lid', 'body 1011'],
      ],
      [
        ['hull 1001', 'body 1001'],
        ['hull 1002', 'body 1002'],
      ],
    ]);
    expect(tiled.lods.map(triangles)).toEqual(model.lods.map(triangles));
    for (const part of tiled.lods.flat()) {
      const used = [...part.mesh.index].flatMap((i) => [...setsOf(part)[0].subarray(i * 2, i * 2 + 2)]);
      expect(Math.min(...used)).toBe(0);
      expect(Math.max(...used)).toBe(1);
      // Only the vertices that it uses.
      expect(new Set(part.mesh.index).size).toBe(part.mesh.position.length / 3);
    }
    // Where a corner stands is what it was: the place is the coordinate, and the tile's own offset.
    const [, right] = tiled.lods[0];
    for (const i of right.mesh.index) expect(right.mesh.position[i * 3]).toBeCloseTo(setsOf(right)[0][i * 2] + 1, 6);
  });
  it('are left alone where they repeat or lie on one tile, and keep their slot where no tile has a number', () => {
    const one: Model = { title: '', lods: [[floor('a', 'body', 0, 0)]] };
    const two: Model = { title: '', lods: [[floor('a', 'body', 0, 0, 2)]] };
    expect(inTiles(one, new Set([1001, 1002]))).toBeNull();
    expect(inTiles(two, new Set())).toBeNull();
    expect(inTiles(two, new Set([1001, 1005]))).toBeNull();
    const beside: Model = { title: '', lods: [[floor('a', 'body', -1, 0, 3)]] };
    expect(inTiles(beside, new Set([1001, 1002]))!.model.lods[0].map((p) => p.slot)).toEqual(['body', 'body 1001', 'body 1002']);
  });
});
