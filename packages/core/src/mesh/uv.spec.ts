import fc from 'fast-check';
import type { Mesh, Part } from '../index';
import {
  cividis,
  creasedNormals,
  densitySpread,
  drawMesh,
  drawPage,
  fillTriangle,
  islandAt,
  makeSpecimen,
  merged,
  placed,
  rimsOf,
  setsOf,
  allowedPairs,
  stackingKey,
  triangleAt,
  triangleColours,
  uvLayout,
  weld,
} from '../index';

/** A square of a side in metres on the ground, seen from above, laid out as a box of the page. */
function square(side: number, [u0, v0, u1, v1]: readonly [number, number, number, number], at: readonly [number, number] = [0, 0]): Mesh {
  const corners = [
    [0, 0, u0, v0],
    [side, 0, u1, v0],
    [side, side, u1, v1],
    [0, side, u0, v1],
  ];
  return {
    position: Float32Array.from(corners.flatMap(([x, z]) => [x + at[0], 0, z + at[1]])),
    normal: Float32Array.from(corners.flatMap(() => [0, 1, 0])),
    tangent: Float32Array.from(corners.flatMap(() => [1, 0, 0, 1])),
    texcoord: Float32Array.from(corners.flatMap(([, , u, v]) => [u, v])),
    geomcolor: new Float32Array(16).fill(1),
    // Counter-clockwise from above, with +X right and +Z down.
    index: Uint32Array.of(0, 3, 1, 1, 3, 2),
  };
}

describe('filling triangles', () => {
  const size = 24;
  const window = { x0: 0, y0: 0, x1: size, y1: size };
  it('takes every sample of a divided square exactly once, wherever its middle lies', () => {
    fc.assert(
      fc.property(fc.double({ min: 2, max: 22, noNaN: true }), fc.double({ min: 2, max: 22, noNaN: true }), (x, y) => {
        const hits = new Uint8Array(size * size);
        const ring = [0, 0, size, 0, size, size, 0, size];
        for (let k = 0; k < 4; k++) {
          const [a, b] = [k * 2, ((k + 1) % 4) * 2];
          fillTriangle([ring[a], ring[a + 1], ring[b], ring[b + 1], x, y], window, (px, py) => hits[py * size + px]++);
        }
        expect(hits.every((h) => h === 1)).toBeTrue();
      }),
    );
  });
  it('gives shares of the corners that sum to one and find the sample again', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -40, max: 64 }), { minLength: 6, maxLength: 6 }), (c) => {
        fillTriangle(c, window, (x, y, a, b, d) => {
          expect(a + b + d).toBeCloseTo(1, 9);
          expect(a * c[0] + b * c[2] + d * c[4]).toBeCloseTo(x + 0.5, 2);
          expect(a * c[1] + b * c[3] + d * c[5]).toBeCloseTo(y + 0.5, 2);
        });
      }),
    );
  });
  it('leaves out what has no area, and numbers that are none', () => {
    let hits = 0;
    fillTriangle([0, 0, 5, 5, 10, 10], window, () => hits++);
    fillTriangle([0, 0, NaN, 5, 10, 0], window, () => hits++);
    expect(hits).toBe(0);
  });
});

describe('welding', () => {
  it('gives equal vertices the first of them, as a plain search does', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(0, -0, 1, 0.1, 1e-30, -7), { minLength: 3, maxLength: 60 }), (values) => {
        const array = Float32Array.from(values.slice(0, values.length - (values.length % 3)));
        const rows = Array.from({ length: array.length / 3 }, (_, i) => [...array.subarray(i * 3, i * 3 + 3)].map((v) => v + 0).join());
        if (rows.length) expect([...weld([array], [3])]).toEqual(rows.map((r) => rows.indexOf(r)));
      }),
    );
  });
});

describe('a layout', () => {
  it('of one square: one island, its area, its density', () => {
    const { islands, covered, overlaps, collapsed } = uvLayout([square(2, [0.25, 0.25, 0.75, 0.75])]);
    expect(islands.length).toBe(1);
    expect(islands[0]).toEqual(jasmine.objectContaining({ triangles: 2, flipped: false, folded: 0, outside: false, repeats: false }));
    expect(islands[0].area).toBeCloseTo(0.25, 6);
    expect(islands[0].areaM2).toBeCloseTo(4, 6);
    // Half a tile over two metres: at 2048 pixels 512 px/m.
    expect(islands[0].density * 2048).toBeCloseTo(512, 3);
    expect(covered).toBeCloseTo(0.25, 6);
    expect(overlaps).toEqual([]);
    expect(collapsed).toBe(0);
  });
  it('tells islands of parts and of one part, by their corners', () => {
    const apart = merged([square(1, [0, 0, 0.2, 0.2]), square(1, [0.5, 0.5, 0.7, 0.7], [3, 0])]);
    expect(uvLayout([apart]).islands.length).toBe(2);
    // The same corner in space and on the page joins them.
    expect(uvLayout([merged([square(1, [0, 0, 0.25, 0.25]), square(1, [0.25, 0.25, 0.5, 0.5], [1, 1])])]).islands.length).toBe(1);
  });
  it('finds stacked and crossing islands, and which parts they are of', () => {
    const stacked = uvLayout([square(1, [0, 0, 0.5, 0.5]), square(1, [0, 0, 0.5, 0.5], [4, 0])]);
    expect(stacked.overlaps).toEqual([jasmine.objectContaining({ parts: [0, 1], pairs: 1, stacked: true })]);
    expect(stacked.overlaps[0].share).toBeCloseTo(0.25, 6);
    expect([...stacked.overlapping]).toEqual([1, 1, 1, 1]);
    const crossing = uvLayout([square(1, [0, 0, 0.5, 0.5]), square(1, [0.25, 0.25, 0.75, 0.75], [4, 0])]);
    expect(crossing.overlaps[0].stacked).toBeFalse();
    expect(crossing.overlaps[0].share).toBeCloseTo(0.0625, 6);
    expect(crossing.covered).toBeCloseTo(0.4375, 6);
  });
  it('of hundreds of pieces on one tile counts them on a grid that keeps the work bounded', () => {
    // Each covers the whole tile: on the finest grid these would be half a thousand million samples.
    const many = uvLayout(Array.from({ length: 500 }, (_, i) => square(1, [0, 0, 1, 1], [2 * i, 0])));
    expect(many.islands.length).toBe(500);
    expect(many.overlaps.length).toBe(499);
    expect(many.overlaps.every((o) => o.stacked && o.parts[0] === 0 && Math.abs(o.share - 1) < 1e-9)).toBeTrue();
    expect(many.covered).toBe(1);
  });
  it('counts an island in another tile where it repeats, and one larger than a tile nowhere', () => {
    const over = uvLayout([square(1, [0, 0, 0.5, 0.5]), square(1, [3, -2, 3.5, -1.5], [4, 0])]);
    expect(over.islands.map((i) => i.outside)).toEqual([false, true]);
    expect(over.overlaps[0].stacked).toBeTrue();
    const tiled = uvLayout([square(4, [0, 0, 4, 4])]);
    expect(tiled.islands[0].repeats).toBeTrue();
    expect(tiled.covered).toBe(0);
    expect(tiled.overlaps).toEqual([]);
    // One that ends on the border of the tile stays in it.
    expect(uvLayout([square(1, [0.5, 0.5, 1, 1])]).islands[0].outside).toBeFalse();
  });
  it('says what is mirrored, folded over and without area', () => {
    expect(uvLayout([square(1, [0.5, 0, 0, 0.5])]).islands[0].flipped).toBeTrue();
    const folded = square(1, [0, 0, 0.5, 0.5]);
    folded.texcoord.set([-0.3, -0.3], 4);
    expect(uvLayout([folded]).islands[0].folded).toBe(1);
    expect(uvLayout([square(1, [0.5, 0, 0.5, 0.5])])).toEqual(jasmine.objectContaining({ collapsed: 2, islands: [] }));
    expect(densitySpread([])).toBeNull();
  });
  it('of specimens of our own: nothing is mirrored but what is mirrored, densities within 2×', () => {
    for (const name of ['sphere', 'cube', 'slab', 'copper-still'] as const) {
      const { islands } = uvLayout([makeSpecimen(name, 1)]);
      expect(islands.some((i) => i.flipped))
        .withContext(name)
        .toBeFalse();
    }
  });
  it('weighs densities by area', () => {
    const layout = uvLayout([square(9, [0, 0, 0.9, 0.9]), square(1, [0.9, 0.9, 1, 1], [20, 0]), square(0.1, [0, 0.95, 0.05, 1], [30, 0])]);
    const spread = densitySpread(layout.islands);
    expect(spread?.low).toBeCloseTo(0.1, 5);
    expect(spread?.high).toBeCloseTo(0.1, 5);
    expect(spread?.mean).toBeCloseTo(0.1, 2);
  });
  it('finds pairs that may lie on each other by their numbers in a level, a part on itself too, and none of other levels', () => {
    const parts = ['p4', 'p5', 'p10'].map((id) => ({ id }));
    expect(allowedPairs(parts, { [stackingKey('p10', 'p4')]: true, [stackingKey('p5', 'p5')]: true })).toEqual([
      [0, 2],
      [1, 1],
    ]);
    expect(allowedPairs(parts, { [stackingKey('p4', 'p1')]: true })).toEqual([]);
  });
  it('keeps the wish to stack under one key, whichever part is named first', () => expect(stackingKey('p2', 'p10')).toBe(stackingKey('p10', 'p2')));
});

describe('normals of a mesh without them', () => {
  const cube = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((k) => [k & 1, (k >> 1) & 1, (k >> 2) & 1]);
  const faces = [0, 2, 3, 0, 3, 1, 4, 5, 7, 4, 7, 6, 0, 1, 5, 0, 5, 4, 2, 6, 7, 2, 7, 3, 0, 4, 6, 0, 6, 2, 1, 3, 7, 1, 7, 5];
  it('divide a cube at its edges: 24 vertices, each facing as its side does', () => {
    const { normal, index, from } = creasedNormals(Float32Array.from(cube), Uint32Array.from(faces));
    expect(from.length).toBe(24);
    expect(index.length).toBe(36);
    for (let i = 0; i < normal.length; i += 3) expect([...normal.subarray(i, i + 3)].map(Math.abs).sort()).toEqual([0, 0, 1]);
    expect([...index].map((i) => from[i])).toEqual(faces);
  });
  it('round a sphere: no vertex is divided, and each faces outwards within two degrees', () => {
    const { position, index } = makeSpecimen('sphere', 1);
    const made = creasedNormals(position, index);
    let worst = 1;
    for (let i = 0; i < made.normal.length; i += 3) {
      const p = position.subarray(made.from[i / 3] * 3, made.from[i / 3] * 3 + 3);
      const length = Math.hypot(...p);
      worst = Math.min(worst, (p[0] * made.normal[i] + p[1] * made.normal[i + 1] + p[2] * made.normal[i + 2]) / length);
    }
    expect(worst).toBeGreaterThan(Math.cos((2 * Math.PI) / 180));
  });
});

describe('a part in its place', () => {
  const part = (placement: number[]): Part => ({ name: 'a', slot: 's', mesh: square(1, [0, 0, 1, 1]), placement });
  it('is scaled to metres, turned up and moved', () => {
    const moved = placed(part([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 100, 200, 300, 1]), { unitM: 0.01, up: 'y' });
    [1, 2, 3].forEach((v, c) => expect(moved.position[c]).toBeCloseTo(v, 6));
    const upright = placed({ ...part([]), placement: undefined }, { unitM: 1, up: 'z' });
    // What faced +Y lies on its side: +Y of the file is −Z here.
    expect([...upright.normal.subarray(0, 3)].map((v) => Math.round(v) + 0)).toEqual([0, 0, -1]);
  });
  it('keeps facing outwards when its placement mirrors it', () => {
    const mirrored = placed(part([-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]));
    const [a, b, c] = [0, 1, 2].map((k) => mirrored.position.subarray(mirrored.index[k] * 3, mirrored.index[k] * 3 + 3));
    const up = (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2]);
    expect(up).toBeGreaterThan(0);
    expect(mirrored.tangent[3]).toBe(-1);
    expect(uvLayout([mirrored]).islands[0].flipped).toBeTrue();
  });
  it('has the set that is asked for, and zeros for one that it lacks', () => {
    const second = new Float32Array(8).fill(0.5);
    const two: Part = { ...part([]), placement: undefined, sets: [square(1, [0, 0, 1, 1]).texcoord, second] };
    expect(placed(two, undefined, 1).texcoord).toEqual(second);
    expect(placed(two, undefined, 2).texcoord.every((v) => v === 0)).toBeTrue();
    expect(setsOf({ ...two, sets: [] })).toEqual([]);
  });
});

describe('pictures of meshes', () => {
  // Looking straight down on a square metre that fills the picture: x right, z down.
  const clip = [2, 0, 0, 0, 0, 0, 0, 0, 0, -2, 0, 0, -1, 1, 0, 1];
  it('show the nearer of two triangles, and which one it is', () => {
    const mesh = merged([square(1, [0, 0, 1, 1]), square(0.5, [0, 0, 1, 1], [0.25, 0.25])]);
    // The second lies above: nearer to the eye, which is where w is small.
    const perspective = [...clip];
    perspective[7] = -0.5;
    for (let i = 12; i < 24; i += 3) mesh.position[i + 1] = 0.5;
    const picture = drawMesh(
      mesh,
      perspective,
      [0.5, 3, 0.5],
      { width: 32, height: 32 },
      { triangles: Uint32Array.of(0xff0000, 0xff0000, 0x0000ff, 0x0000ff) },
    );
    const at = (x: number, y: number) => [...picture.data.subarray((y * 32 + x) * 4, (y * 32 + x) * 4 + 4)];
    const middle = at(16, 16);
    expect(middle[2]).toBeGreaterThan(60);
    expect(middle[0]).toBe(0);
    expect(at(2, 2)[0]).toBeGreaterThan(60);
    expect(picture.triangle[16 * 32 + 16]).toBeGreaterThanOrEqual(2);
    expect(picture.triangle.every((t) => t >= 0)).toBeTrue();
  });
  it('are transparent where nothing is, and take colours of vertices', () => {
    const mesh = square(0.5, [0, 0, 1, 1]);
    const picture = drawMesh(
      mesh,
      clip,
      [0.5, 3, 0.5],
      { width: 16, height: 16 },
      { vertices: Float32Array.from([0, 1, 2, 3].flatMap(() => [0, 1, 0, 1])) },
    );
    expect(picture.data[(15 * 16 + 15) * 4 + 3]).toBe(0);
    expect([...picture.data.subarray(0, 4)].map((v) => v > 60)).toEqual([false, true, false, true]);
  });
  it('of the page: triangles in their colours inside the tile, rims around islands, the same triangle found again', () => {
    const meshes = [square(1, [0.25, 0.25, 0.75, 0.75])];
    const rims = rimsOf(meshes);
    expect(rims[0].length / 2).toBe(4);
    const page = drawPage(meshes, rims, { u: 0.5, v: 0.5, span: 1 }, { width: 64, height: 64 }, Uint32Array.of(0x123456, 0x123456));
    const at = (x: number, y: number) => [...page.data.subarray((y * 64 + x) * 4, (y * 64 + x) * 4 + 3)];
    expect(at(32, 32)).toEqual([0x12, 0x34, 0x56]);
    expect(at(16, 30)).toEqual([0x23, 0x28, 0x2b]);
    expect(at(4, 5)).not.toEqual([0x12, 0x34, 0x56]);
    const layout = uvLayout(meshes);
    expect(islandAt(layout, triangleAt(meshes, 0.5, 0.5))).toBe(0);
    expect(islandAt(layout, triangleAt(meshes, 0.1, 0.5))).toBeNull();
  });
  it('say what they are asked for by colour', () => {
    const meshes = [square(1, [0, 0, 0.5, 0.5]), square(1, [0.5, 0, 0, 0.5], [4, 0])];
    const layout = uvLayout(meshes);
    const parts = [
      { triangles: 2, slot: 'stone' },
      { triangles: 2, slot: 'stone' },
    ];
    const of = (colouring: 'slots' | 'parts' | 'turned' | 'overlaps' | 'density', allowed = false, highlight: number | null = null) =>
      [...triangleColours({ colouring, layout, parts, density: 0.5, allowed: () => allowed, highlight })].filter((_, t) => t % 2 === 0);
    expect(new Set(of('slots')).size).toBe(1);
    expect(new Set(of('parts')).size).toBe(2);
    const [plain, mirrored] = of('turned');
    expect(plain).not.toBe(mirrored);
    expect(of('overlaps')[0]).toBe(mirrored);
    expect(of('overlaps', true)[0]).not.toBe(mirrored);
    expect(of('parts', false, 1)).toEqual([of('parts')[0], jasmine.any(Number)]);
    expect(of('parts', false, 1)[1]).not.toBe(of('parts')[1]);
    // The middle of the scale is the density that was given, its ends half and twice of it.
    expect(of('density')[0]).toBe(cividis(0.5));
  });
  it('have a scale that runs from blue to yellow and only grows lighter', () => {
    const light = Array.from({ length: 33 }, (_, i) => {
      const c = cividis(i / 32);
      return 0.2126 * (c >>> 16) + 0.7152 * ((c >>> 8) & 255) + 0.0722 * (c & 255);
    });
    for (let i = 1; i < light.length; i++) expect(light[i]).toBeGreaterThan(light[i - 1]);
    expect(cividis(0) & 255).toBeGreaterThan((cividis(0) >>> 16) + 40);
    expect(cividis(1) >>> 16).toBeGreaterThan(240);
  });
});
