import fc from 'fast-check';
import {
  HILLSIDE,
  bendAt,
  blendMaterial,
  capPicture,
  coveringShares,
  fieldFindings,
  fieldGround,
  fieldMesh,
  fieldSpreads,
  fieldUv,
  heightfieldOf,
  hillside,
  leftBeside,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeRandom,
  makeStack,
  relieveTiles,
  resolveTiles,
  ruledWeights,
  slopeAt,
  storedCoverages,
  storedWeights,
  terrainTiles,
  unevenAt,
} from '../index';
import type { BlendSurface, Heightfield, TerrainWeights } from '../index';

/** A field of a formula: metres from its middle → altitude. */
function field(side: number, acrossM: number, altitude: (x: number, z: number) => number, rows = side): Heightfield {
  const spacingM = acrossM / (side - 1);
  return {
    width: side,
    height: rows,
    spacingM,
    altitude: Float32Array.from({ length: side * rows }, (_, i) =>
      altitude(((i % side) - (side - 1) / 2) * spacingM, (Math.floor(i / side) - (rows - 1) / 2) * spacingM),
    ),
  };
}
/** Sentences that read no map. */
const NOTHING = () => {
  throw new Error('no map is read');
};
const degrees = (rise: number) => (Math.atan(rise) * 180) / Math.PI;

describe('a heightfield', () => {
  it('has the slopes of a plane, a cone and a cap of a sphere, in true metres at every size', () => {
    for (const side of [65, 257, 1025])
      for (const acrossM of [8, 512]) {
        const plane = field(side, acrossM, (x, z) => 0.3 * x - 0.4 * z);
        for (const [x, y] of [
          [0, 0],
          [side - 1, 3],
          [7, side >> 1],
        ])
          expect(slopeAt(plane, x, y))
            .withContext(`plane ${side} ${acrossM}`)
            .toBeCloseTo(degrees(0.5), 2);
        const at = (m: number) => Math.round((m / acrossM) * (side - 1) + (side - 1) / 2);
        const cone = field(side, acrossM, (x, z) => -0.7 * Math.hypot(x, z));
        const r = 1.7 * acrossM;
        const cap = field(side, acrossM, (x, z) => Math.sqrt(r * r - x * x - z * z));
        for (const [fx, fz] of [
          [0.3, 0.1],
          [-0.2, 0.35],
        ]) {
          const [x, y] = [at(fx * acrossM), at(fz * acrossM)];
          expect(slopeAt(cone, x, y))
            .withContext(`cone ${side} ${acrossM}`)
            .toBeCloseTo(degrees(0.7), 0);
          const [px, pz] = [(x - (side - 1) / 2) * cap.spacingM, (y - (side - 1) / 2) * cap.spacingM];
          const away = Math.hypot(px, pz);
          expect(slopeAt(cap, x, y))
            .withContext(`cap ${side} ${acrossM}`)
            .toBeCloseTo(degrees(away / Math.sqrt(r * r - away * away)), 1);
        }
      }
  });
  it('is read in metres from black to white, of all depths', () => {
    const facts = { acrossM: 100, rangeM: 50, footM: 1000 };
    const eight = heightfieldOf(makeImage({ width: 3, height: 2, channels: 1, data: Uint8Array.of(0, 51, 255, 0, 51, 255) }), facts);
    expect([...eight.altitude]).toEqual([1000, 1010, 1050, 1000, 1010, 1050]);
    expect(eight.spacingM).toBe(50);
    const sixteen = heightfieldOf(makeImage({ width: 2, height: 2, channels: 1, depth: 16, data: Uint16Array.of(0, 13107, 65535, 0) }), facts);
    expect(sixteen.altitude[1]).toBeCloseTo(1010, 4);
    const float = heightfieldOf(makeImage({ width: 2, height: 2, channels: 1, depth: 32, data: Float32Array.of(0.2, NaN, 1, 0.4) }), facts);
    expect([...float.altitude]).toEqual([1010, 1010, 1050, 1020]);
    for (const bad of [{ acrossM: 0 }, { rangeM: -1 }, { rangeM: NaN }])
      expect(() => heightfieldOf(makeImage({ width: 2, height: 2, channels: 1 }), { ...facts, ...bad })).toThrowError(RangeError, /needs metres/);
  });
  it('says what speaks against it, and where', () => {
    const of = (width: number, height: number, data: Float32Array | Uint8Array) =>
      fieldFindings(makeImage({ width, height, channels: 1, depth: data instanceof Uint8Array ? 8 : 32, data }), { rangeM: 510 });
    expect(
      of(
        5,
        3,
        new Float32Array(15).map((_, i) => i),
      ),
    ).toEqual([]);
    expect(
      of(
        4,
        3,
        new Float32Array(12).map((_, i) => i),
      ),
    ).toEqual([jasmine.objectContaining({ code: 'size', severity: 'note' })]);
    expect(
      of(
        1,
        3,
        new Float32Array(3).map((_, i) => i),
      ).map((f) => [f.code, f.severity]),
    ).toEqual([['size', 'error']]);
    const holes = new Float32Array(15).map((_, i) => (i === 7 || i === 9 ? NaN : i));
    expect(of(5, 3, holes)[0].message).toBe(
      '2 samples hold no number, the first at column 3, row 2. They become as low as the lowest; fill them where it was made',
    );
    expect(of(5, 3, new Float32Array(15).fill(NaN)).map((f) => [f.code, f.severity])).toEqual([['holes', 'error']]);
    expect(of(5, 3, new Float32Array(15).fill(3)).map((f) => f.code)).toEqual(['even']);
    expect(of(3, 3, Uint8Array.of(0, 1, 2, 3, 4, 5, 6, 7, 7))[0].message).toMatch(/8 bits, 8 steps of 2\.0 m/);
  });
  it('is a mesh and a ground of the same places, whose normals are those of its slope', () => {
    const bumpy = field(9, 16, (x, z) => Math.sin(x) + 0.2 * z * z, 5);
    const mesh = fieldMesh(bumpy, 1, -2);
    const ground = fieldGround(bumpy, 4, [0, 5], -2);
    expect(mesh.position).toEqual(ground.position as Float32Array);
    for (let i = 0; i < 45; i++) {
      const [nx, ny, nz] = mesh.normal.subarray(i * 3, i * 3 + 3);
      expect(Math.hypot(nx, ny, nz)).toBeCloseTo(1, 5);
      expect((Math.acos(Math.min(1, ny)) * 180) / Math.PI).toBeCloseTo(slopeAt(bumpy, i % 9, Math.floor(i / 9)), 2);
      expect((ground.texcoord as Float32Array)[i * 2]).toBeCloseTo(mesh.position[i * 3] / 4, 5);
    }
    // Triangles look up.
    for (let k = 0; k < mesh.index.length; k += 3) {
      const [a, b, c] = [0, 1, 2].map((j) => mesh.position.subarray(mesh.index[k + j] * 3, mesh.index[k + j] * 3 + 3));
      expect((b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2])).toBeGreaterThan(0);
    }
    // A band of rows is that part of the whole.
    expect(fieldGround(bumpy, 4, [2, 4], -2).normal).toEqual((ground.normal as Float32Array).slice(54, 108));
    const coarse = fieldMesh(bumpy, 3);
    expect(coarse.position.length / 3).toBe(4 * 3);
    expect(coarse.position[9]).toBe(8);
  });
  it('of the hillside has terraces and a stream in its bed, the same at every call', () => {
    const hill = hillside(257);
    expect(hillside(257).altitude).toEqual(hill.altitude);
    const { altitude, slope } = fieldSpreads(hill);
    expect(altitude.lo).toBeGreaterThanOrEqual(HILLSIDE.footM);
    expect(altitude.hi).toBeLessThanOrEqual(HILLSIDE.footM + HILLSIDE.rangeM);
    expect(altitude.hi - altitude.lo).toBeGreaterThan(120);
    expect(slope.hi).toBeGreaterThan(45);
    for (const { shares } of [altitude, slope]) expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
    // Benches lie between walls: much is nearly level, and much is steep.
    const share = (from: number, to: number) => {
      let n = 0;
      for (let i = 0; i < hill.altitude.length; i++) {
        const s = slopeAt(hill, i % 257, Math.floor(i / 257));
        if (s >= from && s < to) n++;
      }
      return n / hill.altitude.length;
    };
    expect(share(0, 12)).toBeGreaterThan(0.25);
    expect(share(30, 90)).toBeGreaterThan(0.08);
    // Down the hill the lowest place of the middle third is the stream's, lower than what lies beside it.
    for (const row of [96, 144, 192, 240]) {
      const at = (x: number) => hill.altitude[row * 257 + x];
      const bed = Array.from({ length: 86 }, (_, i) => 120 + i).reduce((a, b) => (at(b) < at(a) ? b : a));
      for (const beside of [-14, 14])
        expect(at(bed + beside) - at(bed))
          .withContext(`row ${row}`)
          .toBeGreaterThan(1);
    }
    // A finer one is the same hill.
    const fine = hillside(513);
    for (let i = 0; i < 257; i += 16) expect(fine.altitude[i * 2 * 513 + i * 2]).toBeCloseTo(hill.altitude[i * 257 + i], 3);
  });
});

describe('weights of many layers', () => {
  const shares = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 15 }).map(coveringShares);
  it('cover those below them, the lowest having the rest', () => {
    fc.assert(
      fc.property(shares, (a) => {
        expect(a.reduce((x, y) => x + y, 0)).toBeCloseTo(1, 9);
        expect(Math.min(...a)).toBeGreaterThanOrEqual(0);
      }),
    );
    expect(coveringShares([0.5, 0.5])).toEqual([0.25, 0.25, 0.5]);
    expect(coveringShares([0.3, 1])).toEqual([0, 0, 1]);
  });
  it('are stored as bytes that sum to 255 exactly, each within one of its share', () => {
    fc.assert(
      fc.property(shares, (a) => {
        const stored = storedWeights(a);
        expect(stored.reduce((x, y) => x + y, 0)).toBe(255);
        stored.forEach((v, i) => {
          expect(Math.abs(v - a[i] * 255)).toBeLessThan(1 + 1e-9);
          if (a[i] === 0) expect(v).toBe(0);
        });
        // What sums to 255 already stays.
        expect(storedWeights([...stored])).toEqual(stored);
      }),
    );
    expect([...storedWeights([0, 0, 0])]).toEqual([255, 0, 0]);
    expect([...storedWeights([1, 1, 1, 1])]).toEqual([64, 64, 64, 63]);
  });
  it('follow the sentences of a ground: altitude, slope and facing as they are in metres and degrees', () => {
    const surface: BlendSurface = { sizeM: 2, reliefM: 0.1, mid: 0.5, roles: new Set(['baseColor', 'height']) };
    const layer = (name: string, order: number, kind: 'altitude' | 'slope', centre: number, width: number, inverted = false) => {
      const cue = {
        ...(kind === 'altitude' ? makeCue(kind, { from: 'world' }) : makeCue(kind, {})),
        centre,
        width,
        inverted,
        shape: 'straight' as const,
      };
      return makeLayer('s', name, order, { coverage: { c: cue } });
    };
    const blend = makeBlend('Ground', {
      extentM: 4,
      standsAtM: 1000,
      layers: { clay: makeLayer('s', 'Clay', 1), grass: layer('Grass', 2, 'altitude', 1020, 10), rock: layer('Rock', 3, 'slope', 30, 4) },
    });
    const material = blendMaterial(makeStack(blend, { s: surface }));
    // A plane that rises to the south: 20 degrees on its western half, 40 on its eastern.
    const steep = (x: number) => Math.tan(((x < 0 ? 20 : 40) * Math.PI) / 180);
    const plane = field(65, 128, (x, z) => 1020 + z * steep(x));
    const weights = ruledWeights(plane, material, NOTHING, 1000);
    expect(unevenAt(weights)).toBe(-1);
    for (let y = 0; y < 65; y++)
      for (const x of [8, 56]) {
        const i = y * 65 + x;
        const grass = Math.min(1, Math.max(0, (plane.altitude[i] - 1020) / 10 + 0.5));
        const rock = x > 32 ? 1 : 0;
        const wanted = [(1 - grass) * (1 - rock), grass * (1 - rock), rock];
        weights.layers.forEach((l, k) =>
          expect(Math.abs(l[i] / 255 - wanted[k]))
            .withContext(`${x}, ${y}, ${k}`)
            .toBeLessThan(1.01 / 255),
        );
      }
    const many = makeBlend('Many', {
      extentM: 4,
      layers: Object.fromEntries(Array.from({ length: 17 }, (_, i) => [`l${i}`, layer(`L${i}`, i + 1, 'slope', i, 1)])),
    });
    expect(() => ruledWeights(plane, blendMaterial(makeStack(many, { s: surface })), NOTHING, 0)).toThrowError(
      RangeError,
      /17 layers; a terrain stores the weights of 16/,
    );
  });
});

/** Weights at random, a few layers a patch. */
function random(width: number, height: number, layers: number, seed: number): TerrainWeights {
  const next = makeRandom(seed);
  const out: TerrainWeights = { width, height, layers: Array.from({ length: layers }, () => new Uint8Array(width * height)) };
  for (let i = 0; i < width * height; i++) storedWeights(out.layers.map(() => Math.max(0, next() - 0.4))).forEach((v, l) => (out.layers[l][i] = v));
  return out;
}

describe('tiles of a terrain', () => {
  /** Layers as wide bumps: each counts where it is, and fades. */
  const bumps = (layers: number): TerrainWeights => {
    const side = 129;
    const out: TerrainWeights = { width: side, height: side, layers: Array.from({ length: layers }, () => new Uint8Array(side * side)) };
    for (let i = 0; i < side * side; i++) {
      const [x, y] = [i % side, Math.floor(i / side)];
      const shares = out.layers.map((_, l) => (l ? Math.exp(-(((x - 64 - 9 * l) / 34) ** 2) - ((y - 60 + 7 * l) / 40) ** 2) / (l + 1) : 0.4));
      storedWeights(shares.map((v) => (v < 0.004 ? 0 : v))).forEach((v, l) => (out.layers[l][i] = v));
    }
    return out;
  };
  it('share their borders, count what has more than one part in 255, and cover the terrain', () => {
    const weights = bumps(6);
    const tiles = terrainTiles(weights, 32);
    expect(tiles.length).toBe(16);
    expect(tiles.map((t) => t.x + t.width).includes(128)).toBeTrue();
    for (const t of tiles)
      for (let l = 0; l < 6; l++) {
        let most = 0;
        for (let y = t.y; y <= t.y + t.height; y++) for (let x = t.x; x <= t.x + t.width; x++) most = Math.max(most, weights.layers[l][y * 129 + x]);
        expect(t.layers.includes(l)).toBe(most > 1);
      }
    // Sides that do not divide: the last ones are smaller, and nothing is left out.
    const odd = terrainTiles(random(50, 20, 3, 1), 16);
    expect(odd.map((t) => [t.column, t.row, t.width, t.height]).at(-1)).toEqual([3, 1, 1, 3]);
  });
  it('are resolved: no tile draws more than the limit, sums stay 255, what is far away stays, and no step opens at a border', () => {
    const before = bumps(7);
    const { weights, tiles } = resolveTiles(before, 32, 4);
    expect(tiles.length).toBeGreaterThan(0);
    expect(unevenAt(weights)).toBe(-1);
    for (const t of terrainTiles(weights, 32)) expect(t.layers.length).toBeLessThanOrEqual(4);
    const changed = (x: number, y: number) => weights.layers.some((l, k) => l[y * 129 + x] !== before.layers[k][y * 129 + x]);
    const near = (x: number, y: number, by: number) =>
      tiles.some((t) => x >= t.column * 32 - by && x <= t.column * 32 + 32 + by && y >= t.row * 32 - by && y <= t.row * 32 + 32 + by);
    for (let y = 0; y < 129; y++)
      for (let x = 0; x < 129; x++)
        if (changed(x, y))
          expect(near(x, y, 8))
            .withContext(`${x}, ${y}`)
            .toBeTrue();
    // From sample to sample nothing moves more at the borders of tiles than a fade does anywhere: 1.5/8 of what was there, and what it was before.
    let [worst, was] = [0, 0];
    for (const l of weights.layers.keys())
      for (let y = 0; y < 129; y++)
        for (let x = 1; x < 129; x++) {
          const step = (w: TerrainWeights, i: number, j: number) => Math.abs(w.layers[l][i] - w.layers[l][j]);
          was = Math.max(was, step(before, y * 129 + x, y * 129 + x - 1));
          worst = Math.max(worst, step(weights, y * 129 + x, y * 129 + x - 1), step(weights, x * 129 + y, (x - 1) * 129 + y));
        }
    const most = Math.max(...tiles.map((t) => t.most * 255));
    expect(worst).toBeLessThanOrEqual(Math.ceil(was + (1.5 / 8) * most) + 2);
    for (const t of tiles) {
      expect(t.dropped.length).toBeGreaterThan(0);
      expect(t.mean).toBeGreaterThan(0);
      expect(t.most).toBeLessThanOrEqual(1);
    }
    // With room for all nothing is touched.
    expect(resolveTiles(before, 32, 7)).toEqual({ weights: before, tiles: [] });
    // Even noise, in which every layer counts everywhere, comes to rest.
    const noisy = resolveTiles(random(65, 65, 9, 2), 16, 3).weights;
    expect(unevenAt(noisy)).toBe(-1);
    for (const t of terrainTiles(noisy, 16)) expect(t.layers.length).toBeLessThanOrEqual(3);
  });
});

describe('a ground relieved of layers', () => {
  const SAMPLES = 129;
  const grounds = fc.integer({ min: 1, max: 1e6 }).map((seed) => {
    const random = makeRandom(seed);
    const spots = Array.from({ length: 5 }, () => [random() * SAMPLES, random() * SAMPLES, 10 + random() * 40] as const);
    const layers = spots.map(([x, y, r]) =>
      Float32Array.from({ length: SAMPLES * SAMPLES }, (_, i) => Math.max(0, 1 - Math.hypot((i % SAMPLES) - x, Math.floor(i / SAMPLES) - y) / r)),
    );
    return { width: SAMPLES, height: SAMPLES, layers };
  });
  it('draws no more than asked in any tile, says what that changed, and changes nothing far from there', () => {
    fc.assert(
      fc.property(grounds, fc.integer({ min: 1, max: 4 }), (ground, limit) => {
        const before = storedCoverages(ground);
        const { after, tiles, capped } = relieveTiles(ground, 32, limit);
        for (const t of terrainTiles(after, 32)) expect(t.layers.length).toBeLessThanOrEqual(limit);
        expect(unevenAt(after)).toBe(-1);
        const crowded = terrainTiles(before, 32).filter((t) => t.layers.length > limit);
        for (const t of crowded) expect(tiles.some((r) => r.column === t.column && r.row === t.row)).toBeTrue();
        for (const { mean, most } of tiles) expect(mean >= 0 && mean <= most && most <= 1).toBeTrue();
        const touched = capped.flatMap((c) => c.tiles);
        for (let i = 0; i < SAMPLES * SAMPLES; i += 7) {
          const [x, y] = [i % SAMPLES, Math.floor(i / SAMPLES)];
          const far = touched.every((t) => Math.max(t.x - x, x - t.x - t.width, t.y - y, y - t.y - t.height) > 10);
          if (far) before.layers.forEach((layer, l) => expect(after.layers[l][i]).toBe(layer[i]));
        }
      }),
      { numRuns: 20 },
    );
  });
  it('opens no step: beside a tile that drops a layer it fades over samples, by what a smooth ramp of eight has at most', () => {
    const one = new Float32Array(SAMPLES * SAMPLES).fill(0.8);
    const other = Float32Array.from({ length: SAMPLES * SAMPLES }, (_, i) => (i % SAMPLES < 32 && Math.floor(i / SAMPLES) < 32 ? 0.1 : 0));
    const { after, capped } = relieveTiles({ width: SAMPLES, height: SAMPLES, layers: [one, other] }, 32, 2);
    expect(capped.map((c) => c.layer)).toEqual([2]);
    let most = 0;
    for (const layer of after.layers)
      for (let i = 0; i < layer.length - SAMPLES; i++) {
        // Where the other layer ends of itself there was a step before.
        if (i % SAMPLES > 28 && i % SAMPLES < 34 && Math.floor(i / SAMPLES) < 34) continue;
        if (i % SAMPLES < SAMPLES - 1) most = Math.max(most, Math.abs(layer[i + 1] - layer[i]));
      }
    // 1.5 over 8 is the steepest of a smooth ramp, of at most a tenth that went.
    expect(most).toBeLessThanOrEqual(Math.ceil((255 * 0.1 * 1.5) / 8) + 1);
  });
  it('is held under a picture that reads so on every sample', () => {
    const rects = [{ x: 32, y: 64, width: 32, height: 32 }];
    const picture = capPicture(rects, { width: SAMPLES, height: SAMPLES }, 128);
    for (let y = 0; y < SAMPLES; y++)
      for (let x = 0; x < SAMPLES; x++) {
        // Bilinear reading, held at the rims.
        const [u, v] = fieldUv({ width: SAMPLES, height: SAMPLES }, x, y);
        const [a, b] = [u * 128 - 0.5, v * 128 - 0.5].map((t) => Math.min(127, Math.max(0, t)));
        const at = (i: number, j: number) => picture[Math.min(127, j) * 128 + Math.min(127, i)] / 255;
        const [i, j] = [Math.floor(a), Math.floor(b)];
        const read =
          (at(i, j) * (i + 1 - a) + at(i + 1, j) * (a - i)) * (j + 1 - b) + (at(i, j + 1) * (i + 1 - a) + at(i + 1, j + 1) * (a - i)) * (b - j);
        const inside = x >= 32 && x <= 64 && y >= 64 && y <= 96;
        if (inside) expect(read).toBe(0);
        else expect(Math.abs(read - leftBeside(rects, x, y, 1))).toBeLessThan(0.05);
      }
  });
  it('knows how the ground bends: a cap of a sphere by one over its radius, a plane not at all', () => {
    for (const r of [40, 200]) {
      const cap = field(129, 32, (x, z) => Math.sqrt(r * r - x * x - z * z));
      for (const [x, y] of [
        [64, 64],
        [30, 90],
        [100, 20],
      ])
        expect(bendAt(cap, x, y) * r).toBeCloseTo(1, 1);
    }
    expect(
      bendAt(
        field(65, 8, (x, z) => 0.3 * x - 0.4 * z),
        20,
        30,
      ),
    ).toBeCloseTo(0, 4);
    // A gutter is bent the other way, along one of two directions.
    expect(
      bendAt(
        field(129, 32, (x) => x * x * 0.05),
        64,
        64,
      ),
    ).toBeCloseTo(-0.05, 3);
  });
});
