import fc from 'fast-check';
import type { Coverage, Cue, CueKind, CuePlace, GBuffer, Sources } from '../index';
import {
  Builder,
  EditPrices,
  ROLES,
  makeBlend,
  makeLayer,
  cueKind,
  CUE_KINDS,
  coverageShape,
  coverageValues,
  evaluate,
  flatDomain,
  lowerCoverage,
  makeCue,
  makeSphere,
  optimise,
  stripeCells,
} from '../index';
import { grid } from '../mesh/mesh';
import { anyCoverage, anyCueOf } from '../testing/any-cue';

const place: CuePlace = { extentM: 2, standsAtM: 1840, groundM: -0.25, parts: ['body', 'lid'] };
const PICTURES = new Map([
  ['moss/mask/0', 0],
  ['painted/p', 0],
  ['stone/id', 0],
]);
/** A mask that rises along u, and an ID map of two halves. */
const sources: Sources = (_, channel) =>
  channel === 'id'
    ? {
        levels: [{ width: 2, height: 1, data: Uint8Array.of(255, 0, 0, 0, 0, 255), stride: 3, offset: 0 }],
        table: Float32Array.from({ length: 256 }, (__, i) => i / 255),
      }
    : { levels: [{ width: 4, height: 1, data: Float32Array.of(0, 0.25, 0.5, 0.75), stride: 1, offset: 0 }], table: null };

/** A coverage at the places of a buffer of geometry, one row of them. */
function at(coverage: Coverage, count: number, geometry: GBuffer = {}, below = 0): number[] {
  const b = new Builder();
  const site = { uv: b.texcoord(), below: b.constant(below), level: null, pictures: PICTURES };
  const { outputs } = optimise({ c: lowerCoverage(b, coverage, 'l_', site) });
  return [...evaluate(outputs, { domain: flatDomain(count, 1, 2, geometry), values: coverageValues(coverage, 'l_', place), sources })['c'][0]];
}
const one = (cue: Cue, count: number, geometry: GBuffer = {}, below = 0) => at({ c: cue }, count, geometry, below);
/** The ramp, by the book. */
const ramp = (x: number, { centre, width, shape, inverted }: Cue): number => {
  const t = width < 1e-6 ? Number(x >= centre) : Math.min(1, Math.max(0, (x - centre) / width + 0.5));
  const c = shape === 'smooth' ? t * t * (3 - 2 * t) : t;
  return inverted ? 1 - c : c;
};
const close = (got: number[], want: number[], by = 2e-5) =>
  got.forEach((v, i) =>
    expect(Math.abs(v - want[i]))
      .withContext(`place ${i}`)
      .toBeLessThan(by),
  );

/** Red rises by eighths from column to column, green from row to row; the pictures are in sixty-fourths, worked by hand. */
const JOINED: Record<Exclude<Cue['join'], 'corrected'>, string> = {
  and: `
     0  0  0  0  0  0  0  0
     0  1  2  3  4  5  6  7
     0  2  4  6  8 10 12 14
     0  3  6  9 12 15 18 21
     0  4  8 12 16 20 24 28
     0  5 10 15 20 25 30 35
     0  6 12 18 24 30 36 42
     0  7 14 21 28 35 42 49`,
  or: `
     0  8 16 24 32 40 48 56
     8 15 22 29 36 43 50 57
    16 22 28 34 40 46 52 58
    24 29 34 39 44 49 54 59
    32 36 40 44 48 52 56 60
    40 43 46 49 52 55 58 61
    48 50 52 54 56 58 60 62
    56 57 58 59 60 61 62 63`,
  butNot: `
     0  8 16 24 32 40 48 56
     0  7 14 21 28 35 42 49
     0  6 12 18 24 30 36 42
     0  5 10 15 20 25 30 35
     0  4  8 12 16 20 24 28
     0  3  6  9 12 15 18 21
     0  2  4  6  8 10 12 14
     0  1  2  3  4  5  6  7`,
  atMost: `
     0  0  0  0  0  0  0  0
     0  8  8  8  8  8  8  8
     0  8 16 16 16 16 16 16
     0  8 16 24 24 24 24 24
     0  8 16 24 32 32 32 32
     0  8 16 24 32 40 40 40
     0  8 16 24 32 40 48 48
     0  8 16 24 32 40 48 56`,
  atLeast: `
     0  8 16 24 32 40 48 56
     8  8 16 24 32 40 48 56
    16 16 16 24 32 40 48 56
    24 24 24 24 32 40 48 56
    32 32 32 32 32 40 48 56
    40 40 40 40 40 40 48 56
    48 48 48 48 48 48 48 56
    56 56 56 56 56 56 56 56`,
};

describe('coverage', () => {
  const colour = Float32Array.from({ length: 8 * 4 }, (_, i) => (i % 4 === 0 ? (i / 4 + 0.5) / 8 : [0.2, 0.7, 0.4, 1][i % 4]));
  const even = (over: Partial<Extract<Cue, { kind: 'constant' }>>) => makeCue('constant', over);
  it('joins cues as the words say', () => {
    const joined = (join: Cue['join']) => at({ a: even({ order: 1, value: 0.6 }), b: even({ order: 2, value: 0.5, join }) }, 1)[0];
    expect(joined('and')).toBeCloseTo(0.3, 6);
    expect(joined('or')).toBeCloseTo(0.8, 6);
    expect(joined('butNot')).toBeCloseTo(0.3, 6);
    expect(joined('atMost')).toBeCloseTo(0.5, 6);
    expect(joined('atLeast')).toBeCloseTo(0.6, 6);
    expect(at({}, 1)[0]).toBe(1);
  });
  it('is corrected by what lies above and below the middle, and by nothing that bytes hold in it', () => {
    const joined = (before: number, value: number) =>
      at({ a: even({ order: 1, value: before }), b: even({ order: 2, value, join: 'corrected' }) }, 1)[0];
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 255 }), fc.integer({ min: 0, max: 255 }), (a, c) => {
        const before = a / 255;
        const way = c >= 128 ? (c - 128) / 127 : (c - 128) / 128;
        expect(joined(before, c / 255)).toBeCloseTo(way >= 0 ? before + (1 - before) * way : before * (1 + way), 5);
      }),
    );
    for (const before of [0, 0.25, 1]) {
      expect(joined(before, 128 / 255)).toBeCloseTo(before, 6);
      expect(joined(before, 0x8080 / 65535)).toBeCloseTo(before, 6);
      expect(joined(before, 1)).toBeCloseTo(1, 6);
      expect(joined(before, 0)).toBeCloseTo(0, 6);
    }
  });
  it('joins two pictures of eight by eight as they were worked out by hand', () => {
    const geomcolor = Float32Array.from({ length: 64 * 4 }, (_, i) => [(i >> 2) % 8, i >> 5, 0, 8][i % 4] / 8);
    const looks = (channel: 'r' | 'g', over: { order: number; join?: Cue['join'] }) =>
      makeCue('vertexColour', { channel, centre: 0.5, width: 1, shape: 'straight', ...over });
    for (const [join, picture] of Object.entries(JOINED) as [Cue['join'], string][]) {
      const want = picture.trim().split(/\s+/).map(Number);
      const got = at({ a: looks('r', { order: 1 }), b: looks('g', { order: 2, join }) }, 64, { geomcolor });
      expect(got.map((v) => v * 64))
        .withContext(join)
        .toEqual(want);
    }
  });
  it('stays in 0–1 for any cues of any kind on any ground, and amount 0 leaves it as it was', () => {
    const numbers = (n: number) =>
      fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: false }), { minLength: n, maxLength: n }).map((v) => Float32Array.from(v));
    fc.assert(
      fc.property(
        anyCoverage(),
        numbers(12),
        numbers(12),
        numbers(16),
        fc.constantFrom<Cue['join']>('and', 'or', 'butNot', 'atMost', 'atLeast'),
        (cues, normal, mesh, geomcolor, join) => {
          const [curvature, occlusion, part] = [0, 4, 8].map((at) => mesh.subarray(at, at + 4));
          const geometry = { normal, curvature, occlusion, part, geomcolor, position: normal };
          const plain = at(cues, 4, geometry, 0.01);
          for (const v of plain) {
            expect(v).toBeGreaterThanOrEqual(-1e-6);
            expect(v).toBeLessThanOrEqual(1 + 1e-6);
          }
          const idle = at({ ...cues, z: even({ order: 99, amount: 0, join, value: 0.3 }) }, 4, geometry, 0.01);
          idle.forEach((v, i) => expect(v).toBeCloseTo(plain[i], 5));
        },
      ),
      { numRuns: 150 },
    );
  });
  it('has every kind of cue rise with what it looks at, and fall when it is inverted', () => {
    const geometry = (x: number): GBuffer => {
      // The same number everywhere a cue may look; directions lean by it.
      const lean = Math.cos(Math.min(Math.PI, Math.max(0, x)));
      return {
        normal: Float32Array.of(Math.sqrt(1 - lean * lean), lean, 0),
        position: Float32Array.of(0, x, 0),
        geomcolor: Float32Array.of(x, x, x, x),
        curvature: Float32Array.of(x),
        occlusion: Float32Array.of(x),
        part: Float32Array.of(x),
        texcoord: Float32Array.of(0, 0),
      };
    };
    const falls = new Set(['concavity']);
    for (const kind of CUE_KINDS.filter(
      (k) => !['constant', 'noise', 'stripes', 'grid', 'mask', 'painted', 'id', 'part', 'low', 'direction'].includes(k),
    ))
      fc.assert(
        fc.property(anyCueOf(kind), fc.double({ min: 0, max: 3, noNaN: true }), fc.double({ min: 0, max: 3, noNaN: true }), (cue, a, b) => {
          const value = (x: number) => one({ ...cue, join: 'and', amount: 1 }, 1, geometry(x))[0];
          const rise = value(Math.max(a, b)) - value(Math.min(a, b));
          expect(rise * (cue.inverted !== falls.has(kind) ? -1 : 1)).toBeGreaterThanOrEqual(-1e-5);
        }),
        { numRuns: 40 },
      );
  });

  it('reads vertex colours by channel', () => {
    const cue = makeCue('vertexColour', { channel: 'g', centre: 0.6, width: 0.4 });
    close(one(cue, 8, { geomcolor: colour }), Array(8).fill(ramp(0.7, cue)));
    const red = makeCue('vertexColour', { channel: 'r', centre: 0.5, width: 0.7, shape: 'straight' });
    close(
      one(red, 8, { geomcolor: colour }),
      Array.from({ length: 8 }, (_, i) => ramp((i + 0.5) / 8, red)),
    );
  });
  it('measures slope and altitude on a cone, a plane and a sphere as closed forms say', () => {
    // A cone of 1 m radius and 0.6 m height: the same slope all round, and altitude falls along the radius.
    const cone = grid(
      24,
      8,
      (s, t) => ({ p: [(0.2 + 0.8 * t) * Math.cos(-6.2 * s), 0.6 * (0.8 - 0.8 * t), (0.2 + 0.8 * t) * Math.sin(-6.2 * s)], uv: [s, t] }),
      () => undefined,
    );
    const n = cone.position.length / 3;
    const steep = (Math.atan2(0.6, 1) * 180) / Math.PI;
    const slope = makeCue('slope', { centre: 30, width: 20, inverted: false });
    close(one(slope, n, cone), Array(n).fill(ramp(steep, slope)), 1e-3);
    const high = makeCue('altitude', { from: 'world', centre: 1840.3, width: 0.5, inverted: false });
    close(
      one(high, n, cone),
      Array.from({ length: n }, (_, i) => ramp(1840 + cone.position[i * 3 + 1], high)),
      2e-3,
    );
    const off = makeCue('ground', { centre: 0.4, width: 0.5, inverted: true });
    close(
      one(off, n, cone),
      Array.from({ length: n }, (_, i) => ramp(cone.position[i * 3 + 1] + 0.25, off)),
    );
    // On a sphere slope is the angle from the pole.
    const sphere = makeSphere(1, 32);
    const m = sphere.position.length / 3;
    close(
      one(slope, m, sphere),
      Array.from({ length: m }, (_, i) => ramp((Math.acos(sphere.position[i * 3 + 1] / 0.3) * 180) / Math.PI, slope)),
      2e-3,
    );
    // A plane that looks up has no slope, whatever the ramp is turned to.
    expect(one(makeCue('slope', { centre: 5, width: 4 }), 1)[0]).toBe(1);
  });
  it('measures directions as angles between the ground and a bearing', () => {
    const south = makeCue('direction', { bearing: 180, rise: 0, centre: 50, width: 40 });
    const toward = (x: number, y: number, z: number) => Float32Array.of(x, y, z);
    expect(one(south, 1, { normal: toward(0, 0, 1) })[0]).toBe(1);
    expect(one(south, 1, { normal: toward(0, 0, -1) })[0]).toBe(0);
    close(one(south, 1, { normal: toward(Math.SQRT1_2, 0, Math.SQRT1_2) }), [ramp(45, south)]);
    const up = makeCue('direction', { bearing: 0, rise: 90, centre: 50, width: 40 });
    close(one(up, 1, { normal: toward(0, 1, 0) }), [1]);
  });
  it('reads bends, open sky and parts of the mesh, and low places of what lies below', () => {
    const mesh = { curvature: Float32Array.of(20), occlusion: Float32Array.of(0.3), part: Float32Array.of(1) };
    const edges = makeCue('convexity', { centre: 15, width: 20 });
    close(one(edges, 1, mesh), [ramp(20, edges)]);
    const hollows = makeCue('concavity', { centre: -15, width: 20 });
    close(one(hollows, 1, mesh), [ramp(-20, hollows)]);
    const shade = makeCue('occlusion', { centre: 0.4, width: 0.4 });
    close(one(shade, 1, mesh), [ramp(0.3, shade)]);
    expect(one(makeCue('part', { part: 'lid' }), 1, mesh)[0]).toBe(1);
    expect(one(makeCue('part', { part: 'body' }), 1, mesh)[0]).toBe(0);
    expect(one(makeCue('part', { part: 'gone' }), 1, mesh)[0]).toBe(0);
    const low = makeCue('low', { centre: 0.004, width: 0.006 });
    close(one(low, 1, {}, -0.005), [ramp(0.005, low)]);
    close(one(low, 1, {}, 0.002), [0]);
  });
  it('reads masks as often as they repeat, and IDs without mixing them', () => {
    const mask = makeCue('mask', { surface: 'moss', role: 'mask', channel: 0, repeats: 2, centre: 0.4, width: 0.5, shape: 'straight' });
    const texels = [0, 0.25, 0.5, 0.75, 0, 0.25, 0.5, 0.75];
    close(
      one(mask, 8),
      texels.map((v) => ramp(v, mask)),
    );
    const red = makeCue('id', { surface: 'stone', colour: '#ff0000', centre: 0.2, width: 0 });
    expect(one(red, 8)).toEqual([1, 1, 1, 1, 0, 0, 0, 0]);
    // Of a picture that is not there nothing is present.
    expect(one(makeCue('mask', { surface: 'gone' }), 1)[0]).toBe(0);
  });
  it("lays masks and IDs by a set of the mesh's own coordinates, wherever the extent lies", () => {
    // The first set runs from left to right, the second from right to left; the extent's own says nothing.
    const across = [0.125, 0.375, 0.625, 0.875];
    const texcoord = new Float32Array(8).fill(0.4);
    const uv1 = Float32Array.from(across.flatMap((u) => [u, 0.5]));
    const uv2 = Float32Array.from(across.flatMap((u) => [1 - u, 0.5]));
    const mask = makeCue('mask', { surface: 'moss', role: 'mask', channel: 0, centre: 0.4, width: 0.9, shape: 'straight' });
    const texels = [0, 0.25, 0.5, 0.75].map((v) => ramp(v, mask));
    const laid = (cue: Cue) => one(cue, 4, { texcoord, uv1, uv2 });
    close(laid({ ...mask, set: 1 } as Cue), texels);
    close(laid({ ...mask, set: 2 } as Cue), [...texels].reverse());
    expect(new Set(laid(mask)).size).toBe(1);
    close(laid({ ...mask, set: 1, repeats: 2 } as Cue), one(mask, 4, { texcoord: Float32Array.from(across.flatMap((u) => [u * 2, 0.5])) }));
    const red = makeCue('id', { surface: 'stone', colour: '#ff0000', centre: 0.2, width: 0, set: 2 });
    expect(laid(red)).toEqual([0, 0, 1, 1]);
    expect(coverageShape({ c: mask }, PICTURES)).not.toBe(coverageShape({ c: { ...mask, set: 2 } as Cue }, PICTURES));
    // A plane has one set: where things lie on it.
    close(one({ ...mask, set: 2 } as Cue, 4), texels);
  });
  it('draws stripes and grids a whole number of times over the extent', () => {
    const stripes = makeCue('stripes', { sizeM: 0.5, bearing: 0, centre: 0.5, width: 1, shape: 'straight' });
    // Two metres hold four stripes: 1 in their middles at whole numbers of u·4.
    close(
      one(stripes, 16),
      Array.from({ length: 16 }, (_, i) => Math.abs(2 * ((((i + 0.5) / 16) * 4) % 1) - 1)),
    );
    expect(stripeCells(2, 0.5, 90)).toEqual([0, 4]);
    expect(stripeCells(2, 0.5, 45)).toEqual([3, 3]);
    expect(stripeCells(2, 50, 30)).toEqual([1, 0]);
    // Two lines a side: a place is as near a line as the nearer of both axes is.
    const lines = makeCue('grid', { sizeM: 1, centre: 0.5, width: 1, shape: 'straight' });
    const near = (t: number) => Math.abs(2 * ((t * 2) % 1) - 1);
    const at4 = Float32Array.of(0.1, 0.3, 0.25, 0.25, 0.5, 0.2, 0.37, 0.61);
    close(
      one(lines, 4, { texcoord: at4 }),
      [0, 1, 2, 3].map((i) => Math.max(near(at4[i * 2]), near(at4[i * 2 + 1]))),
    );
  });
  it('repeats its noises after the extent and keeps them between 0 and 1', () => {
    for (const noise of ['value', 'gradient', 'cellular', 'fractal'] as const) {
      const cue = makeCue('noise', { noise, sizeM: 0.25, seed: 7, centre: 0.5, width: 1, shape: 'straight' });
      const along = (from: number) => one(cue, 64, { texcoord: Float32Array.from({ length: 128 }, (_, i) => (i % 2 ? 0.37 : from + i / 128)) });
      close(along(0), along(1), 2e-4);
      expect(Math.max(...along(0)) - Math.min(...along(0)))
        .withContext(noise)
        .toBeGreaterThan(0.15);
    }
  });
  it('has a price and facts for every kind', () => {
    const surface = { sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set(ROLES) };
    const ground = makeLayer('s', 'Ground', 1);
    const top = makeLayer('s', 'Top', 2, { coverage: { v: makeCue('vertexColour') } });
    const prices = new EditPrices(makeBlend('', { layers: { ground, top } }), { s: surface });
    const cuePrice = (kind: CueKind) => prices.cue(kind, (d) => d.layers['top'].coverage);
    for (const kind of CUE_KINDS) {
      expect(cueKind(kind).most).toBeGreaterThan(cueKind(kind).least);
      expect(cuePrice(kind).operations).withContext(kind).toBeGreaterThanOrEqual(0);
      expect(cuePrice(kind).samples)
        .withContext(kind)
        .toBe(['mask', 'painted', 'id'].includes(kind) ? 1 : 0);
    }
    expect(cuePrice('noise').operations).toBeGreaterThan(cuePrice('slope').operations);
  });
});
