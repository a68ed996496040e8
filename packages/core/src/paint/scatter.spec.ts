import fc from 'fast-check';
import type { Stamp } from '../index';
import { DEFAULT_STAMP, NO_SCATTER, scattered } from '../index';

const stamp: Stamp = { ...DEFAULT_STAMP, at: [1, 2, 3], radiusM: 0.4, scale: 2, turn: 0.5, tint: '#80c0ff' };
const channels = (hex: string) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16));

describe('stamps scattered by chance', () => {
  it('stay as they are where nothing is left to chance', () => {
    fc.assert(fc.property(fc.nat(), (seed) => expect(scattered(stamp, NO_SCATTER, seed)).toEqual(stamp)));
  });
  it('turn, grow and darken no further than they may, the patch along with its reach, and reach both ends', () => {
    const scatter = { turn: 0.8, scale: 0.5, tint: 0.4 };
    const all = Array.from({ length: 400 }, (_, seed) => scattered(stamp, scatter, seed));
    for (const made of all) {
      expect(Math.abs(made.turn - stamp.turn)).toBeLessThanOrEqual(0.8);
      expect(made.scale / stamp.scale).toBeGreaterThanOrEqual(1 / 1.5);
      expect(made.scale / stamp.scale).toBeLessThanOrEqual(1.5);
      expect(made.radiusM / stamp.radiusM).toBeCloseTo(made.scale / stamp.scale, 12);
      channels(made.tint).forEach((v, c) => {
        const own = channels(stamp.tint)[c];
        expect(v).toBeLessThanOrEqual(own);
        expect(v).toBeGreaterThanOrEqual(Math.floor(own * 0.6));
      });
      expect(made.at).toEqual(stamp.at);
    }
    const [turns, times] = [all.map((s) => s.turn - stamp.turn), all.map((s) => s.scale / stamp.scale)];
    expect(Math.min(...turns)).toBeLessThan(-0.7);
    expect(Math.max(...turns)).toBeGreaterThan(0.7);
    expect(Math.min(...times)).toBeLessThan(0.7);
    expect(Math.max(...times)).toBeGreaterThan(1.4);
    expect(Math.min(...all.map((s) => channels(s.tint)[1]))).toBeLessThan(0.65 * 192);
  });
  it('are the same again from the same seed', () => {
    const scatter = { turn: 3, scale: 1, tint: 1 };
    fc.assert(fc.property(fc.nat(), (seed) => expect(scattered(stamp, scatter, seed)).toEqual(scattered(stamp, scatter, seed))));
  });
});
