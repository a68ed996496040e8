import fc from 'fast-check';
import type { Brush, Mesh } from '../index';
import {
  Brushing,
  Bvh,
  DEFAULT_BRUSH,
  TILE_VERTICES,
  VertexPainter,
  boundsOf,
  edgeCount,
  eyeOf,
  fieldMesh,
  groundSeen,
  hillside,
  placeAt,
  rayThrough,
  coloursAt,
  falloffAt,
  finerFor,
  fedBy,
  finerMesh,
  finerTimes,
  makeBlend,
  makeCue,
  makeLayer,
  makePatch,
  makeSpecimen,
  pickMesh,
  putTile,
  reachedBy,
  spaceNoise,
  tileBytes,
  vertexSpacing,
} from '../index';

/** A level square of a metre, `n` cells a side, at a height, seen from above or (turned over) from below. */
function plane(n: number, height = 0, over = false): Mesh {
  const count = (n + 1) ** 2;
  const mesh: Mesh = {
    position: new Float32Array(count * 3),
    normal: new Float32Array(count * 3),
    tangent: new Float32Array(count * 4),
    texcoord: new Float32Array(count * 2),
    geomcolor: new Float32Array(count * 4),
    index: new Uint32Array(n * n * 6),
  };
  for (let r = 0, i = 0; r <= n; r++)
    for (let c = 0; c <= n; c++, i++) {
      mesh.position.set([c / n, height, r / n], i * 3);
      mesh.normal.set([0, over ? -1 : 1, 0], i * 3);
      mesh.tangent.set([1, 0, 0, 1], i * 4);
      mesh.texcoord.set([c / n, r / n], i * 2);
      mesh.geomcolor[i * 4 + 3] = 1;
    }
  for (let r = 0, k = 0; r < n; r++)
    for (let c = 0; c < n; c++, k += 6) {
      const a = r * (n + 1) + c;
      const [b, d, e] = [a + 1, a + n + 1, a + n + 2];
      mesh.index.set(over ? [a, b, d, b, e, d] : [a, d, b, b, d, e], k);
    }
  return mesh;
}
const down = (mesh: Mesh, x: number, z: number) => pickMesh(mesh, [x, 5, z], [0, -1, 0])!;
const red = (painter: VertexPainter) => painter.colours.filter((_, i) => i % 4 === 0);
const brush = (over: Partial<Brush> = {}): Brush => ({ ...DEFAULT_BRUSH, radiusM: 0.2, ...over });

describe('painting vertices', () => {
  it('reaches a disc of the radius: as many vertices as its area holds, each by the falloff', () => {
    const mesh = plane(100);
    const painter = new VertexPainter(mesh);
    painter.begin(brush(), 'r', 'add');
    const reached = painter.dab(down(mesh, 0.503, 0.497));
    expect(Math.abs(reached / (Math.PI * 0.2 ** 2 * 101 ** 2) - 1)).toBeLessThan(0.03);
    const off = red(painter).map((v, i) =>
      Math.abs(v - falloffAt(brush(), Math.hypot(mesh.position[i * 3] - 0.503, mesh.position[i * 3 + 2] - 0.497))),
    );
    expect(Math.max(...off)).toBeLessThan(1e-5);
  });
  it('leaves the other side of a thin wall, and what lies near without being connected', () => {
    const [front, back] = [plane(40), plane(40, -0.004, true)];
    const both: Mesh = {
      ...front,
      position: Float32Array.of(...front.position, ...back.position),
      normal: Float32Array.of(...front.normal, ...back.normal),
      geomcolor: Float32Array.of(...front.geomcolor, ...back.geomcolor),
      index: Uint32Array.of(...front.index, ...back.index.map((i) => i + 41 ** 2)),
    };
    const painter = new VertexPainter(both);
    painter.begin(brush(), 'r', 'add');
    painter.dab(down(both, 0.5, 0.5));
    expect(Math.max(...red(painter).subarray(0, 41 ** 2))).toBeGreaterThan(0.99);
    expect(Math.max(...red(painter).subarray(41 ** 2))).toBe(0);
  });
  it('paints vertices of one place alike, so that rims of islands do not show', () => {
    const cube = makeSpecimen('cube', 1);
    const mesh = { ...cube, geomcolor: new Float32Array(cube.geomcolor.length) };
    const { hi } = boundsOf(mesh);
    const painter = new VertexPainter(mesh);
    painter.begin(brush({ radiusM: 0.3 }), 'b', 'add');
    // From above, at a rim of the upper side: the dab goes round it.
    expect(painter.dab(new Bvh(mesh).first([hi[0] * 0.8, 5, 0.01], [0, -1, 0])!)).toBeGreaterThan(100);
    const at = new Map<string, number>();
    for (let i = 0; i < painter.vertices; i++) {
      const key = [0, 1, 2].map((c) => Math.round(mesh.position[i * 3 + c] * 1e5)).join();
      const other = at.get(key);
      if (other !== undefined) expect(painter.colours[i * 4 + 2]).toBe(other);
      at.set(key, painter.colours[i * 4 + 2]);
    }
  });
  it('does not depend on how often, or in which order, a stroke’s dabs come', () => {
    const mesh = plane(24);
    fc.assert(
      fc.property(
        fc.array(fc.record({ x: fc.double({ min: 0.05, max: 0.95, noNaN: true }), z: fc.double({ min: 0.05, max: 0.95, noNaN: true }) }), {
          minLength: 1,
          maxLength: 6,
        }),
        fc.constantFrom('add' as const, 'erase' as const, 'smooth' as const),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (dabs, aim, by) => {
          const run = (list: typeof dabs) => {
            const painter = new VertexPainter({ ...mesh, geomcolor: mesh.geomcolor.map((_, i) => ((i * 37) % 256) / 255) });
            painter.begin(brush({ broken: { by, atM: 0.07, seed: 3 }, strength: 0.8 }), 'g', aim);
            for (const { x, z } of list) painter.dab(down(mesh, x, z));
            painter.end();
            return [...painter.colours];
          };
          expect(run([...dabs, ...dabs].reverse())).toEqual(run(dabs));
        },
      ),
      { numRuns: 40 },
    );
  });
  it('keeps within 0 and 1, never past its strength, and other channels bit for bit', () => {
    const mesh = plane(30);
    const painter = new VertexPainter(mesh);
    for (let k = 0; k < 5; k++) {
      painter.begin(brush({ strength: 0.5 }), 'r', 'add');
      painter.dab(down(mesh, 0.5, 0.5));
      painter.end();
      expect(Math.max(...painter.colours.filter((_, i) => i % 4 === 0))).toBeCloseTo(1 - 0.5 ** (k + 1), 2);
    }
    const others = (values: Float32Array) => [...values].filter((_, i) => i % 4);
    expect(others(painter.colours)).toEqual(others(mesh.geomcolor));
  });
  it('weakens by the pressure of a pen, and is broken up by noise without gaps in what it holds back', () => {
    const mesh = plane(60);
    const most = (over: Partial<Brush>, pressure = 1) => {
      const painter = new VertexPainter(mesh);
      painter.begin(brush(over), 'r', 'add');
      painter.dab(down(mesh, 0.5, 0.5), pressure);
      return red(painter);
    };
    expect(Math.max(...most({}, 0.25))).toBeCloseTo(0.25, 2);
    const sum = (values: Float32Array) => values.reduce((a, v) => a + v, 0);
    const [whole, half, none] = [
      sum(most({})),
      sum(most({ broken: { by: 0.5, atM: 0.04, seed: 2 } })),
      sum(most({ broken: { by: 1, atM: 0.04, seed: 2 } })),
    ];
    expect(none).toBeLessThan(half);
    expect(half).toBeLessThan(whole);
    expect(none / whole).toBeGreaterThan(0.2);
    expect(none / whole).toBeLessThan(0.8);
    for (let i = 0; i < 200; i++) {
      const v = spaceNoise(i * 0.13, i * 0.31, -i * 0.07, 5);
      expect(v >= 0 && v <= 1).toBeTrue();
    }
  });
  it('goes along the pointer’s way without gaps, and over none between two things', () => {
    const mesh = plane(80);
    // Straight from above, so that the picture is the square.
    const sight = {
      eye: { yaw: 0, pitch: Math.PI / 2 - 1e-4, distance: 2, target: [0.5, 0, 0.5] as [number, number, number], field: 2 * Math.atan(0.25) },
      aspect: 1,
    };
    const painter = new VertexPainter(mesh);
    const round = brush({ radiusM: 0.06, falloff: 0 });
    painter.begin(round, 'r', 'add');
    const stroke = new Brushing(painter, mesh, new Bvh(mesh), round);
    for (const x of [0.1, 0.9]) expect(stroke.to({ x, y: 0.5, pressure: 1 }, sight)).toBeGreaterThan(20);
    for (let c = 10; c <= 70; c++) expect(painter.colours[(40 * 81 + c) * 4]).toBe(1);
    expect(stroke.to({ x: 1.4, y: 0.5, pressure: 1 }, sight)).toBeNull();
    // Back on the mesh elsewhere: nothing is drawn over the way that was beside it.
    stroke.to({ x: 0.5, y: 0.9, pressure: 1 }, sight);
    expect(painter.colours[(60 * 81 + 60) * 4]).toBe(0);
  });
  it('on a terrain paints what is pointed at on the ground as it is drawn, though its own mesh is coarse', () => {
    const hill = hillside(257);
    const [coarse, fine] = [fieldMesh(hill, 8, 1720), fieldMesh(hill, 1, 1720)];
    const [tree, truth] = [new Bvh(coarse), new Bvh(fine)];
    const seen = groundSeen(hill, 1720, tree);
    const off = { seen: [] as number[], mesh: [] as number[], away: [] as number[] };
    for (let k = 0; k < 120; k++) {
      const [tx, tz] = [((k * 53) % 300) - 150, ((k * 29) % 300) - 150];
      const eye = { yaw: k, pitch: 0.3, distance: 60, target: [tx, 90, tz] as [number, number, number], field: 0.62 };
      const [x, y] = [0.2 + 0.6 * ((k % 7) / 7), 0.4 + 0.5 * ((k % 5) / 5)];
      const [ox, oy, oz] = eyeOf(eye);
      const met = truth.first([ox, oy, oz], rayThrough(eye, 1.6, x, y));
      const [ours, plain] = [seen({ eye, aspect: 1.6 }, x, y), tree.first([ox, oy, oz], rayThrough(eye, 1.6, x, y))];
      if (!met || !ours || !plain) continue;
      const there = placeAt(fine, met);
      const from = (hit: typeof met) => Math.hypot(placeAt(coarse, hit)[0] - there[0], placeAt(coarse, hit)[2] - there[2]);
      off.seen.push(from(ours));
      off.mesh.push(from(plain));
      off.away.push(Math.abs(ours.away - met.away));
    }
    const typical = (of: number[]) => of.sort((a, b) => a - b)[Math.floor(0.8 * of.length)];
    expect(off.seen.length).toBeGreaterThan(60);
    // Between samples the drawn triangles and the ground differ by centimetres: that is all.
    expect(typical(off.seen)).toBeLessThan(0.3);
    // How large a dab is shown goes by how far off the ground is.
    expect(typical(off.away)).toBeLessThan(0.3);
    expect(typical(off.mesh)).toBeGreaterThan(4 * typical(off.seen));
  });
  it('gives a lost stroke up: every vertex is as before', () => {
    const mesh = makePatch(1, 30);
    const painter = new VertexPainter(mesh);
    painter.begin(brush(), 'r', 'erase');
    painter.dab(down(mesh, 0, 0));
    expect([...painter.colours]).not.toEqual([...mesh.geomcolor]);
    painter.cancel();
    expect([...painter.colours]).toEqual([...mesh.geomcolor]);
    expect(painter.takeUnkept()).toEqual([]);
  });
  it('smooths toward what lies around', () => {
    const mesh = plane(20);
    const middle = 10 * 21 + 10;
    mesh.geomcolor[middle * 4] = 1;
    const painter = new VertexPainter(mesh);
    painter.begin(brush({ falloff: 0 }), 'r', 'smooth');
    painter.dab(down(mesh, 0.51, 0.51));
    expect(painter.colours[middle * 4]).toBe(0);
    expect(painter.colours[(middle + 1) * 4]).toBeCloseTo(1 / 6, 5);
  });
  it('fills, inverts and swaps channels; twice is as before, to the byte', () => {
    const painter = new VertexPainter(makePatch(1, 30));
    painter.fill('a', 0.2);
    const bytes = () => [...tileBytes(painter.colours, 0)];
    const start = bytes();
    expect(start[3]).toBe(51);
    painter.invert('r');
    expect(bytes()[0]).toBe(255 - start[0]);
    painter.invert('r');
    painter.swap('g', 'a');
    expect(bytes()[1]).toBe(51);
    painter.swap('a', 'g');
    expect(bytes()).toEqual(start);
  });
});

describe('wells', () => {
  it('name the layers that look at a channel: by their own coverage, a shared one, or their group’s', () => {
    const looks = (channel: 'r' | 'g') => ({ c: makeCue('vertexColour', { channel }) });
    const blend = makeBlend('Step', {
      layers: {
        ground: makeLayer('stone', 'Stone', 1),
        own: makeLayer('clay', 'Clay', 2, { coverage: looks('r') }),
        shares: makeLayer('moss', 'Moss', 3, { shared: 's', coverage: looks('r') }),
        grouped: makeLayer('leaves', 'Leaves', 4, { group: 'g' }),
        idle: makeLayer('sand', 'Sand', 5, { coverage: { c: makeCue('vertexColour', { channel: 'r', amount: 0 }) } }),
      },
      coverages: { s: { name: 'Wet', coverage: looks('g') } },
      groups: { g: { name: 'Autumn', on: true, coverage: looks('g') } },
    });
    expect(fedBy(blend, 'r')).toEqual(['Clay']);
    expect(fedBy(blend, 'g')).toEqual(['Moss', 'Leaves']);
    expect(fedBy(blend, 'b')).toEqual([]);
  });
});

describe('tiles of painted colours', () => {
  it('hold what a stroke changed and nothing else; put together they are the picture', () => {
    const mesh = plane(100);
    const painter = new VertexPainter(mesh);
    painter.begin(brush({ radiusM: 0.05 }), 'r', 'add');
    painter.dab(down(mesh, 0.5, 0.1));
    const streamed = painter.takeUnkept();
    painter.end();
    expect(streamed.length).toBeGreaterThan(0);
    expect(streamed.length).toBeLessThan(Math.ceil(painter.vertices / TILE_VERTICES));
    // What was passed on in the middle of the stroke is what its end holds.
    const colours = mesh.geomcolor.slice();
    for (const { tile, bytes } of streamed) putTile(colours, tile, bytes);
    expect([...colours]).toEqual([...painter.colours]);
    expect(() => putTile(colours, 2, new Uint8Array(4))).toThrowError(/Tile 2 .* 4 bytes where/);
  });
  it('of another window are taken under a stroke that goes on', () => {
    const mesh = plane(30);
    const other = new VertexPainter(mesh);
    other.fill('g', 1);
    const painter = new VertexPainter(mesh);
    painter.begin(brush(), 'r', 'add');
    painter.dab(down(mesh, 0.5, 0.5));
    painter.take(0, tileBytes(other.colours, 0));
    painter.end();
    const middle = (15 * 31 + 15) * 4;
    expect([painter.colours[middle], painter.colours[middle + 1]]).toEqual([1, 1]);
    painter.take(0, null);
    expect([painter.colours[middle], painter.colours[middle + 1]]).toEqual([0, 0]);
  });
});

describe('finer meshes', () => {
  it('keep shape, winding and what vertices carry: four triangles for one, a vertex more for every edge', () => {
    for (const name of ['copper-still', 'cube'] as const) {
      const mesh = makeSpecimen(name, 1);
      const finer = finerMesh(mesh);
      const count = mesh.position.length / 3;
      expect(finer.index.length).toBe(mesh.index.length * 4);
      expect(finer.position.length / 3).toBe(count + edgeCount(mesh));
      for (const what of ['position', 'normal', 'tangent', 'texcoord', 'geomcolor'] as const)
        expect(finer[what].subarray(0, mesh[what].length)).toEqual(mesh[what]);
      const area = (m: Mesh) => vertexSpacing(m) ** 2 * (m.position.length / 3);
      expect(area(finer) / area(mesh)).toBeCloseTo(1, 5);
      let bent = 0;
      for (let i = 0; i < finer.normal.length; i += 3) bent = Math.max(bent, Math.abs(Math.hypot(...finer.normal.subarray(i, i + 3)) - 1));
      expect(bent).toBeLessThan(1e-5);
      expect(new Set(finer.tangent.filter((_, i) => i % 4 === 3).map(Math.abs))).toEqual(new Set([1]));
      // Every middle lies half way along coordinates as well.
      const [a, b] = [finer.index[0], finer.index[1]];
      const corner = mesh.index[1];
      expect(finer.texcoord[b * 2]).toBeCloseTo((mesh.texcoord[a * 2] + mesh.texcoord[corner * 2]) / 2, 6);
    }
  });
  it('are asked for as often as the brush needs, and no more', () => {
    for (const radiusM of [0.01, 0.05, 0.2, 1])
      for (const spacingM of [0.005, 0.02, 0.1]) {
        const times = finerFor(radiusM, spacingM);
        expect(reachedBy(radiusM, spacingM / 2 ** times)).toBeGreaterThanOrEqual(12 - 1e-6);
        if (times) expect(reachedBy(radiusM, spacingM / 2 ** (times - 1))).toBeLessThan(12);
      }
  });
});

describe('the first triangle along a ray', () => {
  it('is met at vertices and edges as well: none slips through between two', () => {
    const mesh = finerMesh(finerMesh(makePatch(2.4)));
    const tree = new Bvh(mesh);
    for (let i = 0; i < 300; i++) expect(tree.first([-0.9 + i * 0.006, 5, 0.1], [0, -1, 0])).not.toBeNull();
  });
  it('is the one that looking at every triangle finds', () => {
    const mesh = makeSpecimen('copper-still', 1);
    const tree = new Bvh(mesh);
    const { lo, hi } = boundsOf(mesh);
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 6, maxLength: 6 }), ([a, b, c, x, y, z]) => {
        const middle = lo.map((v, k) => (v + hi[k]) / 2);
        const origin = [middle[0] + a * 3, middle[1] + b * 3, middle[2] + c * 3] as const;
        const toward = [middle[0] + x * 0.4 - origin[0], middle[1] + y * 0.4 - origin[1], middle[2] + z * 0.4 - origin[2]] as const;
        fc.pre(Math.hypot(...toward) > 1e-3);
        const [found, wanted] = [tree.first(origin, toward), pickMesh(mesh, origin, toward)];
        expect(found === null).toBe(wanted === null);
        if (found && wanted) expect(found.away).toBeCloseTo(wanted.away, 4);
      }),
      { numRuns: 200 },
    );
  });
  it('goes along to a mesh made finer more or less often, and to no other one', () => {
    const mesh = makePatch(1, 6);
    const fine = finerTimes(mesh, 1);
    const vertices = fine.position.length / 3;
    const bytes = Uint8Array.from({ length: vertices * 4 }, (_, i) => (i * 37) % 256);
    const painted = { vertices, finer: 1, tiles: new Map([[0, bytes]]) };
    const own = coloursAt(mesh, painted, 1)!;
    expect(own.length).toBe(vertices * 4);
    own.forEach((v, i) => expect(v).toBeCloseTo(bytes[i] / 255, 6));
    // The vertices of the coarse mesh are the first of the finer one, those of the next finer one lie half way.
    expect(coloursAt(mesh, painted, 0)).toEqual(own.slice(0, (mesh.position.length / 3) * 4));
    const finest = coloursAt(mesh, painted, 2)!;
    expect(finest.slice(0, own.length)).toEqual(own);
    expect(finest).toEqual(finerMesh({ ...fine, geomcolor: own }).geomcolor);
    expect(coloursAt(makePatch(1, 7), painted, 1)).toBeNull();
  });
});
