import { CELLS, bareRims, cellsAgree, cellsOf, cellsText, coveredCells, dilate, inkCells, makeImage, makeRandom } from '../index';

/** Triangles over a box of the texture. */
const box = (u0: number, v0: number, u1: number, v1: number) => ({
  texcoord: Float32Array.of(u0, v0, u1, v0, u1, v1, u0, v1),
  index: Uint32Array.of(0, 1, 2, 0, 2, 3),
});
/** A picture that says something in a box alone. */
const picture = (u0: number, v0: number, u1: number, v1: number, channels = 3, ground = 0) => {
  const side = 96;
  const image = makeImage({ width: side, height: side, channels });
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const inside = x >= u0 * side && x < u1 * side && y >= v0 * side && y < v1 * side;
      for (let c = 0; c < channels; c++)
        image.data[(y * side + x) * channels + c] =
          channels === 4 && c === 3 ? (inside ? 255 : 0) : inside || channels === 4 ? 40 + ((x * 7 + y * 13 + c * 50) % 180) : ground;
    }
  return image;
};
const share = (cells: Uint8Array | null) => (cells ? cells.reduce((n, v) => n + v, 0) / cells.length : null);

describe('where a mesh lies on its texture', () => {
  it('is its share of cells, in whichever tile, mirrored or not', () => {
    expect(share(coveredCells([box(0, 0, 0.5, 1)]))).toBeCloseTo(0.5, 2);
    expect(share(coveredCells([box(0, 0, 0.5, 0.5), box(0.5, 0.5, 1, 1)]))).toBeCloseTo(0.5, 2);
    expect(coveredCells([box(1, -1, 1.5, 0)])).toEqual(coveredCells([box(0, 0, 0.5, 1)]));
    expect(coveredCells([box(0.5, 0, 0, 1)])).toEqual(coveredCells([box(0, 0, 0.5, 1)]));
    expect(share(coveredCells([{ texcoord: Float32Array.of(NaN, 0, 1, 0, 1, 1), index: Uint32Array.of(0, 1, 2) }]))).toBe(0);
  });
  it('agrees with pictures that were made for it, on a ground of any colour or of none, and with no others', () => {
    const covered = coveredCells([box(0.1, 0.2, 0.6, 0.9)]);
    for (const made of [
      picture(0.1, 0.2, 0.6, 0.9),
      picture(0.1, 0.2, 0.6, 0.9, 3, 128),
      picture(0.1, 0.2, 0.6, 0.9, 4),
      picture(0.1, 0.2, 0.6, 0.9, 1, 255),
    ])
      expect(cellsAgree(covered, inkCells(made) as Uint8Array)).toBeGreaterThan(0.9);
    expect(cellsAgree(covered, inkCells(picture(0.62, 0.2, 0.98, 0.9)) as Uint8Array)).toBeLessThan(0.05);
    // What is carried a little past the rims still does.
    expect(cellsAgree(covered, inkCells(picture(0.08, 0.18, 0.62, 0.92)) as Uint8Array)).toBeGreaterThan(0.85);
  });
  it('is not asked of pictures without a ground', () => {
    expect(inkCells(picture(0, 0, 1, 1))).toBeNull();
    expect(inkCells(makeImage({ width: 8, height: 8, channels: 3 }))).toBeNull();
  });
  it('comes back from text as it was', () => {
    const cells = new Uint8Array(CELLS * CELLS).map((_, i) => ((i * 7919) % 3) & 1);
    expect(cellsOf(cellsText(cells))).toEqual(cells);
    expect(cellsText(cells).length).toBe((CELLS * CELLS) / 4);
  });
});

describe('rims of islands', () => {
  const SIDE = 256;
  /** An island over the middle of the tile, its texels from `colour`, on black; padded by so many texels. */
  const picture = (colour: () => number, padding: number) => {
    const image = makeImage({ width: SIDE, height: SIDE, channels: 3 });
    const covered = new Uint8Array(SIDE * SIDE);
    for (let y = 64; y < 192; y++)
      for (let x = 64; x < 192; x++) {
        covered[y * SIDE + x] = 1;
        for (let c = 0; c < 3; c++) image.data[(y * SIDE + x) * 3 + c] = colour();
      }
    if (padding) dilate(image, covered, padding);
    return image;
  };
  const island = [box(0.25, 0.25, 0.75, 0.75)];
  const random = makeRandom(7);
  it('are bare where the ground begins at once, whatever the island looks like, and not where it was padded', () => {
    for (const colour of [() => 180, () => Math.floor(60 + random() * 190)]) {
      expect(bareRims(picture(colour, 0), island)).toBeGreaterThan(0.9);
      expect(bareRims(picture(colour, 8), island)).toBeLessThan(0.02);
    }
  });
  it('are no matter where ground and island are alike, or nothing lies around it', () => {
    expect(
      bareRims(
        picture(() => 20, 0),
        island,
      ),
    ).toBe(0);
    expect(
      bareRims(
        picture(() => 180, 0),
        [box(0, 0, 1, 1)],
      ),
    ).toBe(0);
  });
});
