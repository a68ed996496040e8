import * as fc from 'fast-check';
import type { Sources } from '../compile';
import { flatDomain, lineDomain, sourcesOfMaps } from '../compile';
import type { MasterDocument, MasterOperation } from '../document';
import { linkTo, makeOperation, valueOf } from '../document';
import { makeImage } from '../image';
import { valueNoise } from '../noise';
import { NOTHING, graph, noSources, outputOf } from '../testing/graphs';
import { MasterMaterials } from './material';

const KNOWN = { surfaces: { s: { sizeM: 1, reliefM: 0, mid: 0.5, roles: new Set(['roughness'] as const) } }, blends: {}, masters: {} };
const sourcesOf = (data: Uint8Array, side: number): Sources => {
  const image = makeImage({ width: side, height: side, channels: 1, data });
  return (_, channel) => sourcesOfMaps({ roughness: image }, true)(channel)!;
};
const image = (over: Partial<MasterOperation> = {}) => makeOperation('image', 1, { settings: { surface: 's', role: 'roughness' }, ...over });
const one = (step: string, inputs: object, settings = {}, more: MasterDocument['operations'] = {}) =>
  graph({ e: makeOperation(step, 9, { inputs: inputs as never, settings }), ...more }, { roughness: linkTo('e') });
const stats = (plane: Float32Array) => {
  const mean = plane.reduce((a, b) => a + b, 0) / plane.length;
  return { mean, deviation: Math.sqrt(plane.reduce((a, b) => a + (b - mean) ** 2, 0) / plane.length) };
};

describe('stamps', () => {
  /** Three words of a lattice point, written from the paper: pcg3d, Jarzynski & Olano 2020. */
  function words(x: number, y: number, z: number): [number, number, number] {
    const v = [x, y, z].map((n) => (Math.imul(n, 1664525) + 1013904223) | 0);
    const mix = () => {
      v[0] = (v[0] + Math.imul(v[1], v[2])) | 0;
      v[1] = (v[1] + Math.imul(v[2], v[0])) | 0;
      v[2] = (v[2] + Math.imul(v[0], v[1])) | 0;
    };
    mix();
    for (let i = 0; i < 3; i++) v[i] ^= v[i] >>> 16;
    mix();
    return v.map((n) => n >>> 0) as [number, number, number];
  }
  const unit = (w: number) => (w >>> 8) / 2 ** 24;
  const low = (w: number) => unit(Math.imul(w, 65536) >>> 0);
  interface Setting {
    cells: number;
    offset: number;
    turn: number;
    size: number;
    vary: number;
    keep: number;
    seed: number;
  }
  /** Whether any of all stamps near and far covers a place: nothing is left out for being too far. */
  function covered(u: number, v: number, s: Setting): boolean {
    for (let cy = -3; cy < s.cells + 3; cy++)
      for (let cx = -3; cx < s.cells + 3; cx++) {
        const wrap = (c: number) => ((c % s.cells) + s.cells) % s.cells;
        const w = words(wrap(cx), wrap(cy), s.seed);
        const [r, q, t, scale] = [unit(w[0]), unit(w[1]), unit(w[2]), low((w[0] ^ w[2]) >>> 0)];
        if (!(s.keep > (r * 4096) % 1)) continue;
        const at = [u * s.cells - (cx + 0.5 + s.offset * (r - 0.5)), v * s.cells - (cy + 0.5 + s.offset * (q - 0.5))];
        const angle = (s.turn * (2 * t - 1) * Math.PI) / 180;
        const long = s.size * (1 - s.vary * scale);
        const x = (Math.cos(angle) * at[0] + Math.sin(angle) * at[1]) / long;
        const y = (Math.cos(angle) * at[1] - Math.sin(angle) * at[0]) / long;
        if (Math.max(Math.abs(x), Math.abs(y)) <= 0.5) return true;
      }
    return false;
  }
  const stamped = (s: Setting, side: number, settings = {}) => {
    const inputs = Object.fromEntries(Object.entries(s).map(([name, value]) => [name, valueOf(value)]));
    const d = one('stamps', { ...inputs, in: linkTo('x') }, settings, {
      t: makeOperation('texcoord', 1),
      x: makeOperation('extract', 2, { inputs: { in: linkTo('t') } }),
    });
    return outputOf({ ...d, outputs: { roughness: linkTo('e', 'coverage') } }, 'roughness', side)[0];
  };

  for (const [cells, around] of [
    [4, '3 × 3'],
    [3, '3 × 3'],
    [1, '3 × 3'],
    [4, '2 × 2'],
    [3, '2 × 2'],
  ] as const)
    it(`of ${cells} × ${cells} cells with offsets (${around} looked at) are clipped at no cell's rim and at none of the tile's: all that there are, are seen`, () => {
      const side = 96;
      const [offset, size] = around === '3 × 3' ? [1, 1.3] : [0.5, 1.05];
      const s = { cells, offset, turn: 180, size, vary: 0.5, keep: cells === 1 ? 1 : 0.8, seed: 5 };
      const plane = stamped(s, side, { around });
      let wrong = 0;
      for (let i = 0; i < plane.length; i++)
        if (plane[i] > 0.5 !== covered(((i % side) + 0.5) / side, (Math.floor(i / side) + 0.5) / side, s)) wrong++;
      // Places right at a rim may fall to either side.
      expect(wrong / plane.length).toBeLessThan(0.002);
      expect(stats(plane).mean).toBeGreaterThan(0.3);
    });
  it('larger than their neighbours reach are held, not cut: a stamp of ten cells is one of the largest that fit', () => {
    const s = { cells: 4, offset: 0, turn: 0, size: 10, vary: 0, keep: 1, seed: 1 };
    expect(stats(stamped(s, 32)).mean).toBe(1);
  });
  it('dropped all, leave the background; every stamp has a number of its own', () => {
    const d = one('stamps', { keep: valueOf(0), background: valueOf(0.25) });
    expect([...outputOf(d, 'roughness', 4)[0]]).toEqual(new Array(16).fill(0.25));
    const own = outputOf(
      { ...one('stamps', { offset: valueOf(0), turn: valueOf(0), size: valueOf(1), vary: valueOf(0) }), outputs: { roughness: linkTo('e', 'own') } },
      'roughness',
      8,
    )[0];
    expect(new Set(own).size).toBe(16);
  });
  it('10,000 a cell are refused with what is possible, at the operation', () => {
    const [problem] = new MasterMaterials().of(one('stamps', {}, { stamps: 10000 }), NOTHING).problems;
    expect(problem.layer).toBe('e');
    expect(problem.message).toMatch(/stamps a cell is 10000: a whole number from 1 to 4/);
  });
  it('in stamps in stamps are refused before the page stands still', () => {
    const within = (n: number): MasterDocument['operations'] =>
      Object.fromEntries(
        Array.from({ length: n }, (_, i) => [
          `s${i}`,
          makeOperation('stamps', i + 2, { inputs: { in: linkTo(i ? `s${i - 1}` : 'i') }, settings: { stamps: 4 } }),
        ]),
      );
    const d = graph({ i: makeOperation('noise2d', 1), ...within(5) }, { roughness: linkTo('s4') });
    const [problem] = new MasterMaterials().of(d, NOTHING).problems.filter((p) => p.code === 'graph');
    expect(problem.message).toMatch(/operations would be worked out at every pixel/);
  });
});

describe('a flipbook', () => {
  /** Six pictures in three columns, each of one grey. */
  const side = 48;
  const sheet = Uint8Array.from(
    { length: side * side },
    (_, i) => 40 * (1 + Math.floor((i % side) / 16) + 3 * Math.floor(Math.floor(i / side) / 24)),
  );
  const show = (picture: number, settings: object = {}) =>
    outputOf(
      one('flipbook', { in: linkTo('i'), picture: valueOf(picture) }, { columns: 3, rows: 2, ...settings }, { i: image() }),
      'roughness',
      16,
      KNOWN,
      sourcesOf(sheet, side),
    )[0];
  it('shows one picture after the other, whole to its rims, and mixes two between', () => {
    for (let n = 0; n < 8; n++) for (const v of show(n)) expect(v * 255).toBeCloseTo(40 * (1 + (n % 6)), 1);
    for (const v of show(2.25)) expect(v * 255).toBeCloseTo(40 * 3.25, 1);
    for (const v of show(2.75, { between: 'cut' })) expect(v * 255).toBeCloseTo(40 * 3, 1);
  });
  it('of five pictures begins again after the fifth', () => {
    for (const v of show(5, { pictures: 5 })) expect(v * 255).toBeCloseTo(40, 1);
  });
  it('of more pictures than there are cells says so', () => {
    const d = one('flipbook', { in: linkTo('i') }, { columns: 3, rows: 2, pictures: 9 }, { i: image() });
    const { problems } = new MasterMaterials().of(d, KNOWN);
    expect(problems.map((p) => [p.layer, p.message])).toEqual([
      ['e', jasmine.stringMatching(/9 pictures do not fit 3 × 2: it shows the 6/)],
    ] as never);
  });
});

describe('near and far', () => {
  const at = (distance: number) => {
    const options = { domain: lineDomain(Float32Array.of(0.13, 0.71), 1 / 64, { viewdistance: Float32Array.of(distance) }) };
    const d = one(
      'nearfar',
      { in: linkTo('x'), near: valueOf(0.75), far: valueOf(0.25), from: valueOf(2), to: valueOf(6) },
      {},
      { t: makeOperation('texcoord', 1), x: makeOperation('extract', 2, { inputs: { in: linkTo('t') } }) },
    );
    return outputOf(d, 'roughness', 1, NOTHING, noSources, options)[0][0];
  };
  it('mix by weights that add up to 1, from all of one to all of the other', () => {
    for (const d of [0, 2, 3, 4, 5.5, 6, 40]) {
      const k = Math.min(1, Math.max(0, (d - 2) / 4));
      const w = k * k * (3 - 2 * k);
      expect(at(d)).toBeCloseTo(0.13 * (0.75 * (1 - w) + 0.25 * w), 5);
    }
  });
  it('never jump on the way', () => {
    let before = at(0);
    for (let d = 0; d < 8; d += 0.02) {
      const now = at(d);
      expect(Math.abs(now - before)).toBeLessThan(0.13 * 0.5 * 0.0076);
      before = now;
    }
  });
});

describe('rotated cells', () => {
  const side = 256;
  const noise = Uint8Array.from({ length: side * side }, (_, i) => Math.round(255 * valueNoise(((i % side) / side) * 32, (i >> 8) / 8, 32, 3)));
  const before = stats(Float32Array.from(noise, (v) => v / 255));
  for (const sharpness of [1, 8])
    it(`keep mean and deviation within 2 % (sharpness ${sharpness})`, () => {
      // Many layouts: one alone has the luck of its few cells.
      const planes = [1, 2, 3, 4].map((seed) => {
        const d = one(
          'rotatedcells',
          { in: linkTo('i'), cells: valueOf(12), sharpness: valueOf(sharpness), seed: valueOf(seed) },
          {},
          { i: image() },
        );
        return outputOf(d, 'roughness', 288, KNOWN, sourcesOf(noise, side), { domain: flatDomain(288, 288) })[0];
      });
      const all = new Float32Array(planes.length * planes[0].length);
      planes.forEach((p, i) => all.set(p, i * p.length));
      const after = stats(all);
      expect(after.mean / before.mean).toBeGreaterThan(0.98);
      expect(after.mean / before.mean).toBeLessThan(1.02);
      // What leaves the range of the map is held within it, and filtering costs what it costs any map.
      const plain = stats(outputOf(graph({ i: image() }, { roughness: linkTo('i') }), 'roughness', 288, KNOWN, sourcesOf(noise, side))[0]);
      expect(Math.abs(after.deviation / plain.deviation - 1)).toBeLessThan(0.02);
    });
  it('leave one colour as it is', () => {
    const even = new Uint8Array(64 * 64).fill(77);
    const d = one('rotatedcells', { in: linkTo('i') }, {}, { i: image() });
    for (const v of outputOf(d, 'roughness', 32, KNOWN, sourcesOf(even, 64))[0]) expect(v * 255).toBeCloseTo(77, 3);
  });
  it('refuse a number that is said to be a normal', () => {
    const d = one('rotatedcells', { in: linkTo('i') }, { content: 'normal' }, { i: image() });
    expect(new MasterMaterials().of(d, KNOWN).problems[0].message).toMatch(/said to be a normal, and a float comes in/);
  });
});

describe('triplanar projection', () => {
  /** x + 10·y of the coordinate, so that it is known by which it was looked up. */
  const told: MasterDocument['operations'] = {
    t: makeOperation('texcoord', 1),
    k: makeOperation('dotproduct', 2, { inputs: { in1: linkTo('t'), in2: valueOf(1, 10) } }),
  };
  const at = (place: number[], normal: number[], planes: string, over: object = { in: linkTo('k') }) => {
    const options = { domain: lineDomain(Float32Array.of(0, 0), 0, { position: Float32Array.from(place), normal: Float32Array.from(normal) }) };
    const d = one('triplanarprojection', { sharpness: valueOf(4), repeats: valueOf(2), ...over }, { planes }, told);
    return outputOf({ ...d, outputs: { height: linkTo('e') } }, 'height', 1, NOTHING, noSources, options)[0][0];
  };
  const part = fc.integer({ min: -100, max: 100 }).map((v) => v / 100);
  const direction = fc.tuple(part, part, part).filter((v) => Math.hypot(...v) > 0.2);
  const lookedUp = ([x, y, z]: number[]) => [2 * z - 10 * 2 * y, 2 * x - 10 * 2 * z, 2 * x - 10 * 2 * y];
  it('mixes three sides by |n|⁴', () => {
    fc.assert(
      fc.property(direction, direction, (place, n) => {
        const long = Math.hypot(...n);
        const w = n.map((c) => Math.abs(c / long) ** 4);
        const total = w[0] + w[1] + w[2];
        const wanted = lookedUp(place).reduce((sum, v, i) => sum + (v * w[i]) / total, 0);
        expect(
          at(
            place,
            n.map((c) => c / long),
            'three',
          ),
        ).toBeCloseTo(wanted, 2);
      }),
      { numRuns: 60 },
    );
  });
  it('of two planes mixes those that face most, by what they face more than the third', () => {
    fc.assert(
      fc.property(direction, direction, (place, n) => {
        const long = Math.hypot(...n);
        const w = n.map((c) => Math.abs(c / long) ** 4);
        const least = Math.min(...w);
        fc.pre([...w].sort((a, b) => a - b).every((v, i, all) => !i || v - all[i - 1] > 1e-3));
        const over = w.map((v) => (v === least ? 0 : v - least + 1e-6));
        const total = over[0] + over[1] + over[2];
        const wanted = lookedUp(place).reduce((sum, v, i) => sum + (v * over[i]) / total, 0);
        expect(
          at(
            place,
            n.map((c) => c / long),
            'two',
          ),
        ).toBeCloseTo(wanted, 2);
      }),
      { numRuns: 60 },
    );
  });
  it('costs a look less with two planes', () => {
    const price = (planes: string) => {
      const d = one('triplanarprojection', { in: linkTo('i') }, { planes }, { i: image() });
      return new MasterMaterials().of(d, KNOWN).far.outputs.roughness;
    };
    const looks = (planes: string) => {
      const seen = new Set<object>();
      const walk = (n: ReturnType<typeof price>): number =>
        seen.has(n) ? 0 : (seen.add(n), (n.op === 'image' ? 1 : 0) + n.args.reduce((s, a) => s + walk(a), 0));
      return walk(price(planes));
    };
    expect([looks('three'), looks('two')]).toEqual([3, 2]);
  });
  it('leans the ground by what it looks up: a flat normal leaves it as it is', () => {
    const n = [0.48, 0.6, 0.64];
    const options = { domain: lineDomain(Float32Array.of(0, 0), 0, { position: Float32Array.of(1, 2, 3), normal: Float32Array.from(n) }) };
    const d = one('triplanarprojection', { in: valueOf(0, 0, 1) }, { content: 'normal' });
    const found = outputOf({ ...d, outputs: { normal: linkTo('e') } }, 'normal', 1, NOTHING, noSources, options);
    found.forEach(([v], i) => expect(v).toBeCloseTo([0, 0, 1][i], 4));
  });
});

describe('parallax', () => {
  it('moves the coordinate by height over slope, as far as one height goes', () => {
    const sight = [0.6, 0.8, 0];
    const options = { domain: lineDomain(Float32Array.of(0.25, 0.5), 0, { viewdirection: Float32Array.from(sight) }) };
    const d = graph(
      {
        p: makeOperation('parallax', 1, { inputs: { height: valueOf(0.04), scale: valueOf(2) } }),
        u: makeOperation('extract', 2, { inputs: { in: linkTo('p') }, settings: { index: 0 } }),
      },
      { height: linkTo('u') },
      { extentM: 2 },
    );
    // A plane that looks up: u is x; 0.04 m twice, seen at a slope of 0.6 : 0.8, two metres a repetition.
    expect(outputOf(d, 'height', 1, NOTHING, noSources, options)[0][0]).toBeCloseTo(0.25 + (0.6 / 0.8) * 0.04 * 2 * 0.5, 5);
  });
  it('looks again where it got to', () => {
    const options = { domain: lineDomain(Float32Array.of(0.2, 0.5), 0, { viewdirection: Float32Array.of(0.6, 0.8, 0) }) };
    const of = (looks: number) =>
      outputOf(
        graph(
          {
            t: makeOperation('texcoord', 1),
            h: makeOperation('extract', 2, { inputs: { in: linkTo('t') } }),
            p: makeOperation('parallax', 3, { inputs: { height: linkTo('h') }, settings: { looks } }),
            u: makeOperation('extract', 4, { inputs: { in: linkTo('p') }, settings: { index: 0 } }),
          },
          { height: linkTo('u') },
        ),
        'height',
        1,
        NOTHING,
        noSources,
        options,
      )[0][0];
    let u = 0.2;
    for (let i = 1; i <= 4; i++) {
      u = 0.2 + 0.75 * u;
      expect(of(i)).toBeCloseTo(u, 5);
    }
  });
});
