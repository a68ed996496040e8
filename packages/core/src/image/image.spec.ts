import * as fc from 'fast-check';
import {
  convertDepth,
  decodeTable,
  applyGains,
  LIGHT_CELLS,
  evenGains,
  sumLight,
  extractChannel,
  fitWithin,
  fromHalf,
  fourier2d,
  heightChain,
  linearToSrgb,
  makeImage,
  maxDifference,
  makeRandom,
  mipChain,
  mipCount,
  normalMipChain,
  repetitionOf,
  resize,
  toHalf,
  srgbByte,
  srgbToLinear,
  statistics,
  tileRepetition,
} from '../index';

const random = (length: number, most: number) => fc.array(fc.integer({ min: 0, max: most }), { minLength: length, maxLength: length });

describe('sRGB curves', () => {
  it('are inverses of each other and hold the fixed points of IEC 61966-2-1', () => {
    for (let v = 0; v <= 1; v += 1 / 997) expect(linearToSrgb(srgbToLinear(v))).toBeCloseTo(v, 12);
    expect(srgbToLinear(0.5)).toBeCloseTo(0.21404114048, 10);
    expect(srgbToLinear(0.04045)).toBeCloseTo(0.0031308, 7);
  });
  it('encode to bytes exactly as rounding the curve does', () => {
    for (let i = 0; i <= 200_000; i++) {
      const v = i / 200_000;
      if (srgbByte(v) !== Math.floor(linearToSrgb(v) * 255 + 0.5)) fail(`byte of ${v}`);
    }
    expect([srgbByte(-1), srgbByte(2), srgbByte(NaN)]).toEqual([0, 255, 0]);
  });
  it('decode tables agree with the curve', () => {
    expect(decodeTable(8, true)[188]).toBeCloseTo(srgbToLinear(188 / 255), 7);
    expect(decodeTable(16, false)[65535]).toBe(1);
  });
});

describe('images', () => {
  it('refuse sizes, channels and lengths that do not belong together', () => {
    expect(() => makeImage({ width: 0, height: 1, channels: 1 })).toThrowError(/0 × 1/);
    expect(() => makeImage({ width: 16385, height: 1, channels: 1 })).toThrowError(/16384/);
    expect(() => makeImage({ width: 1, height: 1, channels: 5 })).toThrowError(/channels/);
    expect(() => makeImage({ width: 2, height: 1, channels: 1, data: new Uint8Array(3) })).toThrowError(/2 × 1/);
  });
  it('keep 8-bit values through 16 bits and back', () => {
    const image = makeImage({ width: 256, height: 1, channels: 1, data: Uint8Array.from({ length: 256 }, (_, i) => i) });
    expect([...convertDepth(convertDepth(image, 16), 8).data]).toEqual([...image.data]);
  });
  it('give channels bit for bit', () => {
    const image = makeImage({ width: 2, height: 1, channels: 3, data: Uint8Array.of(1, 2, 3, 4, 5, 6) });
    expect([...extractChannel(image, 1).data]).toEqual([2, 5]);
    expect(() => extractChannel(image, 3)).toThrowError(RangeError);
  });
  it('know minimum, maximum, mean and constancy of channels', () => {
    const [r, g] = statistics(makeImage({ width: 2, height: 1, channels: 3, data: Uint8Array.of(0, 51, 9, 255, 51, 9) }));
    expect(r).toEqual(jasmine.objectContaining({ min: 0, max: 1, mean: 0.5, deviation: 0.5, constant: false }));
    expect(g.constant).toBeTrue();
  });
});

describe('area-true resizing', () => {
  it('keeps the mean of any data image when sizes divide', () => {
    fc.assert(
      fc.property(random(64, 65535), (values) => {
        const image = makeImage({ width: 8, height: 8, channels: 1, depth: 32, data: Float32Array.from(values, (v) => v / 65535) });
        expect(statistics(resize(image, 2, 4))[0].mean).toBeCloseTo(statistics(image)[0].mean, 5);
      }),
    );
  });
  it('weighs partly covered texels by their area', () => {
    const image = makeImage({ width: 3, height: 1, channels: 1, depth: 32, data: Float32Array.of(0, 1, 0) });
    const half = resize(image, 2, 1);
    expect(half.data[0]).toBeCloseTo(1 / 3, 6);
    expect(half.data[1]).toBeCloseTo(1 / 3, 6);
  });
  it('averages sRGB colour in linear light and alpha as it is', () => {
    const image = makeImage({ width: 2, height: 1, channels: 4, colourSpace: 'srgb', data: Uint8Array.of(0, 0, 0, 0, 255, 255, 255, 255) });
    expect([...resize(image, 1, 1).data]).toEqual([188, 188, 188, 128]);
  });
  it('returns the very image for its own size and copies 1 × 1 to any size', () => {
    const image = makeImage({ width: 1, height: 1, channels: 1, depth: 16, data: Uint16Array.of(12345) });
    expect(resize(image, 1, 1)).toBe(image);
    expect([...new Set(resize(image, 5, 3).data)]).toEqual([12345]);
  });
  it('fits sizes inside a side and never below one pixel', () => {
    expect(fitWithin(4096, 2, 1024)).toEqual({ width: 1024, height: 1 });
    expect(fitWithin(100, 50, 1024)).toEqual({ width: 100, height: 50 });
  });
});

describe('mip chains', () => {
  it('go down to 1 × 1 for odd sizes', () => {
    const chain = mipChain(makeImage({ width: 13, height: 5, channels: 1 }));
    expect(chain.length).toBe(mipCount(13, 5));
    expect(chain.map((l) => `${l.width}x${l.height}`)).toEqual(['13x5', '6x2', '3x1', '1x1']);
  });
  it('halve even sides as the general resize does, to the sample', () => {
    for (const [depth, colourSpace, channels] of [
      [8, 'srgb', 4],
      [8, 'data', 3],
      [16, 'data', 1],
    ] as const) {
      const image = makeImage({ width: 8, height: 6, channels, depth, colourSpace });
      for (let i = 0; i < image.data.length; i++) image.data[i] = (i * 7919) % (depth === 8 ? 256 : 65536);
      expect([...mipChain(image)[1].data]).toEqual([...resize(image, 4, 3).data]);
    }
  });
  it('keep normals of unit length', () => {
    const data = Uint8Array.from({ length: 8 * 8 * 3 }, (_, i) => [255, 128, 128, 0, 128, 128][(i % 3) + 3 * (Math.floor(i / 3) % 2)]);
    for (const level of normalMipChain(makeImage({ width: 8, height: 8, channels: 3, data })).slice(1)) {
      const [x, y, z] = [0, 1, 2].map((c) => (level.data[c] / 255) * 2 - 1);
      expect(Math.abs(Math.hypot(x, y, z) - 1)).toBeLessThan(0.02);
    }
  });
  it('give the standard deviation of the heights under a texel', () => {
    const [base, next] = heightChain(makeImage({ width: 2, height: 2, channels: 1, depth: 16, data: Uint16Array.of(0, 65535, 0, 65535) }));
    expect([...base.spread]).toEqual([0, 0, 0, 0]);
    expect(next.mean[0]).toBeCloseTo(0.5, 6);
    expect(next.spread[0]).toBeCloseTo(0.5, 6);
  });
  it('measure differences between images of one shape only', () => {
    const a = makeImage({ width: 1, height: 1, channels: 1, data: Uint8Array.of(255) });
    expect(maxDifference(a, convertDepth(a, 16))).toBe(0);
    expect(() => maxDifference(a, makeImage({ width: 2, height: 1, channels: 1 }))).toThrowError(RangeError);
  });
});

describe('repetition', () => {
  const n = 64;
  /** A wave of so many periods over the side, of an amplitude in L*. */
  const wave = (periods: number, amplitude: number) =>
    Float64Array.from({ length: n * n }, (_, i) => 50 + amplitude * Math.cos((2 * Math.PI * periods * (i % n)) / n));
  it('transforms there and back, and finds a single wave', () => {
    const re = wave(3, 2);
    const im = new Float64Array(n * n);
    fourier2d(re, im, n, n);
    expect(re[0]).toBeCloseTo(50 * n * n, 6);
    expect(re[3]).toBeCloseTo(n * n, 6);
    expect(re[n - 3]).toBeCloseTo(n * n, 6);
    fourier2d(re, im, n, n, true);
    wave(3, 2).forEach((v, i) => expect(re[i]).toBeCloseTo(v, 9));
  });
  it('transforms any size as the definition says', () => {
    const [w, h] = [6, 5];
    const at = (i: number) => Math.sin(i * i) * 3;
    const re = Float64Array.from({ length: w * h }, (_, i) => at(i));
    const im = Float64Array.from({ length: w * h }, (_, i) => at(i + 100));
    const [a, b] = [re.slice(), im.slice()];
    fourier2d(a, b, w, h);
    for (const [kx, ky] of [
      [0, 0],
      [5, 4],
      [2, 3],
    ]) {
      let [r, i] = [0, 0];
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const angle = -2 * Math.PI * ((kx * x) / w + (ky * y) / h);
          r += re[y * w + x] * Math.cos(angle) - im[y * w + x] * Math.sin(angle);
          i += re[y * w + x] * Math.sin(angle) + im[y * w + x] * Math.cos(angle);
        }
      expect(a[ky * w + kx]).toBeCloseTo(r, 9);
      expect(b[ky * w + kx]).toBeCloseTo(i, 9);
    }
    fourier2d(a, b, w, h, true);
    re.forEach((v, i) => expect(a[i]).toBeCloseTo(v, 9));
    im.forEach((v, i) => expect(b[i]).toBeCloseTo(v, 9));
  });
  it('has the closed form of a wave: peak 1 at its period, contrast A/√2 times the transfer of the low-pass', () => {
    const widthM = 8;
    const { peak, everyM, contrast, score } = repetitionOf(wave(4, 6), n, widthM, 1);
    expect(peak).toBeCloseTo(1, 6);
    expect(everyM % 2).toBeCloseTo(0, 6);
    const sigma = Math.tan((5 * Math.PI) / 180) / widthM;
    const expected = (6 / Math.SQRT2) * Math.exp(-2 * (Math.PI * sigma * 4) ** 2);
    expect(contrast).toBeCloseTo(expected, 6);
    expect(score).toBeCloseTo(expected / 5, 6);
  });
  it('falls with the distance, and is nothing for an even picture', () => {
    const near = repetitionOf(wave(4, 6), n, 8, 1).score;
    expect(repetitionOf(wave(4, 6), n, 8, 8).score).toBeLessThan(near / 4);
    expect(repetitionOf(wave(4, 0), n, 8, 1).score).toBe(0);
  });
  it('evens out the light and dark of wide spans and keeps small contrasts and the mean', () => {
    const size = 128;
    const image = makeImage({ width: size, height: size, channels: 3, colourSpace: 'srgb' });
    const grey = (x: number, y: number) => 120 + 30 * Math.cos((2 * Math.PI * x) / size) + ((x + y) % 2 ? 20 : -20);
    for (let i = 0; i < size * size * 3; i++) image.data[i] = Math.round(grey(Math.floor(i / 3) % size, Math.floor(i / 3 / size)));
    const before = tileRepetition(image, 2).score;
    const light = new Float32Array(size * LIGHT_CELLS);
    for (const rows of [
      [0, 10],
      [10, size],
    ] as const)
      sumLight(image, light, rows);
    applyGains(image, evenGains(light, size, 0.06, 1), [0, size]);
    expect(before).toBeGreaterThan(0.5);
    expect(tileRepetition(image, 2).score).toBeLessThan(before / 8);
    // Neighbours on the checkerboard still differ as much as they did, about 40 of 255.
    const steps = Array.from({ length: size - 1 }, (_, x) => Math.abs(image.data[x * 3] - image.data[x * 3 + 3]));
    expect(Math.min(...steps)).toBeGreaterThan(25);
  });
});

describe('half floats', () => {
  it('all come back as the bits they were', () => {
    let wrong = 0;
    for (let h = 0; h < 65536; h++) if (!Number.isNaN(fromHalf(h)) && toHalf(fromHalf(h)) !== h) wrong++;
    expect(wrong).toBe(0);
    expect(toHalf(NaN) & 0x7fff).toBeGreaterThan(0x7c00);
  });
  it('are the nearest to a number, ties to even, infinite past the largest', () => {
    const next = makeRandom(11);
    for (let i = 0; i < 4000; i++) {
      const v = Math.fround((next() - 0.5) * 2 ** Math.floor(next() * 44 - 28));
      const h = toHalf(v);
      const off = Math.abs(fromHalf(h) - v);
      for (const beside of [h - 1, h + 1]) {
        const other = fromHalf(beside & 0xffff);
        if (!Number.isFinite(other)) continue;
        expect(Math.abs(other - v)).toBeGreaterThanOrEqual(off);
        if (Math.abs(other - v) === off) expect(h & 1).toBe(0);
      }
    }
    expect(toHalf(65519.9)).toBe(0x7bff);
    expect(toHalf(65520)).toBe(0x7c00);
    expect(toHalf(-1e9)).toBe(0xfc00);
    expect(toHalf(2 ** -25)).toBe(0);
    expect(toHalf(2 ** -25 * 1.001)).toBe(1);
  });
});
