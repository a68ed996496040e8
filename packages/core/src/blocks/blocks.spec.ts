import * as fc from 'fast-check';
import { decodeBlocks, encodeBlocks } from './index';

/** A block as its bits say, written from the description of the format: nothing of the encoder is used. */
const bitsOf = (block: Uint8Array) => {
  let all = 0n;
  block.forEach((byte, i) => (all |= BigInt(byte) << BigInt(8 * i)));
  let at = 0n;
  return (n: number): number => {
    const value = Number((all >> at) & ((1n << BigInt(n)) - 1n));
    at += BigInt(n);
    return value;
  };
};
function readBc4(block: Uint8Array): number[] {
  const take = bitsOf(block);
  const [a, b] = [take(8), take(8)];
  const levels =
    a > b
      ? [a, b, (6 * a + b) / 7, (5 * a + 2 * b) / 7, (4 * a + 3 * b) / 7, (3 * a + 4 * b) / 7, (2 * a + 5 * b) / 7, (a + 6 * b) / 7]
      : [a, b, (4 * a + b) / 5, (3 * a + 2 * b) / 5, (2 * a + 3 * b) / 5, (a + 4 * b) / 5, 0, 255];
  return Array.from({ length: 16 }, () => levels[take(3)]);
}
function readBc7(block: Uint8Array): number[][] {
  const take = bitsOf(block);
  expect(take(6)).toBe(0);
  expect(take(1)).toBe(1);
  const raw = [0, 1, 2, 3].map(() => [take(7), take(7)]);
  const low = [take(1), take(1)];
  const ends = raw.map((pair) => pair.map((v, e) => v * 2 + low[e]));
  const w = [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64];
  return Array.from({ length: 16 }, (_, t) => {
    const i = take(t === 0 ? 3 : 4);
    return ends.map(([a, b]) => Math.floor(((64 - w[i]) * a + w[i] * b + 32) / 64));
  });
}
const texel = fc.integer({ min: 0, max: 255 });
const plane = fc.array(texel, { minLength: 16, maxLength: 16 });

describe('blocks of 4 × 4', () => {
  it('are read as the formats say, whatever is in them', () => {
    fc.assert(
      fc.property(plane, plane, plane, plane, (r, g, b, a) => {
        const [one] = decodeBlocks(encodeBlocks([r], 4, 4, 'BC4'), 4, 4, 'BC4');
        const said = readBc4(encodeBlocks([r], 4, 4, 'BC4'));
        for (let i = 0; i < 16; i++) expect(one[i]).toBeCloseTo(said[i], 4);
        const colour = encodeBlocks([r, g, b, a], 4, 4, 'BC7');
        const four = decodeBlocks(colour, 4, 4, 'BC7');
        readBc7(colour).forEach((px, t) => px.forEach((v, c) => expect(four[c][t]).toBe(v)));
      }),
      { numRuns: 200 },
    );
  });
  it('of one channel keep what is flat, two numbers, black and white beside anything, and are off by no more than half a level', () => {
    fc.assert(
      fc.property(plane, (values) => {
        const [read] = decodeBlocks(encodeBlocks([values], 4, 4, 'BC4'), 4, 4, 'BC4');
        const [low, high] = [Math.min(...values), Math.max(...values)];
        const squared = values.reduce((sum, v, i) => sum + (read[i] - v) ** 2, 0);
        // Eight levels from the least to the most: each is within half of a seventh.
        expect(squared).toBeLessThanOrEqual(16 * ((high - low) / 14) ** 2 + 1e-6);
      }),
    );
    for (const values of [
      new Array<number>(16).fill(77),
      Array.from({ length: 16 }, (_, i) => (i % 3 ? 12 : 240)),
      Array.from({ length: 16 }, (_, i) => [0, 255, 90, 91][i % 4]),
    ])
      expect([...decodeBlocks(encodeBlocks([values], 4, 4, 'BC4'), 4, 4, 'BC4')[0]]).toEqual(values);
    const ramp = Array.from({ length: 16 }, (_, i) => 20 + 7 * (i % 8));
    expect([...decodeBlocks(encodeBlocks([ramp], 4, 4, 'BC4'), 4, 4, 'BC4')[0]]).toEqual(ramp);
  });
  it('of two channels are two of one', () => {
    fc.assert(
      fc.property(plane, plane, (x, y) => {
        const both = encodeBlocks([x, y], 4, 4, 'BC5');
        expect([...both.subarray(0, 8)]).toEqual([...encodeBlocks([x], 4, 4, 'BC4')]);
        expect([...both.subarray(8)]).toEqual([...encodeBlocks([y], 4, 4, 'BC4')]);
      }),
      { numRuns: 50 },
    );
  });
  it('of four channels are off by at most 1 where a block is flat, and by a thirtieth of a line where it is one', () => {
    fc.assert(
      fc.property(fc.tuple(texel, texel, texel), fc.tuple(texel, texel, texel), plane, (from, to, along) => {
        const planes = [0, 1, 2].map((c) => along.map((k) => Math.round(from[c] + ((to[c] - from[c]) * k) / 255)));
        const read = decodeBlocks(encodeBlocks(planes, 4, 4, 'BC7'), 4, 4, 'BC7');
        const reach = Math.hypot(...from.map((v, c) => to[c] - v));
        let squared = 0;
        for (let c = 0; c < 3; c++) for (let t = 0; t < 16; t++) squared += (read[c][t] - planes[c][t]) ** 2;
        // Sixteen levels are at most a thirteenth of the line apart; ends and rounding cost about 1 a channel.
        expect(Math.sqrt(squared / 16)).toBeLessThanOrEqual(reach / 26 + 2);
        for (let t = 0; t < 16; t++) expect(Math.abs(read[3][t] - 255)).toBeLessThanOrEqual(1);
      }),
    );
    const flat = [13, 200, 77, 255].map((v) => new Array<number>(16).fill(v));
    decodeBlocks(encodeBlocks(flat, 4, 4, 'BC7'), 4, 4, 'BC7').forEach((p, c) =>
      p.forEach((v) => expect(Math.abs(v - flat[c][0])).toBeLessThanOrEqual(1)),
    );
  });
  it('lie row by row, and a picture that is not made of whole ones is refused', () => {
    const width = 12;
    const values = Array.from({ length: width * 8 }, (_, i) => 10 * (Math.floor((i % width) / 4) + 3 * Math.floor(i / width / 4)));
    const blocks = encodeBlocks([values], width, 8, 'BC4');
    expect(Array.from({ length: 6 }, (_, i) => blocks[i * 8])).toEqual([0, 10, 20, 30, 40, 50]);
    expect([...decodeBlocks(blocks, width, 8, 'BC4')[0]]).toEqual(values);
    expect(() => encodeBlocks([values], 6, 16, 'BC4')).toThrowError(/6 × 16 is not made of whole blocks/);
  });
});
