import { Kit } from './kit';
import { storedHeight } from './recipe';
import { wear } from '../surface';
import { evaluate, flatDomain, makeImage, histogram } from '../index';
import type { DagNode } from '../index';

const SIZE = 2;
const side = 64;
const draw = (make: (k: Kit) => Record<string, DagNode>, seed = 5) =>
  evaluate(make(new Kit(SIZE, ['stones'])), { domain: flatDomain(side, side), values: { seed: [seed], a_stones: [1] } });

describe('the vocabulary of surfaces', () => {
  it('keeps noise of one octave within 0–1 and about the size that was asked for', () => {
    const [values] = draw((k) => ({ y: k.noise(0.5, 3) }))['y'];
    expect(Math.min(...values)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...values)).toBeLessThan(1);
    // Four cells over the tile: neighbours are alike, places a cell apart are not.
    const step = (d: number) => values.reduce((sum, v, i) => sum + Math.abs(v - values[(i % side) + d < side ? i + d : i]), 0) / values.length;
    expect(step(1)).toBeLessThan(step(16) / 4);
  });
  it('lays blocks in courses: joints at zero, the middle of a block half its height away, one number a block', () => {
    const out = draw((k) => {
      const { edgeM, x, y, id } = k.courses(0.5, 1, 7, 0.3);
      return { edgeM, x, y, id };
    });
    const [edge, y, id] = [out['edgeM'][0], out['y'][0], out['id'][0]];
    expect(Math.max(...edge)).toBeLessThanOrEqual(0.25 + 1e-5);
    expect(Math.min(...edge)).toBeLessThan(0.03);
    for (let i = 0; i < y.length; i++) {
      expect(Math.abs(y[i])).toBeLessThanOrEqual(0.25 + 1e-5);
      expect(edge[i]).toBeLessThanOrEqual(0.25 - Math.abs(y[i]) + 1e-5);
    }
    // Two blocks a course, four courses, and what is in a block keeps its number: few numbers, each in a run.
    expect(new Set(id.map((v) => Math.round(v * 1e6))).size).toBeLessThanOrEqual(12);
    const row = id.subarray(8 * side, 9 * side);
    const changes = row.filter((v, i) => i > 0 && v !== row[i - 1]).length;
    expect(changes).toBeLessThanOrEqual(3);
  });
  it('falls where a rise is written from high to low, and steps where it says', () => {
    const out = draw((k) => {
      const u = k.part(k.uv, 0);
      return { up: k.rise(u, 0.25, 0.75), down: k.rise(u, 0.75, 0.25), step: k.step(u, 0.5) };
    });
    for (let x = 0; x < side; x++) {
      const [u, up, down] = [(x + 0.5) / side, out['up'][0][x], out['down'][0][x]];
      expect(up + down).toBeCloseTo(1, 5);
      if (u < 0.25) expect(up).toBe(0);
      if (u > 0.75) expect(up).toBe(1);
      expect(out['step'][0][x]).toBe(u >= 0.5 ? 1 : 0);
    }
  });
  it('goes through the colours of a ramp in linear light', () => {
    const out = draw((k) => ({ y: k.ramp(k.part(k.uv, 0), ['#000000', '#ffffff', '#ff0000']) }))['y'];
    expect(out[0][0]).toBeLessThan(0.03);
    expect(out[1][side / 2]).toBeGreaterThan(0.95);
    expect([out[0][side - 1] > 0.97, out[1][side - 1] < 0.03]).toEqual([true, true]);
  });
  it('joins two heights with a rounded valley that is never lower than either', () => {
    const out = draw((k) => {
      const [p, q] = [k.noise(0.4, 1), k.noise(0.4, 2)];
      return { p, q, over: k.over(p, q, 0.2) };
    });
    out['over'][0].forEach((v, i) => {
      const most = Math.max(out['p'][0][i], out['q'][0][i]);
      expect(v).toBeGreaterThanOrEqual(most - 1e-6);
      expect(v).toBeLessThanOrEqual(most + 0.05 + 1e-6);
    });
  });
  it('knows only the structures of its surface', () => {
    expect(() => new Kit(1, ['stones']).amount('stone')).toThrowError(RangeError, /no structure stone/);
  });
});

describe('heights', () => {
  it('are stored straight in the middle and bent so that they never reach 0 or 1, always rising', () => {
    const facts = { sizeM: 1, reliefM: 0.1, mid: 0.4 };
    const out = draw((k) => {
      const metres = k.mul(k.sub(k.part(k.uv, 0), 0.5), 0.4);
      return { t: storedHeight(k, metres, facts), plain: k.add(k.div(metres, 0.1), 0.4) };
    });
    const [t, plain] = [out['t'][0].subarray(0, side), out['plain'][0].subarray(0, side)];
    for (let x = 0; x < side; x++) {
      expect(t[x]).toBeGreaterThan(0);
      expect(t[x]).toBeLessThan(1);
      if (plain[x] > 0.04 && plain[x] < 0.96) expect(t[x]).toBeCloseTo(plain[x], 5);
      if (x) expect(t[x]).toBeGreaterThan(t[x - 1]);
    }
  });
  it('are worn where they stand proud, filled half as much where they are hollow, kept where they are even', () => {
    const n = 32;
    const rough = new Float32Array(n * n).fill(0.01);
    rough[5 * n + 5] = 0.03;
    rough[20 * n + 20] = -0.01;
    const worn = wear(rough, n, 0.01, { radiusM: 0.03, amount: 0.8 }, [4, n]);
    const at = (y: number, x: number) => worn[(y - 4) * n + x];
    const lowered = rough[5 * n + 5] - at(5, 5);
    const raised = at(20, 20) - rough[20 * n + 20];
    expect(lowered).toBeGreaterThan(0.01);
    expect(raised / lowered).toBeCloseTo(0.5, 2);
    expect(at(12, 12)).toBeCloseTo(0.01, 7);
  });
});

describe('a histogram', () => {
  it('counts every pixel once, ends included, for each channel of any depth', () => {
    const image = makeImage({ width: 2, height: 2, channels: 3, data: Uint8Array.of(0, 255, 128, 0, 255, 128, 255, 0, 128, 10, 250, 128) });
    const [r, g, b] = histogram(image, 4);
    expect(r).toEqual([0.75, 0, 0, 0.25]);
    expect(g).toEqual([0.25, 0, 0, 0.75]);
    expect(b).toEqual([0, 0, 1, 0]);
    const deep = makeImage({ width: 2, height: 1, channels: 1, depth: 16, data: Uint16Array.of(65535, 0) });
    expect(
      histogram(deep, 64)[0]
        .map((v, i) => (v ? i : -1))
        .filter((i) => i >= 0),
    ).toEqual([0, 63]);
  });
});
