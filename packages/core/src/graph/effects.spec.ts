import * as fc from 'fast-check';
import { decodeBlocks, encodeBlocks } from '../blocks';
import type { Sources } from '../compile';
import { sourcesOfMaps } from '../compile';
import { linkTo, makeOperation, valueOf } from '../document';
import { makeImage } from '../image';
import { NOTHING, graph, outputOf } from '../testing/graphs';

describe('a gauge', () => {
  const SIDE = 80;
  /** Ten bands of eight texels, the first of them outside: band k holds k/10 in 8 bits. */
  const mask = Uint8Array.from({ length: SIDE * SIDE }, (_, i) => Math.round((255 * (1 + Math.floor((i % SIDE) / 8))) / 10));
  const gauge = (level: number, data: Uint8Array, output: 'out' | 'step' = 'out') => {
    const d = graph(
      {
        m: makeOperation('image', 1, { settings: { surface: 's', role: 'roughness' } }),
        g: makeOperation('gauge', 2, { inputs: { mask: linkTo('m'), level: valueOf(level), steps: valueOf(10) } }),
        half: makeOperation('multiply', 3, { inputs: { in1: linkTo('g', output), in2: valueOf(output === 'out' ? 1 : 0.05) } }),
      },
      { roughness: linkTo('half') },
    );
    const image = makeImage({ width: SIDE, height: SIDE, channels: 1, data });
    const sources: Sources = (_, channel) => sourcesOfMaps({ roughness: image })(channel)!;
    const facts = { sizeM: 1, reliefM: 0, mid: 0.5, roles: new Set(['roughness'] as const) };
    // A texel a place: what lies between two bands is another matter.
    return outputOf(d, 'roughness', SIDE, { ...NOTHING, surfaces: { s: facts } }, sources)[0];
  };
  /** Bands by their middles. */
  const bands = (plane: Float32Array) => Array.from({ length: 10 }, (_, k) => plane[SIDE * 40 + k * 8 + 3]);

  it('at 0.75 of ten steps has seven full, the eighth half, two empty', () => {
    bands(gauge(0.75, mask)).forEach((v, k) => expect(v).toBeCloseTo(k < 7 ? 1 : k === 7 ? 0.5 : 0, 5));
    bands(gauge(0.75, mask, 'step')).forEach((v, k) => expect(v).toBeCloseTo((k + 1) * 0.05, 5));
  });
  it('is the same after block compression of one channel', () => {
    const [read] = decodeBlocks(encodeBlocks([mask], SIDE, SIDE, 'BC4'), SIDE, SIDE, 'BC4');
    const kept = gauge(
      0.75,
      Uint8Array.from(read, (v) => Math.round(v)),
    );
    expect([...kept]).toEqual([...gauge(0.75, mask)]);
  });
  it('is worked out as its formula says, wherever the mask and the level are', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 1, max: 64 }),
        (m, level, steps) => {
          const f = Math.fround;
          const k = Math.floor(f(f(f(m) * steps) + 0.5));
          // A mask right between two steps may fall to either.
          fc.pre(Math.abs(f(f(m) * steps) + 0.5 - Math.round(f(m) * steps + 0.5)) > 1e-4);
          const d = graph(
            { g: makeOperation('gauge', 1, { inputs: { mask: valueOf(m), level: valueOf(level), steps: valueOf(steps) } }) },
            { roughness: linkTo('g') },
          );
          expect(outputOf(d, 'roughness', 1)[0][0]).toBeCloseTo(k < 1 ? 0 : Math.min(1, Math.max(0, level * steps - k + 1)), 4);
        },
      ),
      { numRuns: 60 },
    );
  });
});
