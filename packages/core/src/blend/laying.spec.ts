import fc from 'fast-check';
import type { GBuffer, LayerLaying } from '../index';
import { BLEND_ROLES, EXTRAS, EditPrices, fractalNoise, hash3 } from '../index';
import { blendOf, layerOf, picture, surfaces } from '../testing/layered';

/** The stone on 16 × 16 places, laid in some way; `geometry` says where these lie and how they look. */
const laid = (laying: LayerLaying | undefined, geometry: GBuffer = {}, extentM = 2.4) =>
  picture(blendOf({ a: layerOf('stone', 1, laying ? { laying } : {}) }, { extentM }), 16, { height: 16, geometry });
const N = 256;
const everywhere = (width: number, value: (i: number) => number[]) =>
  Float32Array.from({ length: N * width }, (_, k) => value(Math.floor(k / width))[k % width]);
const same = (a: number[], b: number[], by = 1e-5) =>
  a.forEach((v, i) =>
    expect(Math.abs(v - b[i]))
      .withContext(`place ${i}`)
      .toBeLessThan(by),
  );
const roles = [...BLEND_ROLES];
const unit = (v: number[]) => v.map((c) => c / Math.hypot(...v));
const cross = (a: number[], b: number[]) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

describe('a surface that hides how it lies', () => {
  it('is as usual from near, and so many times larger from afar', () => {
    const far = { times: 3, fromM: 10, toM: 30 };
    const plain = laid(undefined);
    // Nobody looks, as in a bake: that is near.
    for (const role of roles) same(laid({ far }).of(role), plain.of(role));
    const at = (metres: number) => laid({ far }, { viewdistance: everywhere(1, () => [metres]) });
    for (const role of roles) same(at(9.9).of(role), plain.of(role));
    const texcoord = everywhere(2, (i) => [((i % 16) + 0.5) / 16 / 3, (Math.floor(i / 16) + 0.5) / 16 / 3]);
    const larger = laid(undefined, { texcoord });
    for (const role of roles) same(at(31).of(role), larger.of(role), 2e-4);
    // Half way it is half of either.
    const [near, half] = [plain.of('roughness'), at(20).of('roughness')];
    half.forEach((v, i) => expect(v).toBeCloseTo((near[i] + larger.of('roughness')[i]) / 2, 4));
  });
  it('takes turns with itself turned by a quarter, and still repeats with the extent', () => {
    const turns = { atM: 0.8, seed: 3 };
    const [plain, shown] = [laid(undefined), laid({ turns })];
    const other = laid(undefined, {
      texcoord: everywhere(2, (i) => {
        const [u, v] = [((i % 16) + 0.5) / 16, (Math.floor(i / 16) + 0.5) / 16];
        // In repetitions of the stone, which lies once over the extent.
        return [-v + 0.37, u + 0.61];
      }),
    });
    expect(plain.stack.layers[0].repeats).toBe(1);
    let [first, second] = [0, 0];
    const of = (made: typeof plain, i: number) => [0, 1, 2].map((c) => made.of('normal', c)[i]);
    for (let i = 0; i < N; i++) {
      const [a, b, s] = [plain, other, shown].map((made) => made.of('baseColor')[i]);
      expect(s).toBeGreaterThanOrEqual(Math.min(a, b) - 1e-4);
      expect(s).toBeLessThanOrEqual(Math.max(a, b) + 1e-4);
      if (Math.abs(s - a) < 1e-6 && Math.abs(a - b) > 1e-3) {
        first++;
        same(of(shown, i), of(plain, i), 1e-4);
      }
      if (Math.abs(s - b) < 1e-5 && Math.abs(a - b) > 1e-3) {
        second++;
        const [x, y, z] = of(other, i);
        same(of(shown, i), [-y, x, z], 1e-3);
      }
    }
    expect(first).toBeGreaterThan(20);
    expect(second).toBeGreaterThan(20);
    const next = laid({ turns }, { texcoord: everywhere(2, (i) => [((i % 16) + 0.5) / 16 + 1, (Math.floor(i / 16) + 0.5) / 16 - 2]) });
    same(next.of('height'), shown.of('height'), 1e-3);
  });
  it('lies in cells turned and moved by chance, three around every place, and still repeats with the extent', () => {
    const cells = { atM: 0.4, turn: 70, seed: 5 };
    const shown = laid({ cells });
    // Six cells over 2.4 m; written from the formula: a triangle grid, its corners' draws by pcg3d.
    const count = 6;
    const draws = (i: number, j: number): number[] => {
      const stir = (v: number) => (Math.imul(v, 1664525) + 1013904223) | 0;
      const wrap = (v: number, n: number) => ((v % n) + n) % n;
      const v = [stir(wrap(i + (count / 2) * Math.floor(j / count), count)), stir(wrap(j, count)), stir(5)];
      const round = () => {
        v[0] = (v[0] + Math.imul(v[1], v[2])) | 0;
        v[1] = (v[1] + Math.imul(v[2], v[0])) | 0;
        v[2] = (v[2] + Math.imul(v[0], v[1])) | 0;
      };
      round();
      for (let k = 0; k < 3; k++) v[k] ^= v[k] >>> 16;
      round();
      return v.map((word) => (word >>> 8) / 2 ** 24);
    };
    const places = Array.from({ length: N }, (_, i) => {
      const [u, v] = [((i % 16) + 0.5) / 16, (Math.floor(i / 16) + 0.5) / 16];
      // Rows are moved by half a cell each.
      const [x, y] = [u * count - v * count * 0.5, v * count];
      const [i0, j0] = [Math.floor(x), Math.floor(y)];
      const [fx, fy] = [x - i0, y - j0];
      const corners =
        fx + fy <= 1
          ? [
              [0, 0, 1 - fx - fy],
              [0, 1, fy],
              [1, 0, fx],
            ]
          : [
              [1, 1, fx + fy - 1],
              [1, 0, 1 - fy],
              [0, 1, 1 - fx],
            ];
      return corners.map(([di, dj, w]) => {
        const [r, s, t] = draws(i0 + di, j0 + dj);
        const angle = ((70 * (2 * t - 1)) / 180) * Math.PI;
        // About the middle of its cell, which lies at half a cell to the right for every row.
        const [du, dv] = [u - (i0 + di + (j0 + dj) / 2) / count, v - (j0 + dj) / count];
        return { weight: w ** 3, angle, u: du, v: dv, r, s };
      });
    });
    // rotate2d turns (x, y) by an angle: told apart from its opposite by the one that fits.
    const turned = (k: number, way: 1 | -1) =>
      laid(undefined, {
        texcoord: everywhere(2, (i) => {
          const { u, v, r, s, angle } = places[i][k];
          const [c, n] = [Math.cos(way * angle), Math.sin(way * angle)];
          return [c * u - n * v + r, n * u + c * v + s];
        }),
      });
    const expected = (role: 'roughness' | 'height', way: 1 | -1) => {
      const looks = [0, 1, 2].map((k) => turned(k, way).of(role));
      return Array.from({ length: N }, (_, i) => {
        const total = places[i].reduce((sum, p) => sum + p.weight, 0);
        return places[i].reduce((sum, p, k) => sum + (p.weight * looks[k][i]) / total, 0);
      });
    };
    const off = (role: 'roughness' | 'height', way: 1 | -1) =>
      expected(role, way).reduce((most, v, i) => Math.max(most, Math.abs(v - shown.of(role)[i])), 0);
    const way = off('roughness', 1) < off('roughness', -1) ? 1 : -1;
    same(shown.of('roughness'), expected('roughness', way), 2e-3);
    same(shown.of('height'), expected('height', way), 2e-4);
    expect(off('roughness', way === 1 ? -1 : 1)).toBeGreaterThan(0.01);
    const next = laid({ cells }, { texcoord: everywhere(2, (i) => [((i % 16) + 0.5) / 16 + 1, (Math.floor(i / 16) + 0.5) / 16 - 2]) });
    // Within a texel of a rim the nearest cell may be another by rounding, whose weight is nothing there.
    same(next.of('height'), shown.of('height'), 1e-3);
    // Normals are turned back with the surface: they stay of length one, and lean as the relief that is seen does.
    for (let i = 0; i < N; i++) expect(Math.hypot(...[0, 1, 2].map((c) => shown.of('normal', c)[i]))).toBeCloseTo(1, 3);
  });
  it('is lighter and darker in patches, in its colour alone', () => {
    const macro = { by: 0.3, atM: 0.8, seed: 9 };
    const [plain, shown] = [laid(undefined), laid({ macro })];
    for (const role of roles) if (role !== 'baseColor') same(shown.of(role), plain.of(role));
    for (const c of [0, 1, 2])
      shown.of('baseColor', c).forEach((v, i) => {
        const [u, w] = [((i % 16) + 0.5) / 16, (Math.floor(i / 16) + 0.5) / 16];
        const n = fractalNoise(u * 3, w * 3, 3, 9, 3);
        expect(v).toBeCloseTo(Math.min(1, plain.of('baseColor', c)[i] * (1 + 0.3 * (2 * n - 1))), 4);
      });
  });
  it('is looked up from the side where ground is steep, in metres, with normals in the tangents of the mesh', () => {
    const flat = laid({ sides: true });
    for (const role of roles) same(flat.of(role), laid(undefined).of(role), 1e-4);
    fc.assert(
      fc.property(
        fc.constantFrom<number[]>([1, 0, 0], [-1, 0, 0], [0, 0, 1], [0, 0, -1]),
        fc.double({ min: 0, max: 6.2, noNaN: true }),
        (out, turn) => {
          // Any tangent on the wall will do.
          const aside = cross([0, 1, 0], out);
          const t = [0, 1, 2].map((c) => aside[c] * Math.cos(turn) + [0, 1, 0][c] * Math.sin(turn));
          const place = (i: number) => [0, 1, 2].map((c) => (hash3(i, c, 7) / 2 ** 32) * 2);
          const geometry = { position: everywhere(3, (i) => place(i)), normal: everywhere(3, () => out), tangent: everywhere(4, () => [...t, 1]) };
          const wall = laid({ sides: true }, geometry);
          const along = out[0] ? 2 : 0;
          // Straight up is up; what is right is the axis itself, whichever way the wall looks.
          const want = laid(undefined, { texcoord: everywhere(2, (i) => [place(i)[along] / 2.4, -place(i)[1] / 2.4]) });
          for (const role of ['baseColor', 'roughness', 'height'] as const) same(wall.of(role), want.of(role), 2e-3);
          const b = cross(out, t);
          for (let i = 0; i < N; i += 17) {
            const [x, y, z] = [0, 1, 2].map((c) => want.of('normal', c)[i]);
            const world = along === 0 ? [x, y, z * out[2]] : [z * out[0], y, x];
            const local = [0, 1, 2].map((c) => wall.of('normal', c)[i]);
            const seen = unit([0, 1, 2].map((c) => t[c] * local[0] + b[c] * local[1] + out[c] * local[2]));
            same(seen, unit(world), 0.02);
          }
        },
      ),
      { numRuns: 12 },
    );
  });
  it('says its price beforehand: maps are looked up once more, or twice', () => {
    const prices = new EditPrices(blendOf({ a: layerOf('stone', 1) }), surfaces);
    const [far, turns, sides, cells, macro] = (['far', 'turns', 'sides', 'cells', 'macro'] as const).map((extra) => prices.extra(extra, 'a'));
    expect(far.samples).toBeGreaterThan(0);
    expect(turns.samples).toBe(far.samples);
    expect(sides.samples).toBe(2 * far.samples);
    expect(cells.samples).toBe(2 * far.samples);
    expect([macro.samples, macro.operations > 0]).toEqual([0, true]);
    expect(Object.keys(EXTRAS)).toContain('sides');
  });
});
