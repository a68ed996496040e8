import type { Image } from '../image';
import { fullScale, makeImage } from '../image';
import { makeRandom } from '../noise';
import { seamError } from '../recognise';
import { normalsFromHeight } from '../surface';
import { heightFromNormals, horizonOcclusion, reliefCurvature } from './relief';
import type { Step, StepKind } from './index';
import { STEPS, STEP_KINDS, derive, valuesOf } from './index';

const FACTS = { sizeM: 1, reliefM: 0.05, mid: 0.5 };
const step = (kind: StepKind, values: Record<string, number> = {}, order = 1, on = true): Step => ({ kind, values, order, on });
const through = (image: Image, ...steps: Step[]) => derive(image, steps, FACTS).image;
const real = (image: Image) => Array.from(image.data, (v) => v / fullScale(image.depth));

/** A tiling relief of a few waves; no wave is shorter than four texels, where the difference sees nothing. */
function relief(width: number, height: number, seed: number): Float32Array {
  const random = makeRandom(seed);
  const waves = Array.from({ length: 12 }, () => ({
    kx: Math.floor(random() * (width / 5)),
    ky: Math.floor(random() * (height / 5)),
    phase: random() * 7,
    size: random() * 0.002,
  }));
  return Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return waves.reduce((sum, w) => sum + w.size * Math.cos(2 * Math.PI * ((w.kx * x) / width + (w.ky * y) / height) + w.phase), 0);
  });
}
const grey = (width: number, height: number, value: (x: number, y: number) => number, depth: 8 | 16 = 16): Image => {
  const full = fullScale(depth);
  const data = Array.from({ length: width * height }, (_, i) => Math.round(Math.min(1, Math.max(0, value(i % width, Math.floor(i / width)))) * full));
  return makeImage({ width, height, channels: 1, depth, data: depth === 8 ? Uint8Array.from(data) : Uint16Array.from(data) });
};

describe('heights and directions', () => {
  for (const [w, h] of [
    [64, 64],
    [96, 60],
    [45, 33],
  ])
    it(`come back from one another at ${w} × ${h}, within 0.1 % of the deviation`, () => {
      const before = relief(w, h, w);
      const texelM = 1 / w;
      const { heightM, residual } = heightFromNormals(normalsFromHeight(before, w, h, texelM), w, h, texelM, true);
      const mean = before.reduce((a, b) => a + b, 0) / before.length;
      const deviation = Math.sqrt(before.reduce((a, b) => a + (b - mean) ** 2, 0) / before.length);
      const off = Math.sqrt(before.reduce((a, b, i) => a + (b - mean - heightM[i]) ** 2, 0) / before.length);
      expect(off / deviation).toBeLessThan(0.001);
      expect(residual).toBeLessThan(0.001);
    });
  it('are found over a mirrored copy where the map does not tile', () => {
    const n = 64;
    const ramp = Float32Array.from({ length: n * n }, (_, i) => 0.002 * (i % n) + 0.01 * Math.sin(Math.floor(i / n) / 6));
    const [p, q] = [0.002 * n, (y: number) => ((0.01 * n) / 6) * Math.cos(y / 6)];
    const normals = Float32Array.from({ length: n * n * 3 }, (_, k) => {
      const row = q(Math.floor(k / 3 / n));
      return [-p, row, 1][k % 3] / Math.hypot(p, row, 1);
    });
    const off = (tiles: boolean) => {
      const { heightM } = heightFromNormals(normals, n, n, 1 / n, tiles);
      const rise = (of: ArrayLike<number>, y: number) => of[y * n + 48] - of[y * n + 16];
      return Math.abs(rise(heightM, 30) / rise(ramp, 30) - 1);
    };
    expect(off(false)).toBeLessThan(0.15);
    expect(off(true)).toBeGreaterThan(0.5);
  });
  it('say when directions belong to no relief', () => {
    const n = 32;
    const random = makeRandom(4);
    const normals = Float32Array.from({ length: n * n * 3 }, (_, i) => (i % 3 === 2 ? 0.9 : random() - 0.5));
    expect(heightFromNormals(normals, n, n, 1 / n, true).residual).toBeGreaterThan(0.3);
  });
  it('pass through maps of 16 bits with the relief in metres', () => {
    const heights = grey(64, 64, (x, y) => 0.5 + 0.4 * Math.cos((2 * Math.PI * 2 * x) / 64) * Math.cos((2 * Math.PI * 3 * y) / 64));
    const normals = through(heights, step('normal'));
    expect([normals.channels, normals.depth]).toEqual([3, 16]);
    const back = derive(normals, [step('height')], { ...FACTS, reliefM: 9 });
    expect(back.reliefM).toBeCloseTo(0.05 * 0.8, 3);
    expect(back.notes[0]).toMatch(/^The directions are met within 0\.\d\d %; relief 40\.0 mm\.$/);
    const [a, b] = [real(heights), real(back.image)];
    a.forEach((v, i) => expect(Math.abs((v - 0.1) / 0.8 - b[i])).toBeLessThan(0.002));
  });
});

describe('what a height says of its surroundings', () => {
  const n = 128;
  it('leaves flat ground open', () => {
    for (const v of horizonOcclusion(new Float32Array(n * n), n, n, 0.01, 0.5, 16)) expect(v).toBe(1);
  });
  it('closes half beside a tall wide wall', () => {
    // A wall of one texel; the other side of the ground is out of reach.
    const wall = Float32Array.from({ length: n * n }, (_, i) => (i % n === 0 ? 1000 : 0));
    const open = horizonOcclusion(wall, n, n, 0.01, 0.4, 64);
    expect(Math.abs(open[(n / 2) * n + 1] - 0.5)).toBeLessThan(0.03);
    expect(open[(n / 2) * n + n / 2]).toBe(1);
  });
  it('follows the height: higher walls never open', () => {
    const base = relief(n, n, 9);
    const low = horizonOcclusion(base, n, n, 0.01, 0.1, 8);
    const high = horizonOcclusion(
      base.map((v) => v * 2),
      n,
      n,
      0.01,
      0.1,
      8,
    );
    low.forEach((v, i) => expect(high[i]).toBeLessThanOrEqual(v + 1e-6));
  });
  const cap = (r: number, along: boolean) =>
    Float32Array.from({ length: n * n }, (_, i) => {
      const [x, y] = [(i % n) - n / 2, Math.floor(i / n) - n / 2].map((v) => v * 0.001);
      return Math.sqrt(r * r - x * x - (along ? 0 : y * y));
    });
  it('has the curvature of a sphere and of a cylinder', () => {
    for (const r of [0.2, 0.5])
      for (const [dx, dy] of [
        [0, 0],
        [20, -14],
      ]) {
        const at = (n / 2 + dy) * n + n / 2 + dx;
        expect(reliefCurvature(cap(r, false), n, n, 0.001, 0)[at] * r).toBeCloseTo(1, 1.5);
        expect(reliefCurvature(cap(r, true), n, n, 0.001, 0)[at] * 2 * r).toBeCloseTo(1, 1.5);
      }
  });
  it('stores curvature about one half, and cavities dark', () => {
    const deep = (kind: StepKind, values = {}) => real(derive(dent, [step(kind, values)], { ...FACTS, reliefM: 0.5 }).image);
    const dent = grey(n, n, (x, y) => 0.5 - 0.3 * Math.exp(-((x - 64) ** 2 + (y - 64) ** 2) / 60));
    const middle = 64 * n + 64;
    expect(deep('curvature')[middle]).toBeLessThan(0.3);
    expect(deep('curvature')[0]).toBeCloseTo(0.5, 3);
    expect(deep('cavity', { radiusM: 0.05 })[middle]).toBeLessThan(0.7);
    expect(deep('occlusion')[middle]).toBeLessThan(0.8);
    expect(deep('occlusion')[0]).toBeGreaterThan(0.98);
  });
});

describe('a height that does not tile', () => {
  // A plane that rises to the right and a cap of a sphere: exact directions and curvature everywhere.
  const n = 64;
  const facts = { sizeM: 1, reliefM: 0.5, mid: 0 };
  const heightOf = (of: (u: number, v: number) => number) => {
    const image = makeImage({ width: n, height: n, channels: 1, depth: 32, colourSpace: 'data' });
    for (let i = 0; i < n * n; i++) image.data[i] = of((i % n) / n, Math.floor(i / n) / n);
    return image;
  };
  const step = (kind: StepKind, values: Record<string, number> = {}): Step[] => [{ order: 0, kind, on: true, values }];
  it('has the directions of its slopes to the last texel, and says what was done', () => {
    const { image, notes } = derive(
      heightOf((u, v) => 0.1 + 0.6 * u + 0.2 * v),
      step('normal'),
      facts,
    );
    const wanted = [-0.3, 0.1, 1].map((c) => c / Math.hypot(0.3, 0.1, 1));
    for (let i = 0; i < n * n; i++)
      for (let c = 0; c < 3; c++)
        expect(Math.abs((image.data[i * 3 + c] / 65535) * 2 - 1 - wanted[c]))
          .withContext(`texel ${i}`)
          .toBeLessThan(1e-4);
    expect(notes).toEqual(['The map does not tile, so its border goes on as a reflection.']);
  });
  it('is as open, as flat and as little hollow at its border as within', () => {
    const slope = heightOf((u) => 0.2 + 0.5 * u);
    for (const [kind, values] of [
      ['occlusion', { radiusM: 0.1 }],
      ['cavity', { radiusM: 0.1 }],
      ['curvature', { radiusM: 0.05 }],
    ] as const) {
      const { image } = derive(slope, step(kind, values), facts);
      const middle = image.data[(n / 2) * n + n / 2];
      for (let i = 0; i < n * n; i++)
        expect(Math.abs(image.data[i] - middle) / 65535)
          .withContext(`${kind}, texel ${i}`)
          .toBeLessThan(0.01);
    }
  });
  it('goes round where it tiles, and after its border was repaired', () => {
    const wave = heightOf((u) => 0.5 + 0.3 * Math.sin(2 * Math.PI * u));
    expect(derive(wave, step('normal'), facts).notes).toEqual([]);
    const steps: Step[] = [...step('border'), { order: 1, kind: 'normal', on: true, values: {} }];
    expect(
      derive(
        heightOf((u) => u * u),
        steps,
        facts,
      ).notes,
    ).toEqual([]);
  });
});

describe('steps over values', () => {
  const ramp = grey(256, 1, (x) => x / 255, 8);
  it('that change nothing with neutral values change nothing', () => {
    for (const neutral of [step('levels'), step('curve'), step('contrast', { amount: 1 }), step('bleed'), step('unit')])
      expect([...through(ramp, neutral).data]).toEqual([...ramp.data]);
  });
  it('fill with one value, exactly', () => {
    expect(new Set(through(ramp, step('fill', { value: 0.2 })).data)).toEqual(new Set([51]));
    expect(new Set(through(ramp, step('fill')).data)).toEqual(new Set([255]));
  });
  it('invert twice to the same bits, and read gloss as roughness', () => {
    expect([...through(ramp, step('invert'), step('invert', {}, 2)).data]).toEqual([...ramp.data]);
    expect(through(ramp, step('invert')).data[64]).toBe(191);
  });
  it('never leave 0 to 1, whatever they are given', () => {
    const random = makeRandom(2);
    const picture = makeImage({ width: 16, height: 16, channels: 4, data: Uint8Array.from({ length: 1024 }, () => random() * 256) });
    for (const kind of STEP_KINDS) {
      const wild = Object.fromEntries(Object.keys(STEPS[kind].values).map((name) => [name, (random() - 0.5) * 1e6]));
      for (const v of real(through(picture, step(kind, wild))))
        expect(v >= 0 && v <= 1)
          .withContext(kind)
          .toBeTrue();
      for (const [name, v] of Object.entries(valuesOf(kind, wild))) {
        const { lo, hi } = (STEPS[kind].values as Record<string, { lo: number; hi: number }>)[name];
        expect(v >= lo && v <= hi).toBeTrue();
      }
    }
  });
  it('bend without overshoot between points that rise', () => {
    const out = through(ramp, step('curve', { y0: 0, y1: 0.02, y2: 0.9, y3: 0.92, y4: 1 })).data;
    for (let i = 1; i < 256; i++) expect(out[i]).toBeGreaterThanOrEqual(out[i - 1]);
    expect(out[128] / 255).toBeCloseTo(0.9, 1.5);
  });
  it('leave the lightness of a colour: a grey stays itself, green is brighter than blue', () => {
    const rgb = makeImage({ width: 3, height: 1, channels: 3, colourSpace: 'srgb', data: Uint8Array.of(90, 90, 90, 0, 200, 0, 0, 0, 200) });
    const out = through(rgb, step('desaturate'));
    expect([out.channels, out.colourSpace]).toEqual([1, 'data']);
    expect(out.data[0]).toBe(90);
    expect(out.data[1]).toBeGreaterThan(out.data[2] + 80);
  });
  it('keep alpha', () => {
    const rgba = makeImage({ width: 1, height: 1, channels: 4, data: Uint8Array.of(10, 20, 30, 77) });
    for (const kind of ['invert', 'levels', 'contrast', 'border'] as const)
      expect(through(rgba, step(kind, { low: 0.4 })).data[3])
        .withContext(kind)
        .toBe(77);
  });
});

describe('repair', () => {
  it('makes a map tile and leaves its inside bit for bit', () => {
    const random = makeRandom(3);
    const n = 96;
    const slope = grey(n, n, (x, y) => 0.1 + (0.4 * x) / n + (0.3 * y) / n + 0.05 * random());
    expect(seamError(slope)).toBeGreaterThan(3);
    const out = through(slope, step('border', { share: 0.2 }));
    expect(seamError(out)).toBeLessThan(1.6);
    for (let y = 20; y < n - 20; y++) for (let x = 20; x < n - 20; x++) expect(out.data[y * n + x]).toBe(slope.data[y * n + x]);
  });
  it('bleeds colour under zero alpha and touches nothing else', () => {
    const n = 16;
    const data = Uint8Array.from({ length: n * n * 4 }, (_, i) => {
      const inside = Math.hypot(((i >> 2) % n) - 5, Math.floor((i >> 2) / n) - 5) < 3;
      return inside ? [200, 100, 50, 255][i % 4] : 0;
    });
    const out = through(makeImage({ width: n, height: n, channels: 4, data }), step('bleed')).data;
    for (let i = 0; i < out.length; i += 4) {
      expect([...out.subarray(i, i + 3)]).toEqual([200, 100, 50]);
      expect(out[i + 3]).toBe(data[i + 3]);
    }
  });
  it('makes directions one long and works out a missing third channel', () => {
    const made = through(makeImage({ width: 2, height: 1, channels: 3, data: Uint8Array.of(200, 90, 140, 190, 128, 0) }), step('unit'));
    for (const k of [0, 3]) expect(Math.hypot(...[0, 1, 2].map((c) => (made.data[k + c] / 255) * 2 - 1))).toBeCloseTo(1, 1.9);
  });
});

describe('a stack of steps', () => {
  const ramp = grey(16, 1, (x) => x / 15, 8);
  it('goes in order and passes over what is off', () => {
    const a = derive(ramp, [step('invert', {}, 2), step('levels', { white: 0.5 }, 1)], FACTS).image;
    expect([...a.data].slice(-8)).toEqual(Array(8).fill(0));
    expect(derive(ramp, [step('invert', {}, 1, false)], FACTS).image.data).toEqual(ramp.data);
  });
  it('stops where it is told to', () => {
    const stop = () => {
      throw new Error('cancelled');
    };
    expect(() => derive(ramp, [step('invert')], FACTS, stop)).toThrowError('cancelled');
  });
});
